import { inArray } from 'drizzle-orm';
import { sayTunnelChange } from '@loyal-hinge/core';
import type { TunnelChange } from '@loyal-hinge/core';
import type { Database } from '../../database/database.js';
import { machines } from '../../database/schema.js';
import { assessmentOf, factsOfCheck } from '../../facts/store.js';
import type { ChangeWords } from '../../orders/port.js';
import type { LineRow } from '../../orders/store.js';
import { findOutpost } from '../../outposts/store.js';
import { endSeen } from '../known.js';

/** What is done at the machines of a tunnel, as work orders show and prove it. */
export const tunnelWords: ChangeWords<TunnelChange> = {
  async say(db, lines) {
    const ids = [...new Set(lines.map(({ change }) => change.machineId))];
    const named =
      ids.length === 0
        ? []
        : await db.select({ id: machines.id, name: machines.name }).from(machines).where(inArray(machines.id, ids));
    const names = new Map(named.map(({ id, name }) => [id, name]));
    return lines.map(({ change }) => ({
      ...sayTunnelChange(change, names.get(change.machineId) ?? change.machineId),
      way: 'by hand',
      restart: false,
      signedHere: false,
    }));
  },
  async holding(db, lines) {
    const held = await Promise.all(lines.map((line) => holds(db, line)));
    return lines.filter((_, index) => held[index]).map(({ position }) => position);
  },
  asTheyLie: (_, lines) => Promise.resolve(lines),
};

async function holds(db: Database, { change, at }: LineRow<TunnelChange>): Promise<boolean> {
  // What was told before the change was made proves nothing of it.
  const isLater = (when: string | null): boolean => when !== null && at !== null && Date.parse(when) > Date.parse(at);
  if ('outpostId' in change) {
    const outpost = await findOutpost(db, change.outpostId);
    const seen = outpost ? endSeen(outpost) : null;
    return change.kind === 'set-up-tunnel-end'
      ? seen?.state === 'joined' && seen.fault === null && isLater(seen.heardAt)
      : at !== null && (seen === null || seen.state === 'away');
  }
  const kept = await assessmentOf(db, change.linkId);
  if (!kept || !isLater(kept.at)) return false;
  const facts = await factsOfCheck(db, kept.checkId);
  const isThrough = facts.some((fact) => fact.kind === 'tunnel' && fact.tunnelId === change.tunnelId);
  const isGreeted = facts.some((fact) => fact.kind === 'hello' && fact.outcome === 'acknowledged');
  return isGreeted && isThrough === (change.kind === 'lead-through-tunnel');
}
