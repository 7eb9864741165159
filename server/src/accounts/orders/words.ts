import { inArray } from 'drizzle-orm';
import { accessChangeHolds, sayAccessChange } from '@loyal-hinge/core';
import type { AccessChange } from '@loyal-hinge/core';
import type { Database } from '../../database/database.js';
import { applications } from '../../database/schema.js';
import type { ChangeWords } from '../../orders/port.js';
import type { LineRow } from '../../orders/store.js';
import { namesOf } from '../../plant/part.js';
import { allWays } from '../../trust/lists/ways.js';
import { seenAccess } from '../store.js';
import type { SeenAccess } from '../store.js';
import { allTries } from '../tries/store.js';

const serversOf = (lines: readonly { readonly change: AccessChange }[]): string[] => [
  ...new Set(lines.map(({ change }) => change.serverId)),
];

/** Changes of roles, users and passwords, as work orders show and prove them. */
export const accountWords: ChangeWords<AccessChange> = {
  async say(db, lines) {
    const serverIds = serversOf(lines);
    const [names, ways] = await Promise.all([namesOf(db, serverIds), allWays(db, serverIds)]);
    return lines.map(({ change }) => ({
      ...sayAccessChange(change, names.get(change.serverId) ?? change.serverId),
      way: ways.get(change.serverId)?.way === 'push' ? 'push' : 'by hand',
      restart: false,
      signedHere: false,
    }));
  },
  async holding(db, lines) {
    const [seen, letIn] = await Promise.all([seenAccess(db, serversOf(lines)), lastLetIn(db, lines)]);
    return lines
      .filter((line) =>
        line.change.kind === 'change-password'
          ? isAfter(letIn.get(accountKey(line.change)), line)
          : isSeen(seen.get(line.change.serverId), line),
      )
      .map(({ position }) => position);
  },
  /** What is set takes the place of what was read last. */
  async asTheyLie(db, lines) {
    const seen = await seenAccess(db, serversOf(lines));
    return lines.map((line) => {
      const { change } = line;
      const users = seen.get(change.serverId)?.access.users;
      if (change.kind !== 'change-user' || !users) return line;
      const user = users.find(({ userName }) => userName === change.userName);
      const before = user ? { flags: user.flags, description: user.description } : null;
      return { ...line, change: { ...change, before } };
    });
  },
};

type Line = LineRow<AccessChange>;

/** What was read before the change was made proves nothing of it. */
const isSeen = (known: SeenAccess | undefined, line: Line): boolean =>
  known !== undefined && isAfter(known.seenAt, line) && accessChangeHolds(line.change, known.access);

const isAfter = (seenAt: string | null | undefined, { at }: Line): boolean =>
  Boolean(seenAt) && at !== null && Date.parse(seenAt ?? '') > Date.parse(at);

const accountKey = ({ serverId, userName }: { readonly serverId: string; readonly userName: string }): string =>
  JSON.stringify([serverId, userName]);

/** By account, when the server let it in last. */
async function lastLetIn(db: Database, lines: readonly Line[]): Promise<ReadonlyMap<string, string | null>> {
  const serverIds = serversOf(lines.filter(({ change }) => change.kind === 'change-password'));
  if (serverIds.length === 0) return new Map();
  const [servers, tries] = await Promise.all([
    db
      .select({ id: applications.id, uri: applications.applicationUri })
      .from(applications)
      .where(inArray(applications.id, serverIds)),
    allTries(db),
  ]);
  const idOf = new Map(servers.map(({ id, uri }) => [uri, id]));
  return new Map(
    tries.map(({ applicationUri, userName, signedInAt }) => [
      accountKey({ serverId: idOf.get(applicationUri) ?? '', userName }),
      signedInAt,
    ]),
  );
}
