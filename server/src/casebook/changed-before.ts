import { and, desc, eq, gte, inArray, lte } from 'drizzle-orm';
import { byNumber } from '@loyal-hinge/core';
import type { LinkInPlant, Plant } from '@loyal-hinge/core';
import type { Case, LinkFinder } from '@loyal-hinge/core/casebook';
import type { CaseBefore, CasebookView } from '@loyal-hinge/contract';
import { certificatesBy } from '../certificates/store.js';
import type { Database } from '../database/database.js';
import {
  applicationCertificates,
  audit,
  clientCertificates,
  evidence,
  happenings,
  linkSpans,
} from '../database/schema.js';

/** What lies further back is no reason that anybody would look for. */
const reachBackMs = 24 * 3_600_000;
/** Others that fall within this time fall together. */
const togetherMs = 10 * 60_000;
/** A clock or a schedule may be late by so much: what comes a little later than the first attempt is named, too. */
const graceMs = 60_000;
const mostOfAKind = 20;
const mostMeanwhile = 200;

const iso = (at: number): string => new Date(at).toISOString();
type Window = { readonly from: number; readonly to: number };

/** What changed within a day before a case began, the newest first: what comes shortly before it is most likely why. */
export async function changedBefore(
  db: Database,
  one: Case,
  plant: Plant,
  finder: LinkFinder,
): Promise<readonly CaseBefore[]> {
  const window = { from: one.first - reachBackMs, to: one.first + graceMs };
  const link = one.linkId === null ? null : finder.linkNamed(one.linkId);
  const computers = link ? [link.clientMachine.id, link.serverMachine.id] : [one.from, one.to];
  const all = await Promise.all([
    link ? expiries(db, link, window) : [],
    link ? shownExpiry(one, link, window) : [],
    changes(db, window, plant, link),
    loggedChanges(db, window, (computer) => {
      const machine = finder.machineOf({ address: null, name: computer, port: null });
      return computers.includes(machine?.id ?? computer) || computers.includes(machine?.name ?? computer);
    }),
    link ? fellTogether(db, one, link, plant) : [],
  ]);
  return all.flat().sort((left, right) => right.at.localeCompare(left.at));
}

/** Certificates of both ends that ended in that time. */
async function expiries(db: Database, { client, server }: LinkInPlant, { from, to }: Window): Promise<CaseBefore[]> {
  const [shown, own] = await Promise.all([
    db
      .select()
      .from(applicationCertificates)
      .where(inArray(applicationCertificates.applicationId, [client.id, server.id])),
    db.select().from(clientCertificates).where(eq(clientCertificates.applicationId, client.id)),
  ]);
  const owners = new Map([...shown, ...own].map(({ thumbprint, applicationId }) => [thumbprint, applicationId]));
  const known = await certificatesBy(db, [...owners.keys()]);
  return [...known].flatMap(([thumbprint, { notAfter }]) => {
    const at = new Date(notAfter).getTime();
    if (at < from || at > to) return [];
    const { name } = owners.get(thumbprint) === client.id ? client : server;
    return [{ at: iso(at), kind: 'expiry' as const, says: `The certificate of ${name} ended.`, ...nowhere }];
  });
}

const nowhere = { evidence: null, orderId: null };

/** The client’s certificate that a capture shows, where it ended in that time. */
function shownExpiry({ attempts }: Case, { client }: LinkInPlant, { from, to }: Window): CaseBefore[] {
  for (const { facts } of attempts)
    for (const fact of facts) {
      if (fact.kind !== 'certificate-validation') continue;
      const ended = fact.validation.problems.find((problem) => problem.kind === 'expired');
      const at = ended ? Date.parse(ended.notAfter) : Number.NaN;
      if (at >= from && at <= to)
        return [{ at: iso(at), kind: 'expiry', says: `The certificate that ${client.name} showed ended.`, ...nowhere }];
    }
  return [];
}

/** What concerns every link: how the plant is dialled, what it accepts, what firewalls let through, and work orders. */
const ofAll =
  /^(?:work order carried out|lines done by hand|line undone|settings changed|passage imported|firewall rules imported|floor changed|exception|plant|zone|firewall|conduit|service)/;
const changing = /carried out|done|undone|changed|added|removed|imported|made|ended|revoked|issued|set\b|set-|written/;

/** What people changed here that concerns the link: in settings, in the plant, on its machines, by work orders. */
async function changes(
  db: Database,
  { from, to }: Window,
  plant: Plant,
  link: LinkInPlant | null,
): Promise<CaseBefore[]> {
  const parts = link ? [link.link, link.client, link.server, link.clientMachine, link.serverMachine] : [];
  const ids = new Set(parts.map(({ id }) => id));
  const rows = await db
    .select({ at: audit.at, actor: audit.actor, action: audit.action, subject: audit.subject })
    .from(audit)
    .where(and(gte(audit.at, iso(from)), lte(audit.at, iso(to))))
    .orderBy(desc(audit.sequence))
    .limit(2000);
  return rows
    .filter(({ action, subject }) => changing.test(action) && (ids.has(subject) || ofAll.test(action)))
    .slice(0, mostOfAKind)
    .map(({ at, actor, action, subject }) => {
      const isOrder = action === 'work order carried out';
      const what = action.replace('-', ' ');
      return {
        at,
        kind: isOrder ? ('order' as const) : ('change' as const),
        says: `${what.charAt(0).toUpperCase()}${what.slice(1)} by ${actor}: ${nameOf(plant, subject)}.`,
        evidence: null,
        orderId: isOrder ? subject : null,
      };
    });
}

/** A part of the plant by its name; anything else as the trail calls it. */
const nameOf = ({ machines, applications, links, zones }: Plant, id: string): string =>
  [...machines, ...applications, ...links, ...zones].find((part) => part.id === id)?.name ?? id;

/** What logs tell of changes at the machines of the case. */
async function loggedChanges(
  db: Database,
  { from, to }: Window,
  isOfCase: (computer: string) => boolean,
): Promise<CaseBefore[]> {
  const rows = await db
    .select({ happening: happenings, file: evidence.name })
    .from(happenings)
    .innerJoin(evidence, eq(evidence.id, happenings.evidenceId))
    .where(and(gte(happenings.at, iso(from)), lte(happenings.at, iso(to))))
    .orderBy(desc(happenings.at))
    .limit(2000);
  return rows
    .filter(({ happening }) => isOfCase(happening.computer))
    .slice(0, mostOfAKind)
    .map(({ happening: { at, computer, says, evidenceId, position }, file }) => ({
      at: new Date(at).toISOString(),
      kind: 'log' as const,
      says: `${computer}: ${says}`,
      evidence: { evidenceId, file, position },
      orderId: null,
    }));
}

/** What logs tell of changes while the cases went on, and the day before. */
export async function happenedMeanwhile(
  db: Database,
  cases: readonly Pick<Case, 'first' | 'last'>[],
  mayKnowNames: boolean,
): Promise<CasebookView['happened']> {
  if (cases.length === 0) return [];
  const from = cases.reduce((least, { first }) => Math.min(least, first), Number.POSITIVE_INFINITY) - reachBackMs;
  const to = cases.reduce((most, { last }) => Math.max(most, last), 0);
  const rows = await db
    .select({ at: happenings.at, computer: happenings.computer, says: happenings.says })
    .from(happenings)
    .where(and(gte(happenings.at, iso(from)), lte(happenings.at, iso(to))))
    .orderBy(desc(happenings.at))
    .limit(mostMeanwhile);
  return rows.map(({ at, computer, says }) => ({
    at: new Date(at).toISOString(),
    says: mayKnowNames ? `${computer}: ${says}` : 'A log tells engineers of a change.',
  }));
}

/** Other links of the same machines that fell at the same time: then it is the machine rather than the link. */
async function fellTogether(db: Database, one: Case, link: LinkInPlant, plant: Plant): Promise<CaseBefore[]> {
  const rows = await db
    .select({ linkId: linkSpans.linkId, fromAt: linkSpans.fromAt })
    .from(linkSpans)
    .where(
      and(
        eq(linkSpans.state, 'Parted'),
        gte(linkSpans.fromAt, iso(one.first - togetherMs)),
        lte(linkSpans.fromAt, iso(one.first + togetherMs)),
      ),
    );
  const fallen = new Set(rows.map(({ linkId }) => linkId));
  return [link.serverMachine, link.clientMachine].flatMap((machine) => {
    const others = plant.links.filter(({ id, clientId, serverId }) => {
      if (id === link.link.id || !fallen.has(id)) return false;
      return plant.applications.some((end) => [clientId, serverId].includes(end.id) && end.machineId === machine.id);
    });
    if (others.length === 0) return [];
    const names = others.length > 3 ? `${others.length} other links` : others.map(({ name }) => name).join(', ');
    const at = Math.max(
      ...rows.filter(({ linkId }) => others.some(({ id }) => id === linkId)).map(({ fromAt }) => Date.parse(fromAt)),
    );
    const says = byNumber(
      others.length,
      `Within ten minutes another link of ${machine.name} fell: `,
      `Within ten minutes other links of ${machine.name} fell: `,
    );
    return [{ at: iso(at), kind: 'links' as const, says: `${says}${names}.`, ...nowhere }];
  });
}
