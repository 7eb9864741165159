import type { Router } from 'express';
import { gatewayItemsWish } from '@loyal-hinge/contract';
import type { OutpostDoor as DoorView } from '@loyal-hinge/contract';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { GatewayItems } from './items.js';
import type { GatewayKeeping } from './keeping.js';
import type { RelayKeeping } from './relay-keeping.js';
import type { GatewayViews } from './views.js';

const done = { done: true } as const;

interface GatewayParts {
  readonly keeping: GatewayKeeping;
  readonly relays: RelayKeeping;
  readonly views: GatewayViews;
  readonly items: GatewayItems;
}

export function gatewayRoutes(
  router: Router,
  findActor: FindActor,
  { keeping, relays, views, items }: GatewayParts,
  door: () => DoorView,
): void {
  const gatewayIn = (params: Readonly<Record<string, string>>): string => params['gatewayId'] ?? '';
  const relayIn = (params: Readonly<Record<string, string>>): string => params['relayId'] ?? '';

  serve(router, findActor, 'gateways', async () => ({ door: door(), ...(await views.all()) }));
  serve(router, findActor, 'gateway', async ({ params }) => ({
    door: door(),
    ...(await views.one(gatewayIn(params))),
  }));
  serve(router, findActor, 'gatewayItems', ({ params, query, signal }) =>
    items.look(gatewayIn(params), gatewayItemsWish.parse(query), signal),
  );
  serve(router, findActor, 'addGateway', ({ body }, { name }) => keeping.add(body, name));
  serve(router, findActor, 'putGateway', async ({ params, body }, { name }) => {
    await keeping.putOne(gatewayIn(params), body, name);
    return done;
  });
  serve(router, findActor, 'removeGateway', async ({ params }, { name }) => {
    await keeping.remove(gatewayIn(params), name);
    return done;
  });
  serve(router, findActor, 'putGatewayPlaces', async ({ params, body }, { name }) => {
    await keeping.putPlaces(gatewayIn(params), body.places, name);
    return done;
  });
  serve(router, findActor, 'addRelay', ({ params, body }, { name }) => relays.add(gatewayIn(params), body, name));
  serve(router, findActor, 'putRelay', async ({ params, body }, { name }) => {
    await relays.put(gatewayIn(params), relayIn(params), body, name);
    return done;
  });
  serve(router, findActor, 'removeRelay', async ({ params }, { name }) => {
    await relays.remove(gatewayIn(params), relayIn(params), name);
    return done;
  });
  serve(router, findActor, 'relaysCsv', ({ params }) => relays.csv(gatewayIn(params)));
  serve(router, findActor, 'importRelays', ({ params, body }, { name }) =>
    relays.takeCsv(gatewayIn(params), body.csv, name),
  );
}
