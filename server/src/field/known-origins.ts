import { openingToDevice } from '@loyal-hinge/core';
import type { Fact, FactOf, LinkInPlant, Machine } from '@loyal-hinge/core';
import { wordsOf } from '@loyal-hinge/core/field';
import { inArray } from 'drizzle-orm';
import type { Queryable } from '../database/database.js';
import { machines } from '../database/schema.js';
import type { KnownPassage } from '../passage/known.js';
import { judgedOpening } from '../passage/ways.js';
import type { KnownOrigin } from '../probe/field/means.js';
import { statedOrigins } from './origins/stated.js';

/** Where the values of a link’s items come from, with what a walk needs to go there. @param earlier facts of the check before */
export async function knownOrigins(
  db: Queryable,
  passage: KnownPassage,
  { server, serverMachine }: LinkInPlant,
  earlier: readonly Fact[],
): Promise<readonly KnownOrigin[]> {
  const origins = await statedOrigins(db, server.id);
  if (origins.length === 0) return [];
  const ids = [...new Set(origins.map(({ origin }) => origin.deviceId))];
  const devices = new Map(
    (await db.select().from(machines).where(inArray(machines.id, ids))).map((machine) => [machine.id, machine]),
  );
  const stops = new Map<string, KnownOrigin['stoppedBy']>();
  return origins.map(({ path, origin }) => {
    const device = devices.get(origin.deviceId) ?? null;
    const way = `${origin.deviceId}:${origin.port}`;
    const stoppedBy = stops.get(way) ?? (device ? stopsBetween(passage, serverMachine, device, origin.port) : []);
    stops.set(way, stoppedBy);
    return { path, origin, device, stoppedBy, before: saidBefore(earlier, path) };
  });
}

function stopsBetween(passage: KnownPassage, from: Machine, to: Machine, port: number): KnownOrigin['stoppedBy'] {
  const judged = judgedOpening(passage, openingToDevice(from, to, port));
  return (judged?.hops ?? [])
    .filter(({ verdict }) => verdict === 'drop' || verdict === 'reject')
    .map(({ hop, rule }) => ({ name: hop.device.name, rule: rule?.text ?? null }));
}

/** What the register of an item said in the check before, and since when it did. */
function saidBefore(earlier: readonly Fact[], path: string): KnownOrigin['before'] {
  const is = <Kind extends 'field-compared' | 'field-origin' | 'field-unmoved'>(kind: Kind) =>
    earlier.findLast((fact): fact is FactOf<Kind> => fact.kind === kind && 'path' in fact && fact.path === path);
  const [compared, origin, unmoved] = [is('field-compared'), is('field-origin'), is('field-unmoved')];
  const last = compared?.samples.at(-1);
  if (!compared || !origin || !unmoved || !last) return null;
  const from = origin.place - compared.first;
  return { words: last.words.slice(from, from + wordsOf(origin.form)), since: unmoved.since, checks: unmoved.checks };
}
