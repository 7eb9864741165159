import {
  PlantJudge,
  commonName,
  counted,
  emptyLists,
  horizonOf,
  listed,
  planTrust,
  sayTrustChange,
  trustGrid,
  trustNames,
  trustState,
  whatIf,
} from '@loyal-hinge/core';
import type { Certificate, Strategy, TrustChange, TrustNames, TrustPlan } from '@loyal-hinge/core';
import type {
  HolderDetail,
  HorizonView,
  SetAsideEntry,
  TrustOverview,
  TrustPartyRow,
  TrustPlanView,
  TrustPlans,
  TrustWayBody,
} from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import { passwordOf } from '../database/sealing.js';
import type { SecretStore } from '../database/sealing.js';
import type { EventLog } from '../events/event-log.js';
import { conflict, invalid, notFound } from '../http/problems.js';
import { currentAuthority } from './authority-store.js';
import type { TrustCarrier } from './carrier.js';
import { knownTrust } from './known-trust.js';
import type { KnownTrust } from './known-trust.js';
import { entriesOf, historyOf } from './lists-store.js';
import { nodeVerifier } from './node-signatures.js';
import { pushLinkId } from './push-desk.js';
import { putOff, setAsideEntries } from './set-aside.js';
import { forgetWay, setWay } from './store.js';

const iso = (time: string | null): string | null => (time === null ? null : new Date(time).toISOString());
const ofMs = (ms: number): string => new Date(ms).toISOString();

/** Who trusts whom, as it is shown; what to change, as it is planned. */
export class Trust {
  /** Applications whose lists are being read just now. */
  private readonly reading = new Set<string>();

  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly carrier: TrustCarrier,
    private readonly events: EventLog,
    /** What was done may be proved by what was read. */
    private readonly afterReading: () => Promise<void>,
  ) {}

  async overview(): Promise<TrustOverview> {
    const known = await knownTrust(this.db);
    const [grid, revoked, headline] = await Promise.all([
      trustGrid(known.trust, nodeVerifier),
      revokedIn(known),
      this.headline(known),
    ]);
    return {
      headline,
      parties: partyRows(known, this.reading),
      columns: grid.columns.map(({ thumbprint, certificate, shownBy }) => ({
        thumbprint,
        name: commonName(certificate.subject.text),
        subject: certificate.subject.text,
        isAuthority: certificate.isAuthority,
        notAfter: ofMs(certificate.notAfter),
        shownBy: [...shownBy],
        revoked: revoked.has(thumbprint),
      })),
      cells: grid.cells.map((cell) => ({ ...cell, linkIds: [...cell.linkIds] })),
      links: Object.fromEntries(known.trust.links.map(({ linkId, name }) => [linkId, name])),
    };
  }

  private async headline(known: KnownTrust): Promise<string> {
    const { trust } = known;
    const verdicts = await new PlantJudge(trust, nodeVerifier).needs(trust);
    const states = trust.links.map(
      ({ linkId }) => trustState(verdicts.filter(({ need }) => need.link.linkId === linkId)).state,
    );
    const refused = states.filter((state) => state === 'refused').length;
    const unread = trust.parties.filter(({ lists, way }) => lists === null && way !== 'unknown').length;
    const plan = await this.plan(known, 'direct', null);
    const idle = plan.changes.filter(({ change }) => change.kind === 'unlist-certificate').length;
    const parts = [
      refused === 0
        ? 'No link stops at trust'
        : `${counted(refused, 'link')} ${refused === 1 ? 'stops' : 'stop'} at trust`,
      ...(idle > 0 ? [`${counted(idle, 'trusted certificate')} ${idle === 1 ? 'serves' : 'serve'} no link`] : []),
      ...(unread > 0 ? [`the lists of ${counted(unread, 'application')} have not been read yet`] : []),
    ];
    return `${parts.join('; ')}.`;
  }

  async plans(): Promise<TrustPlans> {
    const known = await knownTrust(this.db);
    const authority = await currentAuthority(this.db);
    return {
      direct: await this.plan(known, 'direct', authority),
      authority: authority ? await this.plan(known, 'authority', authority) : null,
      unread: known.trust.parties
        .filter(({ lists, way }) => lists === null && way !== 'unknown')
        .map(({ name }) => name),
    };
  }

  private async plan(known: KnownTrust, strategy: Strategy, authority: Certificate | null): Promise<TrustPlanView> {
    const { trust, shelf } = known;
    const plan = await planTrust(trust, { strategy, authority, known: shelf }, nodeVerifier);
    const names = namesOf(known);
    const links = new Map(trust.links.map(({ linkId, name }) => [linkId, name]));
    const turns = await whatIf(
      trust,
      plan.changes.map(({ change }) => change),
      shelf,
      nodeVerifier,
    );
    return {
      strategy,
      changes: plan.changes.map(({ change, why, linkIds }) => {
        const { title, target } = sayTrustChange(change, names);
        return { change, title, target, why, linkIds: [...linkIds] };
      }),
      restarts: plan.restarts.map((id) => names.application(id)),
      atRenewal: plan.atRenewal,
      remainder: plan.remainder.map(({ linkId, says }) => ({ linkId, link: links.get(linkId) ?? linkId, says })),
      turns: [...turns],
      mends: await this.mends(known, plan),
    };
  }

  /** Links that are refused now and for which the plan leaves nothing over. */
  private async mends({ trust }: KnownTrust, { remainder }: TrustPlan): Promise<number> {
    const verdicts = await new PlantJudge(trust, nodeVerifier).needs(trust);
    const left = new Set(remainder.map(({ linkId }) => linkId));
    const refused = verdicts.filter(({ result }) => result === 'bad').map(({ need }) => need.link.linkId);
    return new Set(refused.filter((linkId) => !left.has(linkId))).size;
  }

  /** Which links turn by changes, on paper. */
  async whatIf(changes: readonly TrustChange[]) {
    const known = await knownTrust(this.db);
    return [...(await whatIf(known.trust, changes, known.shelf, nodeVerifier))];
  }

  setAside = (): Promise<SetAsideEntry[]> => setAsideEntries(this.db);
  dismiss = (holderId: string, thumbprint: string, isDismissed: boolean, actor: string): Promise<void> =>
    putOff(this.db, holderId, thumbprint, isDismissed, actor);

  async horizon(): Promise<HorizonView> {
    const known = await knownTrust(this.db);
    const { endings, groups } = await horizonOf(known.trust, nodeVerifier);
    const applications = new Map(known.plant.applications.map(({ id, name }) => [id, name]));
    const links = new Map(known.trust.links.map(({ linkId, name }) => [linkId, name]));
    const named = (ids: readonly string[], names: ReadonlyMap<string, string>): string[] =>
      ids.map((id) => names.get(id) ?? id);
    return {
      at: known.trust.at,
      endings: endings.map((ending) => ({
        ...ending,
        name: ending.kind === 'crl' ? `CRL of ${commonName(ending.subject)}` : commonName(ending.subject),
        applicationIds: [...ending.applicationIds],
        linkIds: [...ending.linkIds],
        applications: named(ending.applicationIds, applications),
        links: named(ending.linkIds, links),
      })),
      groups: groups.map((group) => ({ ...group, endingIds: [...group.endingIds] })),
    };
  }

  async holder(applicationId: string): Promise<HolderDetail> {
    const known = await knownTrust(this.db);
    const party = partyRows(known, this.reading).find((row) => row.applicationId === applicationId);
    const lists = known.trust.parties.find((row) => row.applicationId === applicationId)?.lists ?? emptyLists;
    if (!party) throw notFound('application', applicationId);
    const [entries, history, passwordKept] = await Promise.all([
      entriesOf(this.db, applicationId),
      historyOf(this.db, applicationId),
      this.secrets.has(this.db, passwordOf(pushLinkId(applicationId))),
    ]);
    const way = known.ways.get(applicationId);
    const names = namesOf(known);
    const nameOf = (thumbprint: string): string => names.certificate(thumbprint);
    return {
      party,
      access:
        way?.way === 'push'
          ? {
              clientId: way.clientId ?? '',
              endpointUrl: way.endpointUrl ?? '',
              userName: way.userName ?? '',
              passwordKept,
            }
          : null,
      lists: entries.map(({ list, thumbprint, since, until }) => ({
        list,
        thumbprint,
        name: nameOf(thumbprint),
        notAfter: ofMs(known.shelf.certificates.get(thumbprint)?.notAfter ?? 0),
        since: ofMs(Date.parse(since)),
        until: iso(until),
      })),
      crls: (['trusted', 'issuers'] as const).flatMap((list) =>
        lists[list === 'trusted' ? 'trustedCrls' : 'issuerCrls'].map((crl) => ({
          list,
          id: crl.id,
          issuer: crl.issuer.text,
          thisUpdate: ofMs(crl.thisUpdate),
          nextUpdate: crl.nextUpdate === null ? null : ofMs(crl.nextUpdate),
          revoked: crl.revoked.size,
        })),
      ),
      history: history.map(({ id, at, actor, says, before, after }) => {
        const [was, is] = [namedLists(before, names), namedLists(after, names)];
        return {
          id,
          at: ofMs(Date.parse(at)),
          actor,
          says,
          added: is.filter((line) => !was.includes(line)),
          removed: was.filter((line) => !is.includes(line)),
        };
      }),
    };
  }

  /** Changes that take the lists of an application back to what they were before an entry of its history. */
  async stepBack(applicationId: string, entryId: number): Promise<readonly TrustChange[]> {
    const entry = (await historyOf(this.db, applicationId)).find(({ id }) => id === entryId);
    if (!entry) throw notFound('entry of the history', String(entryId));
    const holderId = applicationId;
    const changes = (['trusted', 'issuers'] as const).flatMap((list): TrustChange[] => [
      ...entry.before[list]
        .filter((thumbprint) => !entry.after[list].includes(thumbprint))
        .map((thumbprint): TrustChange => ({ kind: 'list-certificate', holderId, list, thumbprint, until: null })),
      ...entry.after[list]
        .filter((thumbprint) => !entry.before[list].includes(thumbprint))
        .map((thumbprint): TrustChange => ({ kind: 'unlist-certificate', holderId, list, thumbprint })),
    ]);
    if (changes.length === 0)
      throw conflict('Only CRLs changed in this step.', 'Give the list the CRL that it should have.');
    return changes;
  }

  async setWay(applicationId: string, body: TrustWayBody, actor: string): Promise<void> {
    const { plant } = await knownTrust(this.db);
    const application = plant.applications.find(({ id }) => id === applicationId);
    if (!application) throw notFound('application', applicationId);
    if (body.way === 'push') {
      const client = plant.applications.find(({ id }) => id === body.clientId);
      if (application.kind !== 'server')
        throw invalid('Push management is a server’s.', [{ place: 'way', says: 'Choose files for a client.' }]);
      if (client?.kind !== 'client')
        throw invalid('The desk must be a client of the plant.', [{ place: 'clientId', says: 'This is no client.' }]);
    }
    await this.db.transaction(async (tx) => {
      const { password: _kept, ...details } = body.way === 'push' ? body : { ...body, password: undefined };
      await appendAudit(tx, { actor, action: 'way to lists set', subject: applicationId, details });
      if (body.way === 'unknown') await forgetWay(tx, applicationId);
      else if (body.way === 'files')
        await setWay(tx, { applicationId, way: 'files', clientId: null, endpointUrl: null, userName: null });
      else {
        const { clientId, endpointUrl, userName } = body;
        await setWay(tx, { applicationId, way: 'push', clientId, endpointUrl, userName });
        if (body.password !== undefined)
          await this.secrets.keep(tx, passwordOf(pushLinkId(applicationId)), body.password);
      }
    });
    await this.events.tell({ kind: 'trust-changed', applicationId });
  }

  /** Begins to read all lists that can be read over push management; each tells when it is done. */
  async readAll(actor: string): Promise<readonly string[]> {
    const { trust } = await knownTrust(this.db);
    const pushed = trust.parties.filter(({ way }) => way === 'push').map(({ applicationId }) => applicationId);
    const begun = pushed.filter((applicationId) => !this.reading.has(applicationId));
    for (const applicationId of begun) {
      this.reading.add(applicationId);
      void this.read(applicationId, actor).catch(() => undefined);
    }
    return begun;
  }

  /** Reads the lists of one server, live. */
  async read(applicationId: string, actor: string): Promise<{ applicationId: string; ok: boolean; says: string }> {
    this.reading.add(applicationId);
    try {
      const lists = await this.carrier.read(applicationId, actor);
      await this.afterReading();
      const says = `Read: ${listed([counted(lists.trusted.length, 'trusted certificate'), counted(lists.issuers.length, 'issuer'), counted(lists.trustedCrls.length + lists.issuerCrls.length, 'CRL'), `${lists.rejected.length} set aside`])}.`;
      return { applicationId, ok: true, says };
    } catch (error) {
      if (!(error instanceof Error)) throw error;
      return { applicationId, ok: false, says: error.message };
    } finally {
      this.reading.delete(applicationId);
      await this.events.tell({ kind: 'trust-changed', applicationId });
    }
  }
}

const namesOf = ({ plant, shelf }: KnownTrust): TrustNames => trustNames(plant.applications, shelf);

function namedLists(
  lists: {
    readonly trusted: readonly string[];
    readonly issuers: readonly string[];
    readonly trustedCrls: readonly string[];
    readonly issuerCrls: readonly string[];
  },
  names: TrustNames,
): readonly string[] {
  return [
    ...lists.trusted.map((thumbprint) => `trusted: ${names.certificate(thumbprint)}`),
    ...lists.issuers.map((thumbprint) => `issuer: ${names.certificate(thumbprint)}`),
    ...[...lists.trustedCrls, ...lists.issuerCrls].map((id) => names.crl(id)),
  ];
}

function partyRows({ plant, trust, readings }: KnownTrust, reading: ReadonlySet<string>): TrustPartyRow[] {
  const zones = new Map(plant.zones.map(({ id, name }) => [id, name]));
  const zoneOf = new Map(plant.machines.map(({ id, zoneId }) => [id, zones.get(zoneId) ?? '']));
  const applications = new Map(plant.applications.map((application) => [application.id, application]));
  return trust.parties.map(({ applicationId, name, certificate, way, restarts, lists }) => {
    const application = applications.get(applicationId);
    const newest = readings.get(applicationId);
    return {
      applicationId,
      name,
      kind: application?.kind ?? 'server',
      zone: zoneOf.get(application?.machineId ?? '') ?? '',
      certificate: certificate?.thumbprint ?? null,
      way,
      restarts,
      readAt: iso(newest?.readAt ?? null),
      fault: newest?.fault ?? null,
      trusted: lists?.trusted.length ?? 0,
      issuers: lists?.issuers.length ?? 0,
      crls: lists ? lists.trustedCrls.length + lists.issuerCrls.length : 0,
      rejected: lists?.rejected.length ?? 0,
      reading: reading.has(applicationId),
    };
  });
}

/** Certificates that a CRL known anywhere in the plant revokes, whether or not their holders have it. */
async function revokedIn({ trust, shelf }: KnownTrust): Promise<ReadonlySet<string>> {
  const certificates = [...shelf.certificates.values()];
  const all = { ...emptyLists, issuers: certificates.filter(({ isAuthority }) => isAuthority), issuerCrls: shelf.crls };
  const judge = new PlantJudge(trust, nodeVerifier);
  const revoked = new Set<string>();
  for (const certificate of certificates) {
    const { findings } = await judge.certificate(all, certificate, null, null);
    if (findings[10]?.some(({ kind }) => kind === 'revoked')) revoked.add(certificate.thumbprint);
  }
  return revoked;
}
