import { asc, eq, like, sql } from 'drizzle-orm';
import {
  certificateNamed,
  fitsWords,
  givenRoles,
  judgeRoles,
  pausedUntil,
  shownCertificateOf,
  trustsUser,
  weaknessesOfAccount,
} from '@loyal-hinge/core';
import type { Account, AccountCertificate, AccountLink, ServerAccess } from '@loyal-hinge/core';
import type { AccountView, AccountsPage, AccountsView } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { applications, links, machines, secrets } from '../database/schema.js';
import { passwordOf } from '../secrets/sealing.js';
import { pushLinkId } from '../trust/lists/push-link.js';
import { allWays } from '../trust/lists/ways.js';
import { keptUserCertificates } from './certificates/store.js';
import type { KeptUserCertificate } from './certificates/store.js';
import { sessionsAt } from './access-view.js';
import type { LinkSession } from './access-view.js';
import { seenAccess, unreadAccess } from './store.js';
import { allTries } from './tries/store.js';
import type { AccountTriesRow } from './tries/store.js';

const usualPage = 50;

interface Known extends Account {
  readonly server: { readonly id: string; readonly name: string; readonly machine: string; readonly uri: string };
  readonly tries: AccountTriesRow | null;
  readonly roles: readonly string[] | null;
  readonly isStored: boolean;
  readonly certificate: (AccountCertificate & { readonly name: string; readonly thumbprint: string | null }) | null;
}

/** Everybody who signs in at servers, or could, those that fit, some at a time. */
export async function accountsViewOf(db: Database, wish: AccountsPage): Promise<AccountsView> {
  const { accounts, servers, linkNames, unread } = await allAccounts(db);
  const now = new Date().toISOString();
  const shown = accounts.map((account) => viewOf(account, linkNames, now)).sort(byWeakness);
  const fits = fitsWords(wish.find ?? '');
  const fitting = shown.filter(
    (account) =>
      (!wish.server || account.serverId === wish.server) &&
      (!wish.only || account.weaknesses.some(({ kind }) => kind === wish.only)) &&
      fits(
        account.server,
        account.machine,
        account.userName ?? 'anonymous',
        ...account.links.map(({ name }) => name),
        ...(account.roles ?? []),
        ...account.weaknesses.map(({ says }) => says),
      ),
  );
  const from = wish.from ?? 0;
  return {
    accounts: fitting.slice(from, from + (wish.most ?? usualPage)),
    unread,
    from,
    fitting: fitting.length,
    counts: {
      accounts: shown.length,
      servers: new Set(shown.map(({ serverId }) => serverId)).size,
      weak: shown.filter(({ weaknesses }) => weaknesses.some(({ grade }) => grade !== 'slight')).length,
      ...servers,
    },
  };
}

const weights = { fails: 100, weak: 10, slight: 1 } as const;
const illness = ({ weaknesses }: AccountView): number => weaknesses.reduce((sum, { grade }) => sum + weights[grade], 0);
const byWeakness = (left: AccountView, right: AccountView): number => illness(right) - illness(left);

async function allAccounts(db: Database) {
  const [servers, rows, sessions, seen, unread, ways, tries, marks, kept] = await Promise.all([
    db
      .select({
        id: applications.id,
        name: applications.name,
        uri: applications.applicationUri,
        machine: machines.name,
      })
      .from(applications)
      .innerJoin(machines, eq(machines.id, applications.machineId))
      .where(eq(applications.kind, 'server'))
      .orderBy(asc(applications.name), asc(applications.id)),
    db.select({ id: links.id, name: links.name, clientId: links.clientId }).from(links),
    sessionsAt(db),
    seenAccess(db),
    unreadAccess(db),
    allWays(db),
    allTries(db),
    passwordMarks(db),
    keptUserCertificates(db),
  ]);
  const certificates = new Map(kept.map((one) => [one.name, one]));
  const clientOf = new Map(rows.map(({ id, clientId }) => [id, clientId]));
  const triesOf = new Map(tries.map((row) => [keyOf(row.applicationUri, row.userName), row]));
  const places = placesOfMarks(servers, sessions, marks);
  const accounts = servers.flatMap((server): Known[] => {
    const own = sessions.get(server.id) ?? [];
    const access = seen.get(server.id)?.access ?? null;
    const way = ways.get(server.id);
    const administrator = way?.way === 'push' ? way.userName : null;
    const names = new Set<string | null>([
      ...own.map(({ userName }) => userName),
      ...(access?.users ?? []).map(({ userName }) => userName),
      ...(administrator === null ? [] : [administrator]),
    ]);
    return [...names].map((userName) => {
      const using = own.filter((session) => session.userName === userName);
      const told = triesOf.get(keyOf(server.uri, userName ?? '')) ?? null;
      const administers = userName !== null && userName === administrator;
      const stored = [
        ...using.map(({ link }) => marks.get(passwordOf(link.id)) ?? null),
        ...(administers ? [marks.get(passwordOf(pushLinkId(server.id))) ?? null] : []),
      ].filter((mark) => mark !== null);
      const elsewhere = stored.flatMap((mark) => [...(places.get(mark) ?? [])]).filter((name) => name !== server.name);
      return {
        server,
        userName,
        certificate: certificateAt(userName, certificates, access),
        administers,
        links: using.map(({ link, client }): AccountLink => ({
          ...link,
          clientId: clientOf.get(link.id) ?? '',
          client,
          passwordMark: userName === null ? null : (marks.get(passwordOf(link.id)) ?? null),
        })),
        user: access?.users?.find((user) => user.userName === userName) ?? null,
        areUsersKnown: Boolean(access?.users),
        signedInAt: told?.signedInAt ?? null,
        refusals: told?.refusals ?? 0,
        sameElsewhere: [...new Set(elsewhere)].sort(),
        tries: told,
        roles: access && rolesOf(access, userName, using),
        isStored: stored.length > 0,
      };
    });
  });
  const readable = [...ways.values()].filter(({ way }) => way === 'push').length;
  return {
    accounts,
    servers: { read: seen.size, readable },
    unread: servers.flatMap(({ id, name }) => {
      const says = unread.get(id);
      return says === undefined ? [] : [{ serverId: id, server: name, says }];
    }),
    linkNames: new Map(rows.map(({ id, name }) => [id, name])),
  };
}

/** What is known of the user certificate that an account is, where it is one. */
function certificateAt(
  userName: string | null,
  kept: ReadonlyMap<string, KeptUserCertificate>,
  access: ServerAccess | null,
): Known['certificate'] {
  const name = userName === null ? null : certificateNamed(userName);
  if (name === null) return null;
  const found = kept.get(name);
  return {
    name,
    thumbprint: found?.certificate.thumbprint ?? null,
    validity: found ? found.certificate.summary : null,
    isTrusted: found && access ? trustsUser(access, shownCertificateOf(found.certificate, found.above)) : null,
  };
}

const keyOf = (uri: string, userName: string): string => JSON.stringify([uri, userName]);

/** Roles that at least one of its sessions is given; of an account that no link uses, those by its name. */
function rolesOf(access: ServerAccess, userName: string | null, using: readonly LinkSession[]): readonly string[] {
  const sessions = using.length > 0 ? using : [{ userName, certificate: null, applicationUri: '', endpoint: null }];
  return [...new Set(sessions.flatMap((session) => givenRoles(judgeRoles(access, session))))].sort();
}

/** By the name of a secret, what is the same for the same password; nothing is opened for it. */
async function passwordMarks(db: Database): Promise<ReadonlyMap<string, string>> {
  const rows = await db
    .select({ name: secrets.name, mark: sql<string>`${secrets.mark}` })
    .from(secrets)
    .where(like(secrets.name, 'password of link %'));
  return new Map(rows.flatMap(({ name, mark }) => (mark ? [[name, mark] as const] : [])));
}

/** By mark, the names of the servers at which a password is used. */
function placesOfMarks(
  servers: readonly Known['server'][],
  sessions: ReadonlyMap<string, readonly LinkSession[]>,
  marks: ReadonlyMap<string, string>,
): ReadonlyMap<string, ReadonlySet<string>> {
  const places = new Map<string, Set<string>>();
  for (const server of servers)
    for (const id of [...(sessions.get(server.id) ?? []).map(({ link }) => link.id), pushLinkId(server.id)]) {
      const mark = marks.get(passwordOf(id));
      if (mark) places.set(mark, (places.get(mark) ?? new Set()).add(server.name));
    }
  return places;
}

function viewOf(account: Known, linkNames: ReadonlyMap<string, string>, now: string): AccountView {
  const { server, userName, tries, user, certificate } = account;
  const iso = (at: string | null | undefined): string | null => (at ? new Date(at).toISOString() : null);
  const signedInBy = tries?.signedInBy ?? null;
  return {
    serverId: server.id,
    server: server.name,
    machine: server.machine,
    userName,
    links: account.links.map(({ id, name }) => ({ id, name })),
    clients: [...new Set(account.links.map(({ client }) => client))],
    administers: account.administers,
    roles: account.roles && [...account.roles],
    user: user && { flags: [...user.flags], description: user.description },
    password: userName === null || certificate ? 'none' : account.isStored ? 'stored' : 'not stored',
    certificate: certificate && {
      name: certificate.name,
      thumbprint: certificate.thumbprint,
      notAfter: certificate.validity?.notAfter ?? null,
    },
    signedInAt: iso(tries?.signedInAt),
    signedInBy: signedInBy && (linkNames.get(signedInBy) ?? 'the administration of the server'),
    refusedAt: account.refusals > 0 ? iso(tries?.refusedAt) : null,
    pausedUntil: tries
      ? pausedUntil(
          {
            refusals: tries.refusals,
            withSamePassword: tries.sameRefusals,
            refusedAt: iso(tries.refusedAt),
            code: tries.code,
          },
          now,
        )
      : null,
    weaknesses: [...weaknessesOfAccount(account, now)],
  };
}
