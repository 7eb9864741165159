import { FactBook, sayMappingChange, valuesBehind } from '@loyal-hinge/core';
import type { MappingChange } from '@loyal-hinge/core';
import { eq } from 'drizzle-orm';
import type { Queryable } from '../../database/database.js';
import { links } from '../../database/schema.js';
import { assessmentOf, factsOfCheck } from '../../facts/store.js';
import type { ChangeWords } from '../../orders/port.js';
import { namesOf } from '../../plant/part.js';

/** What a server reads of devices, as work orders show and prove it. */
export const mappingWords: ChangeWords<MappingChange> = {
  async say(db, lines) {
    const names = await namesOf(
      db,
      lines.map(({ change }) => change.serverId),
    );
    return lines.map(({ change }) => ({
      ...sayMappingChange(change, names.get(change.serverId) ?? change.serverId),
      way: 'by hand',
      restart: false,
      signedHere: false,
    }));
  },
  async holding(db, lines) {
    const agreeing = new Map<string, ReadonlyMap<string, number>>();
    for (const { change } of lines)
      if (!agreeing.has(change.serverId)) agreeing.set(change.serverId, await agreedAt(db, change.serverId));
    return lines
      .filter(({ change, at }) => {
        const seen = agreeing.get(change.serverId)?.get(change.path);
        // What was compared before the change was made proves nothing of it.
        return seen !== undefined && at !== null && seen > Date.parse(at);
      })
      .map(({ position }) => position);
  },
  asTheyLie: (_, lines) => Promise.resolve(lines),
};

/** When the newest check of a link of this server saw each item agree with its device. */
async function agreedAt(db: Queryable, serverId: string): Promise<ReadonlyMap<string, number>> {
  const agreed = new Map<string, number>();
  for (const { id } of await db.select({ id: links.id }).from(links).where(eq(links.serverId, serverId))) {
    const kept = await assessmentOf(db, id);
    if (!kept) continue;
    const facts = await factsOfCheck(db, kept.checkId);
    const seen = Math.max(0, ...facts.filter(({ kind }) => kind === 'field-compared').map(({ at }) => Date.parse(at)));
    for (const { path, agrees } of valuesBehind(new FactBook(facts)))
      if (agrees) agreed.set(path, Math.max(seen, agreed.get(path) ?? 0));
  }
  return agreed;
}
