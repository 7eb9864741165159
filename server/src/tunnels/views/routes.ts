import type { Router } from 'express';
import type { OutpostDoor as DoorView, ProposedOrder, WorkOrder } from '@loyal-hinge/contract';
import type { Runs } from '../../heavy/jobs.js';
import { serve } from '../../http/serve.js';
import type { Actor, FindActor } from '../../http/serve.js';
import type { TunnelKeeping } from '../keeping.js';
import type { TunnelJobs } from './jobs.js';

const done = { done: true } as const;

export function tunnelRoutes(
  router: Router,
  findActor: FindActor,
  heavy: Runs<TunnelJobs>,
  keeping: TunnelKeeping,
  door: () => DoorView,
  propose: (order: ProposedOrder, actor: Actor) => Promise<WorkOrder>,
): void {
  const tunnelIn = (params: Readonly<Record<string, string>>): string => params['tunnelId'] ?? '';

  serve(router, findActor, 'tunnels', async ({ signal }) => ({
    door: door(),
    ...(await heavy.run('tunnelsView', undefined, signal)),
  }));
  serve(router, findActor, 'tunnel', async ({ params, signal }) => ({
    door: door(),
    ...(await heavy.run('tunnelView', { tunnelId: tunnelIn(params) }, signal)),
  }));
  serve(router, findActor, 'tunnelChoices', ({ params, signal }) =>
    heavy.run('tunnelChoices', { tunnelId: tunnelIn(params) }, signal),
  );
  serve(router, findActor, 'addTunnel', ({ body }, { name }) => keeping.add(body, name));
  serve(router, findActor, 'putTunnel', async ({ params, body }, { name }) => {
    await keeping.put(tunnelIn(params), body, name);
    return done;
  });
  serve(router, findActor, 'removeTunnel', async ({ params }, { name }) => {
    await keeping.remove(tunnelIn(params), name);
    return done;
  });
  serve(router, findActor, 'leadThroughTunnel', async ({ params, body }, { name }) => {
    await keeping.lead(tunnelIn(params), body, name);
    return done;
  });
  serve(router, findActor, 'leadStraight', async ({ params }, { name }) => {
    await keeping.leadStraight(tunnelIn(params), params['linkId'] ?? '', name);
    return done;
  });
  serve(router, findActor, 'tunnelOrder', async ({ params, signal }, actor) =>
    propose(await heavy.run('tunnelOrderLines', { tunnelId: tunnelIn(params) }, signal), actor),
  );
  serve(router, findActor, 'takeDownTunnel', async ({ params, signal }, actor) =>
    propose(await heavy.run('takingDownLines', { tunnelId: tunnelIn(params) }, signal), actor),
  );
  serve(router, findActor, 'tunnelEndBundle', ({ params }) => keeping.bundle(params['outpostId'] ?? ''));
}
