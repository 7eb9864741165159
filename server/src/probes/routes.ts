import type { Router } from 'express';
import type { OutpostDoor as DoorView } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { ProbeKeeping } from './keeping.js';
import { readersOf } from './readers.js';

const done = { done: true } as const;

export function probeRoutes(
  router: Router,
  findActor: FindActor,
  db: Database,
  keeping: ProbeKeeping,
  door: () => DoorView,
): void {
  const probeIn = (params: Readonly<Record<string, string>>): string => params['probeId'] ?? '';
  serve(router, findActor, 'probes', async () => ({ door: door(), ...(await keeping.view()) }));
  serve(router, findActor, 'deviceReaders', ({ params }) => readersOf(db, params['deviceId'] ?? ''));
  serve(router, findActor, 'addProbe', ({ body }, { name }) => keeping.add(body, name));
  serve(router, findActor, 'putProbe', async ({ params, body }, { name }) => {
    await keeping.put(probeIn(params), body, name);
    return done;
  });
  serve(router, findActor, 'removeProbe', async ({ params }, { name }) => {
    await keeping.remove(probeIn(params), name);
    return done;
  });
}
