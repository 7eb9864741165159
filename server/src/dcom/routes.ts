import type { Router } from 'express';
import type { EventLog } from '../events/event-log.js';
import type { Runs } from '../heavy/jobs.js';
import { numberIn, serve, serveLarge } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { DcomJobs } from './jobs.js';

/** @param afterImport called once new settings of a machine are known */
export function dcomRoutes(
  router: Router,
  findActor: FindActor,
  heavy: Runs<DcomJobs>,
  events: EventLog,
  afterImport: () => Promise<void>,
): void {
  const machineIn = (params: Readonly<Record<string, string>>): string => params['machineId'] ?? '';
  serve(router, findActor, 'dcomMachines', ({ signal }) => heavy.run('dcomMachines', undefined, signal));
  serve(router, findActor, 'dcomMachine', ({ params, query, signal }) =>
    heavy.run('dcomView', { machineId: machineIn(params), exportId: query['export'] as number | undefined }, signal),
  );
  serveLarge(router, findActor, 'importMachineSettings', async ({ text, params, signal }, { name: actor }) => {
    const machineId = machineIn(params);
    const view = await heavy.run('importMachineSettings', { machineId, text, actor }, signal);
    await events.tell({ kind: 'dcom-changed', machineId });
    await afterImport();
    return view;
  });
  serve(router, findActor, 'compareMachineSettings', ({ params, signal }) => {
    const [before, after] = [numberIn(params, 'before', 'export'), numberIn(params, 'after', 'export')];
    return heavy.run('dcomDifferences', { machineId: machineIn(params), before, after }, signal);
  });
}
