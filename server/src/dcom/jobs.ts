import { routes } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import { notFound } from '../http/problems.js';
import { parsedText } from '../http/parsed.js';
import type { SentBody } from '../http/serve.js';
import { readMachineFiles } from './read-files.js';
import { addExport, placedMachine } from './store.js';
import { dcomDifferencesOf, dcomMachinesOf, dcomViewOf } from './views.js';

/** What workers do for DCOM: exports are large, and rights of hundreds of applications are worked out. */
export const dcomJobs = {
  dcomMachines: (db: Database) => dcomMachinesOf(db),
  dcomView: (
    db: Database,
    { machineId, exportId }: { readonly machineId: string; readonly exportId?: number | undefined },
  ) => dcomViewOf(db, machineId, exportId),
  dcomDifferences: (
    db: Database,
    wish: { readonly machineId: string; readonly before: number; readonly after: number },
  ) => dcomDifferencesOf(db, wish.machineId, wish.before, wish.after),
  importMachineSettings: async (
    db: Database,
    { machineId, text, actor }: SentBody & { readonly machineId: string },
  ) => {
    if (!(await placedMachine(db, machineId))) throw notFound('machine', machineId);
    const read = readMachineFiles(parsedText(routes.importMachineSettings.body, text));
    await db.transaction(async (tx) => {
      const id = await addExport(tx, machineId, actor, read);
      const details = { export: id, files: read.files.map(({ name }) => name) };
      await appendAudit(tx, { actor, action: 'machine settings imported', subject: machineId, details });
    });
    return dcomViewOf(db, machineId);
  },
} as const;
export type DcomJobs = typeof dcomJobs;
