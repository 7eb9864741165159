import { appIds, permissionAt, sayDcomChange } from '@loyal-hinge/core';
import type { DcomChange } from '@loyal-hinge/core';
import type { Queryable } from '../../database/database.js';
import type { ChangeWords } from '../../orders/port.js';
import { newestExport, placedMachine } from '../store.js';
import type { KeptExport } from '../store.js';

/** Changes of permissions, as work orders show and prove them. */
export const dcomWords: ChangeWords<DcomChange> = {
  async say(db, lines) {
    const names = await byMachine(db, lines, async (tx, id) => (await placedMachine(tx, id))?.machine ?? id);
    return lines.map(({ change }) => ({
      ...sayDcomChange(change, names.get(change.machineId) ?? change.machineId),
      way: 'by hand',
      // A machine’s limit counts from the next launch; what an application has, once it is started anew.
      restart: change.path.startsWith(appIds),
      signedHere: false,
    }));
  },
  async holding(db, lines) {
    const newest = await byMachine(db, lines, newestExport);
    return lines
      .filter(({ change, at }) => {
        const kept = newest.get(change.machineId);
        // What was exported before the change was made proves nothing of it.
        return (
          kept &&
          at !== null &&
          Date.parse(kept.about.takenAt) > Date.parse(at) &&
          permissionAt(kept.settings, change) === change.after
        );
      })
      .map(({ position }) => position);
  },
  async asTheyLie(db, lines) {
    const newest = await byMachine(db, lines, newestExport);
    return lines.map((line) => {
      const kept: KeptExport | null | undefined = newest.get(line.change.machineId);
      const before = kept ? permissionAt(kept.settings, line.change) : undefined;
      return before === undefined ? line : { ...line, change: { ...line.change, before } };
    });
  },
};

/** Something of each machine that lines change. */
async function byMachine<Known>(
  db: Queryable,
  lines: readonly { readonly change: DcomChange }[],
  find: (db: Queryable, machineId: string) => Promise<Known>,
): Promise<ReadonlyMap<string, Known>> {
  const ids = [...new Set(lines.map(({ change }) => change.machineId))];
  return new Map(await Promise.all(ids.map(async (id) => [id, await find(db, id)] as const)));
}
