import { commonName } from '../certificate.js';
import type { Certificate, Thumbprint } from '../certificate.js';
import { speaksOfAll } from '../crl.js';
import type { Crl } from '../crl.js';
import { JudgeMemory } from '../plant-trust/judged-plant.js';
import type { JudgedTrust } from '../plant-trust/judged-plant.js';
import { emptyLists, listsOf } from '../plant-trust/plant-judge.js';
import type { NeedVerdict, PlantJudge } from '../plant-trust/plant-judge.js';
import { crlsOf, shelfOf } from '../plant-trust/plant-trust.js';
import type { KnownLists, PlantTrust, Shelf, TrustLink, TrustNeed, TrustParty } from '../plant-trust/plant-trust.js';
import { PromisedParties, withPromises } from '../plant-trust/promised.js';
import { isSameAuthority } from '../plant-trust/succession.js';
import {
  changedLists,
  givesCertificate,
  inSafeOrder,
  keyOfChange,
  listingCrl,
  targetOf,
} from '../plant-trust/trust-change.js';
import type { TrustChange } from '../plant-trust/trust-change.js';
import { sayProblem } from '../validation/problem.js';
import { mayServe } from './idle.js';
import type { PlannedChange } from './planned-change.js';
import { RenewalReasons, Renewals, mendable } from './renewals.js';
import { turnOf } from './what-if.js';
import type { LinkTurn } from './what-if.js';
import type { SignatureVerifier } from '../x509/signatures.js';

/** `direct`: each application lists the certificates of those it talks to. `authority`: each lists one authority, which signs for all. */
export type Strategy = 'direct' | 'authority';

/** A need that no change of trust mends, and why. */
export interface Remainder {
  readonly linkId: string;
  readonly holderId: string;
  readonly shownId: string;
  readonly says: string;
}

export interface TrustPlan {
  readonly strategy: Strategy;
  readonly changes: readonly PlannedChange[];
  /** Applications that must be restarted for it. */
  readonly restarts: readonly string[];
  /** How many lists must be touched when one application’s certificate is renewed afterwards: for the worst of them, and on average. */
  readonly atRenewal: { readonly most: number; readonly mean: number };
  readonly remainder: readonly Remainder[];
  /** Links that it turns. */
  readonly turns: readonly LinkTurn[];
}

/** The plan of one application, by itself. */
interface HolderPlan {
  readonly needs: readonly NeedVerdict[];
  readonly changes: readonly PlannedChange[];
  readonly remainder: readonly Remainder[];
  /** What its needs are after the changes; where nothing changes, what they are now. */
  readonly after: readonly NeedVerdict[];
  /** Applications whose certificates are shown to it. */
  readonly meets: readonly string[];
  /** Those whose certificates it lists for themselves, afterwards: they touch it when they are renewed. */
  readonly lists: readonly string[];
}

/** How a link turns by the plans of its ends. */
interface KeptTurn {
  readonly client: HolderPlan;
  readonly server: HolderPlan;
  readonly turns: readonly LinkTurn[];
}

/**
 * What was planned before, of one strategy and authority: plans of applications of whom nothing has changed are not made
 * again, and who was promised a certificate is promised the same one.
 */
export class PlanMemory {
  private heldWith: readonly unknown[] = [];
  private holders = new Map<TrustParty, HolderPlan>();
  private promised = new PromisedParties();
  /** Judges the plant as it will be with all promised certificates. */
  private readonly paper: JudgeMemory;
  readonly reasons = new RenewalReasons();
  private turns = new WeakMap<TrustLink, KeptTurn>();

  constructor(verifier: SignatureVerifier) {
    this.paper = new JudgeMemory(withPromises(verifier));
  }

  /** Forgets all that was planned with anything else than what is known now beside the lists. */
  holdWith(known: readonly unknown[]): void {
    const isSame = known.length === this.heldWith.length && known.every((one, index) => one === this.heldWith[index]);
    this.heldWith = known;
    if (isSame) return;
    this.holders = new Map();
    this.promised = new PromisedParties();
    this.turns = new WeakMap();
    this.reasons.forget();
  }

  before(party: TrustParty, needs: readonly NeedVerdict[]): HolderPlan | null {
    const known = this.holders.get(party);
    return known?.needs === needs ? known : null;
  }

  keep(holders: Map<TrustParty, HolderPlan>): void {
    this.holders = holders;
  }

  /** How a link turns; null where one of its ends is planned for anew. */
  turnBefore(link: TrustLink, client: HolderPlan, server: HolderPlan): readonly LinkTurn[] | null {
    const known = this.turns.get(link);
    return known?.client === client && known.server === server ? known.turns : null;
  }

  keepTurn(link: TrustLink, turn: KeptTurn): void {
    this.turns.set(link, turn);
  }

  /** What applications make of each other once an authority has signed anew for some of them. */
  afterRenewing(plant: PlantTrust, authority: Certificate, renewed: ReadonlySet<string>): JudgedTrust['needsOf'] {
    const shownLater = (party: TrustParty): TrustParty =>
      renewed.has(party.applicationId) ? this.promised.of(party, authority, plant.at) : party;
    const later = new Map(plant.parties.map((party) => [party, shownLater(party)]));
    const { needsOf } = this.paper.of({ ...plant, parties: [...later.values()] });
    return (party) => needsOf(later.get(party) ?? party);
  }
}

export interface PlanWish {
  readonly strategy: Strategy;
  /** The plant’s authority; without one, only `direct` can be planned. */
  readonly authority: Certificate | null;
  /** Certificates and CRLs that are known beside those that lie in lists. */
  readonly known: Shelf;
}

/**
 * The smallest set of changes after which every wanted link is trusted both ways, as far as trust alone can mend it, and no
 * trusted list holds anything that no link needs. What works already is left as it is, unless it works only by what the
 * authority was before it was renewed with its key. Whoever is to be given a certificate is judged by the one that is
 * promised. Each list is looked at for itself:
 * what one application trusts never depends on what another does, so the smallest set of each makes the smallest of all.
 */
export async function planTrust(
  plant: PlantTrust,
  wish: PlanWish,
  verifier: SignatureVerifier,
  kept: Kept = { judged: new JudgeMemory(withPromises(verifier)), plans: new PlanMemory(verifier) },
): Promise<TrustPlan> {
  return new Planner(kept.judged.of(plant), wish, kept.plans).plan(wish.strategy);
}

/** What was judged and planned of the same plant before; the judge believes in promises (`withPromises`). */
export interface Kept {
  readonly judged: JudgeMemory;
  /** Of the same strategy and authority. */
  readonly plans: PlanMemory;
}

/** What is to be changed for one application, and what is left over. */
class Sheet {
  private readonly changes = new Map<string, { change: TrustChange; why: string; linkIds: Set<string> }>();
  readonly remainder: Remainder[] = [];

  add(change: TrustChange, why: string, linkIds: readonly string[]): void {
    const key = keyOfChange(change);
    const known = this.changes.get(key) ?? { change, why, linkIds: new Set<string>() };
    for (const linkId of linkIds) known.linkIds.add(linkId);
    this.changes.set(key, known);
  }

  leave({ link, holder, shown }: TrustNeed, says: string): void {
    this.remainder.push({ linkId: link.linkId, holderId: holder.applicationId, shownId: shown.applicationId, says });
  }

  get planned(): readonly PlannedChange[] {
    return [...this.changes.values()].map(({ change, why, linkIds }) => ({ change, why, linkIds: [...linkIds] }));
  }
}

type Wanted = Pick<PlannedChange, 'change' | 'why'>;

/** What would mend a need, if it is enough. */
interface Wish {
  readonly need: TrustNeed;
  readonly wanted: readonly Wanted[];
  /** By what it works already, and is to work no longer; null where it doesn’t work yet. */
  readonly instead: readonly Certificate[] | null;
}

class Planner {
  private readonly judge: PlantJudge;
  private readonly chains = new Map<Certificate, readonly Certificate[]>();
  private readonly shelf: Shelf;
  /** What chains are built with: all authorities that are known, and the plant’s own preferred. */
  private readonly authorities: KnownLists;
  /** The authority that is to sign for all; null where each is trusted for itself. */
  private readonly authority: Certificate | null;

  private readonly plant: PlantTrust;

  constructor(
    private readonly judged: JudgedTrust,
    wish: PlanWish,
    private readonly memory: PlanMemory,
  ) {
    const { plant } = judged;
    this.plant = plant;
    this.judge = judged.judge;
    this.authority = wish.strategy === 'authority' ? wish.authority : null;
    const lying = shelfOf(plant, this.authority ? [this.authority] : []);
    this.shelf = {
      certificates: new Map([...lying.certificates, ...wish.known.certificates]),
      crls: [...lying.crls, ...wish.known.crls],
    };
    const isAuthority = (certificate: Certificate): boolean => certificate.isAuthority;
    this.authorities = {
      ...emptyLists,
      trusted: this.authority ? [this.authority] : [],
      issuers: [...this.shelf.certificates.values()].filter(isAuthority),
    };
  }

  async plan(strategy: Strategy): Promise<TrustPlan> {
    this.memory.holdWith([this.judge, this.authority, ...this.authorities.issuers, ...this.shelf.crls]);
    const renewals = this.authority ? await this.renewals(this.authority).wanted() : [];
    const renewed = new Set(renewals.map(({ change }) => targetOf(change)));
    const needsOf =
      this.authority && renewed.size > 0
        ? this.memory.afterRenewing(this.plant, this.authority, renewed)
        : this.judged.needsOf;
    const holders = new Map<TrustParty, HolderPlan>();
    for (const party of this.plant.parties) {
      const there = needsOf(party);
      const needs = there instanceof Promise ? await there : there;
      holders.set(party, this.memory.before(party, needs) ?? (await this.planHolder(party, needs)));
    }
    this.memory.keep(holders);
    const plans = [...holders.values()];
    const changes = inSafeOrder([...renewals, ...plans.flatMap((plan) => plan.changes)]);
    return {
      strategy,
      changes,
      restarts: this.restartsOf(changes),
      atRenewal: this.renewalCost(holders),
      remainder: plans.flatMap(({ remainder }) => remainder),
      turns: await this.turnsOf(holders, renewed.size > 0),
    };
  }

  /** Each application’s plan tells what its needs are afterwards. */
  private async turnsOf(
    holders: ReadonlyMap<TrustParty, HolderPlan>,
    isRenewing: boolean,
  ): Promise<readonly LinkTurn[]> {
    const planOf = (id: string): HolderPlan | undefined => {
      const party = this.judged.partyOf(id);
      return party && holders.get(party);
    };
    const after = new AfterPlans();
    const turns: LinkTurn[] = [];
    for (const link of this.plant.links) {
      const [client, server] = [planOf(link.clientId), planOf(link.serverId)];
      if (!client || !server) continue;
      if (!isRenewing && client.changes.length === 0 && server.changes.length === 0) continue;
      const before = this.memory.turnBefore(link, client, server);
      if (before) {
        turns.push(...before);
        continue;
      }
      const there = this.judged.verdictsOf(link);
      const were = there instanceof Promise ? await there : there;
      const will = were.map(
        (verdict) => after.of(verdict.need.holder.applicationId === link.clientId ? client : server, link) ?? verdict,
      );
      const found = turnOf(link, were, will);
      this.memory.keepTurn(link, { client, server, turns: found });
      turns.push(...found);
    }
    return turns;
  }

  private renewals(authority: Certificate): Renewals {
    const under = { ...this.authorities, trustedCrls: this.shelf.crls };
    return new Renewals(this.judged, authority, under, this.memory.reasons);
  }

  private async planHolder(holder: TrustParty, needs: readonly NeedVerdict[]): Promise<HolderPlan> {
    const sheet = new Sheet();
    const { lists } = holder;
    const meets = [...new Set(needs.map(({ need }) => need.shown.applicationId))];
    if (!lists) {
      for (const { need } of needs) sheet.leave(need, `The lists of ${holder.name} have not been read yet.`);
      return { needs, changes: [], remainder: sheet.remainder, after: needs, meets, lists: [] };
    }
    const used = new Set<Thumbprint>();
    const wishes: Wish[] = [];
    for (const verdict of needs) wishes.push(...(await this.wishesOf(verdict, lists, used, sheet)));
    const granted = await this.grant(holder, wishes, used, sheet);
    for (const certificate of lists.trusted)
      if (!used.has(certificate.thumbprint)) this.takeAway(holder, certificate, sheet);
    const changes = sheet.planned;
    const after = changes.length === 0 ? needs : await this.judgedAfter(holder, changes, needs, granted, used);
    return { needs, changes, remainder: sheet.remainder, after, meets, lists: listedFor(holder, changes, needs) };
  }

  /**
   * What the needs are after the changes. What is good by certificates that all stay is good whatever else is listed; only a
   * CRL can turn it, so where one comes along all are judged again.
   */
  private async judgedAfter(
    holder: TrustParty,
    changes: readonly PlannedChange[],
    needs: readonly NeedVerdict[],
    granted: ReadonlyMap<TrustNeed, NeedVerdict>,
    used: ReadonlySet<Thumbprint>,
  ): Promise<readonly NeedVerdict[]> {
    const made = changes.map(({ change }) => change);
    const after = { ...holder, lists: changedLists(listsOf(holder), made, this.shelf) };
    const bringsCrl = made.some(({ kind }) => kind === 'list-crl');
    const verdicts: NeedVerdict[] = [];
    for (const verdict of needs) {
      const { need } = verdict;
      const best = granted.get(need) ?? verdict;
      const stays = best.result === 'good' && best.judgement.path.every(({ thumbprint }) => used.has(thumbprint));
      verdicts.push(
        stays && !bringsCrl ? { ...best, need } : { ...(await this.judge.need({ ...need, holder: after })), need },
      );
    }
    return verdicts;
  }

  /** What would mend a need; nothing where it is good already, or where trust can’t mend it. */
  private async wishesOf(
    verdict: NeedVerdict,
    lists: KnownLists,
    used: Set<Thumbprint>,
    sheet: Sheet,
  ): Promise<readonly Wish[]> {
    const { need } = verdict;
    if (verdict.result === 'unknown') {
      sheet.leave(need, verdict.says);
      for (const listed of lists.trusted) if (mayServe(listed, need.shown)) used.add(listed.thumbprint);
      return [];
    }
    const { path, certificate } = verdict.judgement;
    if (verdict.result === 'good' && path.some((one) => this.isFormerSelf(one)))
      return [{ need, wanted: await this.mendingOf(need, certificate, this.withoutFormerSelf(lists)), instead: path }];
    for (const one of path) used.add(one.thumbprint);
    if (verdict.result === 'good') return [];
    const lasting = verdict.problems.find(({ kind }) => !mendable.has(kind));
    if (lasting) {
      sheet.leave(need, sayProblem(lasting));
      return [];
    }
    return [{ need, wanted: await this.mendingOf(need, certificate, lists), instead: null }];
  }

  /** The authority before it was renewed with its key: what it signed hangs below both. */
  private isFormerSelf(certificate: Certificate): boolean {
    const { authority } = this;
    return authority !== null && !certificate.is(authority) && isSameAuthority(certificate, authority);
  }

  private withoutFormerSelf(lists: KnownLists): KnownLists {
    const rest = (list: readonly Certificate[]): readonly Certificate[] =>
      list.filter((certificate) => !this.isFormerSelf(certificate));
    return { ...lists, trusted: rest(lists.trusted), issuers: rest(lists.issuers) };
  }

  /** The right things in the right lists. */
  private async mendingOf(
    { holder, shown }: TrustNeed,
    certificate: Certificate,
    lists: KnownLists,
  ): Promise<readonly Wanted[]> {
    const path = await this.chainOf(certificate);
    const [leaf, ...issuers] = path;
    if (!leaf) return [];
    const anchor = this.anchorOf(leaf, issuers);
    const isTrusted = (listed: Certificate, index: number): boolean =>
      holds(lists.trusted, listed) && (index === 0 || listed.isAuthority);
    const isGiven = path.some(isTrusted);
    const trust: Wanted[] = isGiven
      ? []
      : [{ change: listing(holder, 'trusted', anchor), why: `${holder.name} must trust ${shown.name}.` }];
    const completion = issuers
      .filter((issuer) => !holds(lists.trusted, issuer) && !holds(lists.issuers, issuer))
      .filter((issuer) => isGiven || issuer !== anchor)
      .map((issuer): Wanted => ({
        change: listing(holder, issuer === anchor ? 'trusted' : 'issuers', issuer),
        why: `The chain of ${shown.name} is incomplete without it.`,
      }));
    const crls = this.plant.crlsDemanded
      ? issuers.flatMap((issuer) => this.crlWanted(holder, issuer, lists, anchor))
      : [];
    return [...trust, ...completion, ...crls];
  }

  private crlWanted(
    holder: TrustParty,
    issuer: Certificate,
    lists: KnownLists,
    anchor: Certificate,
  ): readonly Wanted[] {
    const crl = this.newestCrl(issuer);
    if (!crl || crlsOf(lists).some(({ id }) => id === crl.id)) return [];
    const list = issuer === anchor ? ('trusted' as const) : ('issuers' as const);
    return [
      {
        change: listingCrl(holder.applicationId, list, crl, lists),
        why: `Without a CRL of ${commonName(issuer.subject.text)} in force, ${holder.name} accepts nothing that it signed.`,
      },
    ];
  }

  /** Carries all wishes of a holder out on paper at once; what is not mended by it is left with its reason, and its changes are not made. */
  private async grant(
    holder: TrustParty,
    wishes: readonly Wish[],
    used: Set<Thumbprint>,
    sheet: Sheet,
  ): Promise<ReadonlyMap<TrustNeed, NeedVerdict>> {
    const granted = new Map<TrustNeed, NeedVerdict>();
    if (wishes.length === 0) return granted;
    const all = wishes.flatMap(({ wanted }) => wanted.map(({ change }) => change));
    const after = changedLists(listsOf(holder), all, this.shelf);
    const whole = { ...holder, lists: after };
    const moved = { ...holder, lists: this.withoutFormerSelf(after) };
    for (const { need, wanted, instead } of wishes) {
      const judged = await this.judge.need({ ...need, holder: instead ? moved : whole });
      const isGranted = judged.result === 'good';
      if (judged.result === 'bad' && !instead) sheet.leave(need, judged.problems.map(sayProblem).join(' '));
      for (const certificate of isGranted ? judged.judgement.path : (instead ?? [])) used.add(certificate.thumbprint);
      if (!isGranted) continue;
      granted.set(need, judged);
      for (const { change, why } of wanted) sheet.add(change, why, [need.link.linkId]);
    }
    return granted;
  }

  private async chainOf(certificate: Certificate): Promise<readonly Certificate[]> {
    const known = this.chains.get(certificate);
    if (known) return known;
    const chain = await this.judge.chainOf(certificate, this.authorities);
    this.chains.set(certificate, chain);
    return chain;
  }

  /** Directly: the certificate itself. By authority: the plant’s authority where it stands in the chain. */
  private anchorOf(leaf: Certificate, issuers: readonly Certificate[]): Certificate {
    const { authority } = this;
    return (authority && issuers.find((issuer) => issuer.is(authority))) ?? leaf;
  }

  private newestCrl(issuer: Certificate): Crl | null {
    const fits = this.shelf.crls.filter(
      (crl) =>
        crl.issuer.equals(issuer.subject) &&
        speaksOfAll(crl) &&
        crl.thisUpdate <= this.plant.at &&
        (crl.authorityKeyId === null || crl.authorityKeyId === issuer.extensions.subjectKeyId),
    );
    return fits.reduce<Crl | null>((best, crl) => (!best || crl.thisUpdate > best.thisUpdate ? crl : best), null);
  }

  private takeAway(holder: TrustParty, certificate: Certificate, sheet: Sheet): void {
    const { applicationId: holderId } = holder;
    const { thumbprint } = certificate;
    sheet.add(
      { kind: 'unlist-certificate', holderId, list: 'trusted', thumbprint },
      `No link needs ${holder.name} to trust ${commonName(certificate.subject.text)}.`,
      [],
    );
  }

  private restartsOf(changes: readonly PlannedChange[]): readonly string[] {
    const isRestart = ({ change }: PlannedChange): boolean => {
      const target = this.judged.partyOf(targetOf(change));
      // A new certificate counts only after a restart; a client that the product holds is none that runs.
      return target !== undefined && (target.restarts || (givesCertificate(change) && target.way !== 'held'));
    };
    return [...new Set(changes.filter(isRestart).map(({ change }) => targetOf(change)))];
  }

  /** A renewed certificate must be put into each list that trusts the old one for itself. */
  private renewalCost(holders: ReadonlyMap<TrustParty, HolderPlan>): TrustPlan['atRenewal'] {
    const touched = new Map<string, number>();
    for (const { meets, lists } of holders.values()) {
      for (const shown of meets) if (!touched.has(shown)) touched.set(shown, 0);
      for (const shown of lists) touched.set(shown, (touched.get(shown) ?? 0) + 1);
    }
    let [most, sum] = [0, 0];
    for (const lists of touched.values()) {
      most = Math.max(most, lists + 1);
      sum += lists + 1;
    }
    return { most, mean: touched.size === 0 ? 0 : sum / touched.size };
  }
}

/** The applications whose certificates a list holds for themselves once changes are made. */
function listedFor(
  holder: TrustParty,
  changes: readonly PlannedChange[],
  needs: readonly NeedVerdict[],
): readonly string[] {
  const added = new Set(changes.map(({ change }) => keyOfChange(change)));
  const found = new Set<string>();
  for (const { need } of needs) {
    const { certificate, applicationId } = need.shown;
    if (!certificate || found.has(applicationId)) continue;
    if (
      holds(listsOf(holder).trusted, certificate) ||
      (added.size > 0 && added.has(keyOfChange(listing(holder, 'trusted', certificate))))
    )
      found.add(applicationId);
  }
  return [...found];
}

/** What plans come to, by links; looked up only where somebody asks. */
class AfterPlans {
  private readonly byPlan = new Map<HolderPlan, ReadonlyMap<TrustLink, NeedVerdict>>();

  of(plan: HolderPlan, link: TrustLink): NeedVerdict | undefined {
    let byLink = this.byPlan.get(plan);
    if (!byLink) {
      byLink = new Map(plan.after.map((verdict) => [verdict.need.link, verdict]));
      this.byPlan.set(plan, byLink);
    }
    return byLink.get(link);
  }
}

const holds = (list: readonly Certificate[], certificate: Certificate): boolean =>
  list.some((listed) => listed.is(certificate));

const listing = (holder: TrustParty, list: 'trusted' | 'issuers', { thumbprint }: Certificate): TrustChange => ({
  kind: 'list-certificate',
  holderId: holder.applicationId,
  list,
  thumbprint,
  until: null,
});
