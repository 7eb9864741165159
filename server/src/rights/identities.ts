import { and, asc, eq } from 'drizzle-orm';
import { signInNameOf } from '@loyal-hinge/core';
import type { NeededItem } from '@loyal-hinge/core';
import type { RightsServer } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { ofThese } from '../database/of-these.js';
import { applications, links, machines } from '../database/schema.js';
import { knownEndpoints } from '../facts/endpoints.js';
import { notFound } from '../http/problems.js';
import { newestByServer } from './store.js';

/** Somebody who signs in at a server, by some links; by none where it is nobody, whom the server lets in. */
export interface ServerIdentity {
  /** Empty: anonymous. */
  readonly userName: string;
  readonly links: readonly { readonly id: string; readonly name: string; readonly needs: readonly NeededItem[] }[];
  /** The link by which a session is opened. */
  readonly by: string;
}

export interface ServerWithIdentities {
  readonly id: string;
  readonly name: string;
  readonly machine: string;
  readonly machineId: string;
  readonly identities: readonly ServerIdentity[];
}

/** Some servers with links, or all, and who signs in there: without a name wherever a server was seen to let nobody in by name. */
export async function serversWithIdentities(
  db: Database,
  serverIds?: readonly string[],
): Promise<readonly ServerWithIdentities[]> {
  const [servers, wanted, seen] = await Promise.all([
    db
      .select({ id: applications.id, name: applications.name, machine: machines.name, machineId: machines.id })
      .from(applications)
      .innerJoin(machines, eq(machines.id, applications.machineId))
      .where(and(eq(applications.kind, 'server'), eq(applications.speaks, 'ua'), ofThese(applications.id, serverIds)))
      .orderBy(asc(applications.name)),
    db
      .select({
        id: links.id,
        name: links.name,
        serverId: links.serverId,
        identity: links.identity,
        needs: links.needs,
      })
      .from(links)
      .where(and(eq(links.kind, 'ua'), ofThese(links.serverId, serverIds)))
      .orderBy(asc(links.name)),
    knownEndpoints(db, serverIds),
  ]);
  const byServer = new Map<string, typeof wanted>();
  for (const link of wanted) {
    const own = byServer.get(link.serverId);
    if (own) own.push(link);
    else byServer.set(link.serverId, [link]);
  }
  return servers.flatMap((server) => {
    const own = byServer.get(server.id) ?? [];
    const [first] = own;
    if (!first) return [];
    const names = new Map<string, ServerIdentity['links'][number][]>();
    for (const link of own) {
      const name = signInNameOf(link.identity);
      names.set(name, [...(names.get(name) ?? []), link]);
    }
    const endpoints = seen.get(server.id)?.endpoints ?? [];
    const letsNobodyIn = endpoints.some(({ userTokens }) =>
      userTokens.some(({ tokenType }) => tokenType === 'Anonymous'),
    );
    if (letsNobodyIn && !names.has('')) names.set('', []);
    const identities = [...names]
      .sort(([left], [right]) => (left < right ? -1 : 1))
      .map(([userName, some]) => ({ userName, links: some, by: some[0]?.id ?? first.id }));
    return [{ ...server, identities }];
  });
}

export async function rightsServers(db: Database): Promise<RightsServer[]> {
  const [servers, newest] = await Promise.all([serversWithIdentities(db), newestByServer(db)]);
  return servers.map((server) => rightsServerOf(server, newest.get(server.id) ?? null));
}

export const rightsServerOf = (
  { id, name, machine, identities }: ServerWithIdentities,
  newestAt: string | null,
): RightsServer => ({
  id,
  name,
  machine,
  newestAt,
  identities: identities.map(({ userName, links: some }) => ({
    userName: userName === '' ? null : userName,
    links: some.map((link) => link.name),
  })),
});

/** One server, and who signs in there. @throws a problem where it has no links */
export async function serverWithIdentities(db: Database, serverId: string): Promise<ServerWithIdentities> {
  const [server] = await serversWithIdentities(db, [serverId]);
  if (!server) throw notFound('server with links', serverId);
  return server;
}
