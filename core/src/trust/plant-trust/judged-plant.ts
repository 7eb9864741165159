import type { Eventually } from '../validation/eventually.js';
import type { SignatureVerifier } from '../x509/signatures.js';
import { PlantJudge } from './plant-judge.js';
import type { NeedVerdict } from './plant-judge.js';
import { crlsOf } from './plant-trust.js';
import type { PlantTrust, TrustLink, TrustParty } from './plant-trust.js';

/** The trust of a plant, judged as far as it is asked for: what each link needs of both ends. */
export interface JudgedTrust {
  readonly plant: PlantTrust;
  readonly judge: PlantJudge;
  /** The same object as long as nothing can have turned out differently: for keeping what is counted over all. */
  readonly asOf: object;
  partyOf(applicationId: string): TrustParty | undefined;
  /** The links on which an application stands at one end or both. */
  linksAt(applicationId: string): readonly TrustLink[];
  /** What a link’s ends make of each other, the client first; nothing for a link that is not secured. */
  verdictsOf(link: TrustLink): Eventually<readonly NeedVerdict[]>;
  /** What an application makes of those that it meets. The same array as long as nothing of it has changed. */
  needsOf(holder: TrustParty): Eventually<readonly NeedVerdict[]>;
}

interface JudgedLink {
  readonly client: TrustParty;
  readonly server: TrustParty;
  readonly verdicts: readonly NeedVerdict[];
}

/** Who stands where, by ids. */
interface Index {
  /** Counts the plants that were given. */
  readonly number: number;
  /** Applications of which something may be different than in the index before: they, or one that they meet, are. */
  readonly touched: ReadonlySet<string>;
  readonly parties: readonly TrustParty[];
  readonly links: readonly TrustLink[];
  readonly byId: ReadonlyMap<string, TrustParty>;
  readonly linksAt: ReadonlyMap<string, readonly TrustLink[]>;
}

/**
 * Judges a plant’s trust again and again, and each time only what is asked for and has changed: a link is judged anew when it,
 * or one of its ends, is another object than before. All is judged anew when the rules change, or when the time passes a date
 * on which something begins or ends.
 */
export class JudgeMemory {
  private judge: PlantJudge;
  private crlsDemanded = false;
  /** Up to when (milliseconds since 1970) nothing that was judged turns by itself. */
  private holdsUntil = Number.NEGATIVE_INFINITY;
  private judgedAt = 0;
  private index: Index = { number: 0, touched: new Set(), parties: [], links: [], byId: new Map(), linksAt: new Map() };
  private links = new WeakMap<TrustLink, JudgedLink>();
  private needs = new WeakMap<TrustParty, { readonly asOf: number; readonly needs: readonly NeedVerdict[] }>();
  private dated = new WeakSet<TrustParty>();
  private asOf: { readonly judge: PlantJudge; readonly index: Index };
  /** How many links were judged since a plant was given last: for seeing that little is. */
  judged = 0;

  constructor(private readonly verifier: SignatureVerifier) {
    this.judge = new PlantJudge({ crlsDemanded: false, at: 0 }, verifier);
    this.asOf = { judge: this.judge, index: this.index };
  }

  of(plant: PlantTrust): JudgedTrust {
    this.forgetIfOver(plant);
    if (plant.parties !== this.index.parties || plant.links !== this.index.links)
      this.index = indexAfter(this.index, plant);
    this.judged = 0;
    const { judge, index } = this;
    if (this.asOf.judge !== judge || this.asOf.index !== index) this.asOf = { judge, index };
    return {
      plant,
      judge,
      asOf: this.asOf,
      partyOf: (id) => index.byId.get(id),
      linksAt: (id) => index.linksAt.get(id) ?? noLinks,
      verdictsOf: (link) => this.verdictsOf(link, judge, index),
      needsOf: (holder) => this.needsOf(holder, judge, index),
    };
  }

  private verdictsOf(link: TrustLink, judge: PlantJudge, { byId }: Index): Eventually<readonly NeedVerdict[]> {
    const [client, server] = [byId.get(link.clientId), byId.get(link.serverId)];
    if (!link.secured || !client || !server) return none;
    const known = this.links.get(link);
    return known?.client === client && known.server === server
      ? known.verdicts
      : this.judgedLink(link, client, server, judge);
  }

  private async judgedLink(
    link: TrustLink,
    client: TrustParty,
    server: TrustParty,
    judge: PlantJudge,
  ): Promise<readonly NeedVerdict[]> {
    this.judged += 1;
    const verdicts = [
      await judge.need({ link, holder: client, shown: server, host: link.host }),
      await judge.need({ link, holder: server, shown: client, host: null }),
    ];
    // What was judged by rules that hold no more is not kept.
    if (judge === this.judge) this.links.set(link, { client, server, verdicts });
    return verdicts;
  }

  private needsOf(holder: TrustParty, judge: PlantJudge, index: Index): Eventually<readonly NeedVerdict[]> {
    const before = this.needs.get(holder);
    if (before?.asOf === index.number) return before.needs;
    if (before?.asOf === index.number - 1 && !index.touched.has(holder.applicationId)) {
      this.needs.set(holder, { asOf: index.number, needs: before.needs });
      return before.needs;
    }
    return this.gathered(holder, judge, index, before?.needs);
  }

  private async gathered(
    holder: TrustParty,
    judge: PlantJudge,
    index: Index,
    before: readonly NeedVerdict[] | undefined,
  ): Promise<readonly NeedVerdict[]> {
    const own: NeedVerdict[] = [];
    for (const link of index.linksAt.get(holder.applicationId) ?? []) {
      const verdicts = this.verdictsOf(link, judge, index);
      for (const verdict of verdicts instanceof Promise ? await verdicts : verdicts)
        if (verdict.need.holder === holder) own.push(verdict);
    }
    const needs = before && isSame(before, own) ? before : own;
    if (judge === this.judge) this.needs.set(holder, { asOf: index.number, needs });
    return needs;
  }

  private forgetIfOver({ parties, crlsDemanded, at }: PlantTrust): void {
    if (at >= this.holdsUntil || at < this.judgedAt || crlsDemanded !== this.crlsDemanded) {
      this.judge = new PlantJudge({ crlsDemanded, at }, this.verifier);
      this.crlsDemanded = crlsDemanded;
      this.judgedAt = at;
      this.holdsUntil = Number.POSITIVE_INFINITY;
      this.links = new WeakMap();
      this.needs = new WeakMap();
      this.dated = new WeakSet();
    }
    for (const party of parties) {
      if (this.dated.has(party)) continue;
      this.dated.add(party);
      for (const date of datesOf(party)) if (date > this.judgedAt && date < this.holdsUntil) this.holdsUntil = date;
    }
  }
}

const none: readonly NeedVerdict[] = [];

const noLinks: readonly TrustLink[] = [];

function indexAfter(before: Index, { parties, links }: PlantTrust): Index {
  const byId = parties === before.parties ? before.byId : new Map(parties.map((party) => [party.applicationId, party]));
  const linksAt = links === before.links ? before.linksAt : linksByEnd(links);
  const touched = new Set<string>();
  const touch = ({ clientId, serverId }: TrustLink): void => {
    touched.add(clientId).add(serverId);
  };
  for (const id of differing(before.byId, byId)) {
    touched.add(id);
    for (const at of [before.linksAt, linksAt]) at.get(id)?.forEach(touch);
  }
  if (links !== before.links) {
    const [were, are] = [new Set(before.links), new Set(links)];
    for (const link of links) if (!were.has(link)) touch(link);
    for (const link of before.links) if (!are.has(link)) touch(link);
  }
  return { number: before.number + 1, touched, parties, links, byId, linksAt };
}

function linksByEnd(links: readonly TrustLink[]): ReadonlyMap<string, readonly TrustLink[]> {
  const linksAt = new Map<string, TrustLink[]>();
  const add = (applicationId: string, link: TrustLink): void => {
    const own = linksAt.get(applicationId);
    if (own) own.push(link);
    else linksAt.set(applicationId, [link]);
  };
  for (const link of links) {
    add(link.clientId, link);
    if (link.serverId !== link.clientId) add(link.serverId, link);
  }
  return linksAt;
}

/** The ids of those that came, went, or are other objects than before. */
function* differing(before: ReadonlyMap<string, TrustParty>, now: ReadonlyMap<string, TrustParty>): Generator<string> {
  if (before === now) return;
  for (const [id, party] of now) if (before.get(id) !== party) yield id;
  for (const id of before.keys()) if (!now.has(id)) yield id;
}

const isSame = (one: readonly NeedVerdict[], other: readonly NeedVerdict[]): boolean =>
  one.length === other.length && one.every((verdict, index) => verdict === other[index]);

/** When something of a party begins or ends. A date belongs to what it ends: it is over with the millisecond after it. */
function* datesOf({ certificate, lists, waivers }: TrustParty): Generator<number> {
  const certificates = [...(lists?.trusted ?? []), ...(lists?.issuers ?? []), ...(certificate ? [certificate] : [])];
  for (const { notBefore, notAfter } of certificates) {
    yield notBefore;
    yield notAfter + 1;
  }
  for (const { thisUpdate, nextUpdate } of lists ? crlsOf(lists) : []) {
    yield thisUpdate;
    if (nextUpdate !== null) yield nextUpdate;
    if (nextUpdate !== null) yield nextUpdate + 1;
  }
  for (const { until } of waivers) {
    yield Date.parse(until);
    yield Date.parse(until) + 1;
  }
}
