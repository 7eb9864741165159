import type { Router } from 'express';
import { numberIn, serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { OrderCarrier } from './carry-out.js';
import type { WorkOrders } from './service.js';
import type { OrderUndoing } from './undoing.js';

const idIn = (params: Readonly<Record<string, string>>): string => params['id'] ?? '';

export function orderRoutes(
  router: Router,
  findActor: FindActor,
  orders: WorkOrders,
  carrier: OrderCarrier,
  undoing: OrderUndoing,
): void {
  serve(router, findActor, 'orders', async () => ({ orders: await orders.rows() }));
  serve(router, findActor, 'order', ({ params }) => orders.one(idIn(params)));
  serve(router, findActor, 'proposeOrder', ({ body }, actor) => orders.propose(body, actor));
  serve(router, findActor, 'approveOrder', ({ params }, actor) => orders.approve(idIn(params), actor));
  serve(router, findActor, 'withdrawOrder', ({ params }, actor) => orders.withdraw(idIn(params), actor));
  serve(router, findActor, 'carryOutOrder', ({ params, body }, actor) =>
    carrier.begin(idIn(params), body.passphrase, actor),
  );
  serve(router, findActor, 'lineDoneByHand', ({ params }, actor) =>
    carrier.doneByHand(idIn(params), numberIn(params, 'position', 'line'), actor),
  );
  serve(router, findActor, 'undoLine', ({ params }, actor) =>
    undoing.undo(idIn(params), numberIn(params, 'position', 'line'), actor),
  );
}
