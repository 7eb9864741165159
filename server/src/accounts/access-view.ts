import {
  judgeRoles,
  passageOf,
  roleTurns,
  rulesOf,
  sayRoleRule,
  sayServerSessions,
  signInNameOf,
  weaknessesOfSession,
} from '@loyal-hinge/core';
import type { AccessChange, AskingSession, ServerAccess, ServerRole } from '@loyal-hinge/core';
import type { AccessTurns, AccessView, RoleView } from '@loyal-hinge/contract';
import { eq } from 'drizzle-orm';
import type { Database } from '../database/database.js';
import { applications, links, machines } from '../database/schema.js';
import { plantDoors } from '../entry/servers-at-doors.js';
import { conflict, notFound } from '../http/problems.js';
import { keptUserCertificates, shownUserCertificates } from './certificates/store.js';
import { wayOf } from '../trust/lists/ways.js';
import { connectedAt, seenAccess, unreadAccess } from './store.js';

/** How UA over TCP is called in endpoints (Part 7, UA-TCP UA-SC UA-Binary). */
const overTcp = 'http://opcfoundation.org/UA-Profile/Transport/uatcp-uasc-uabinary';

/** A link as it signs in. */
export interface LinkSession extends AskingSession {
  readonly link: { readonly id: string; readonly name: string };
  readonly client: string;
  readonly writes: boolean;
}

/** Links that sign in at a server, by the endpoints that they take there. */
export async function sessionsAt(
  db: Database,
  serverIds?: readonly string[],
): Promise<ReadonlyMap<string, LinkSession[]>> {
  const [{ servers }, clients, wanted, shown] = await Promise.all([
    plantDoors(db, serverIds),
    db.select({ id: applications.id, uri: applications.applicationUri }).from(applications),
    db.select({ id: links.id, needs: links.needs }).from(links),
    shownUserCertificates(db),
  ]);
  const uriOf = new Map(clients.map(({ id, uri }) => [id, uri]));
  const needsOf = new Map(wanted.map(({ id, needs }) => [id, needs]));
  return new Map(
    servers.map((server) => [
      server.id,
      server.links.map((link): LinkSession => {
        const { chosen } = passageOf(server.endpoints, link).choice;
        const { identity } = link.link;
        return {
          link: { id: link.id, name: link.name },
          client: link.client.name,
          writes: (needsOf.get(link.id) ?? []).some(({ uses }) => uses.includes('write')),
          userName: signInNameOf(identity) || null,
          certificate: identity.kind === 'certificate' ? (shown.get(identity.certificate) ?? null) : null,
          applicationUri: uriOf.get(link.client.id) ?? '',
          endpoint: chosen && {
            url: chosen.endpointUrl,
            mode: chosen.securityMode,
            policyUri: chosen.securityPolicyUri,
            transportProfileUri: overTcp,
          },
        };
      }),
    ]),
  );
}

/** Roles and users of a server as they were read last, and what they are to its links. */
export async function accessViewOf(db: Database, serverId: string): Promise<AccessView> {
  const [server, unread, seen, way, sessions, kept, connected, uris] = await Promise.all([
    serverNamed(db, serverId),
    unreadAccess(db, [serverId]),
    seenAccess(db, [serverId]),
    wayOf(db, serverId),
    sessionsAt(db, [serverId]),
    keptUserCertificates(db),
    connectedAt(db, serverId),
    applicationUris(db),
  ]);
  const known = seen.get(serverId);
  const own = sessions.get(serverId) ?? [];
  const access = known?.access ?? nothingKnown;
  return {
    server,
    canBeRead: way?.way === 'push',
    says: unread.get(serverId) ?? null,
    seenAt: known?.seenAt ?? null,
    roles: access.roles.map(roleView),
    users:
      access.users?.map(({ userName, flags, description }) => ({
        userName,
        flags: [...flags],
        description,
        links: own.filter((session) => session.userName === userName).length,
        administers: way?.way === 'push' && way.userName === userName,
      })) ?? null,
    passwordLength: access.passwordLength,
    userCertificates:
      access.userCertificates?.map((listed) => ({
        ...listed,
        name: kept.find(({ certificate }) => certificate.thumbprint === listed.thumbprint)?.name ?? null,
        links: own.filter(({ certificate }) => certificate?.thumbprints.includes(listed.thumbprint)).length,
      })) ?? null,
    unread: [...access.unread],
    connected: connected && connectedView(connected, uris),
    sessions: own.map((session) => ({
      link: session.link,
      client: session.client,
      userName: session.userName,
      roles: judgeRoles(access, session).map(({ role, verdict, why }) => ({ role: role.name, verdict, why })),
    })),
  };
}

type Connected = NonNullable<Awaited<ReturnType<typeof connectedAt>>>;

const connectedView = (
  { readAt, sessions }: Connected,
  known: ReadonlySet<string>,
): NonNullable<AccessView['connected']> => ({
  readAt,
  says: sayServerSessions(sessions),
  sessions:
    sessions.sessions?.map((session) => ({
      id: session.id,
      name: session.name,
      applicationUri: session.applicationUri,
      applicationName: session.applicationName,
      user: session.user,
      mechanism: session.mechanism,
      mode: session.mode,
      policyUri: session.policyUri,
      connectedAt: session.connectedAt,
      items: session.items,
      unauthorized: session.unauthorized,
      isOwn: session.isOwn,
      weaknesses: [...weaknessesOfSession(session, known)],
    })) ?? null,
});

async function applicationUris(db: Database): Promise<ReadonlySet<string>> {
  const rows = await db.select({ uri: applications.applicationUri }).from(applications);
  return new Set(rows.map(({ uri }) => uri));
}

const nothingKnown: ServerAccess = {
  roles: [],
  users: null,
  passwordLength: null,
  userCertificates: null,
  unread: [],
};

const roleView = (role: ServerRole): RoleView => ({
  nodeId: role.nodeId,
  name: role.name,
  rules: rulesOf(role).map((rule) => ({ rule, says: sayRoleRule(rule) })),
  applications: role.applications && { exclude: role.applications.exclude, listed: role.applications.listed.length },
  endpoints: role.endpoints && { exclude: role.endpoints.exclude, listed: role.endpoints.listed.length },
  isCustom: role.isCustom,
  isFixed: role.isFixed,
});

/** Which links would be given other roles by changes. */
export async function accessTurnsOf(
  db: Database,
  serverId: string,
  changes: readonly AccessChange[],
): Promise<AccessTurns> {
  const [{ name }, seen, sessions, administrator] = await Promise.all([
    serverNamed(db, serverId),
    seenAccess(db, [serverId]),
    sessionsAt(db, [serverId]),
    administratorOf(db, serverId),
  ]);
  const known = seen.get(serverId);
  if (!known) throw conflict(`The roles of ${name} are not known.`, 'Read them first.');
  const ids = new Set(known.access.roles.map(({ nodeId }) => nodeId));
  for (const change of changes)
    if ('roleId' in change && !ids.has(change.roleId))
      throw conflict(`${name} has no role ${change.role}.`, 'Read its roles again.');
  return {
    turns: roleTurns<AskingSession & { readonly link: LinkSession['link'] | null; readonly writes: boolean }>(
      known.access,
      changes,
      [...administrator, ...(sessions.get(serverId) ?? [])],
    ).map(({ session, gains, loses }) => ({
      link: session.link,
      userName: session.userName,
      gains: [...gains],
      loses: [...loses],
      writes: session.writes,
    })),
  };
}

/** Our own session as administrator: nobody else would take a change back that ends it. */
async function administratorOf(db: Database, serverId: string) {
  const way = await wayOf(db, serverId);
  if (way?.way !== 'push' || way.userName === null || way.clientId === null) return [];
  const [client] = await db
    .select({ uri: applications.applicationUri })
    .from(applications)
    .where(eq(applications.id, way.clientId));
  const endpoint = {
    url: way.endpointUrl ?? '',
    mode: 'SignAndEncrypt' as const,
    policyUri: '',
    transportProfileUri: '',
  };
  return [
    {
      link: null,
      writes: false,
      userName: way.userName,
      certificate: null,
      applicationUri: client?.uri ?? '',
      endpoint,
    },
  ];
}

async function serverNamed(db: Database, serverId: string): Promise<AccessView['server']> {
  const [row] = await db
    .select({ id: applications.id, name: applications.name, machine: machines.name, kind: applications.kind })
    .from(applications)
    .innerJoin(machines, eq(machines.id, applications.machineId))
    .where(eq(applications.id, serverId));
  if (row?.kind !== 'server') throw notFound('server', serverId);
  const { kind: _, ...server } = row;
  return server;
}
