import { commonName } from '../certificate.js';
import type { Certificate, Thumbprint } from '../certificate.js';
import type { Crl } from '../crl.js';
import { PlantJudge, emptyLists, listsOf } from '../plant-trust/plant-judge.js';
import { crlsOf, shelfOf, trustNeeds } from '../plant-trust/plant-trust.js';
import type { KnownLists, PlantTrust, Shelf, TrustNeed, TrustParty } from '../plant-trust/plant-trust.js';
import { changedLists, givesCertificate, inSafeOrder, keyOfChange, targetOf } from '../plant-trust/trust-change.js';
import type { TrustChange } from '../plant-trust/trust-change.js';
import type { CertificateProblem } from '../validation/problem.js';
import { sayProblem } from '../validation/problem.js';
import type { SignatureVerifier } from '../x509/signatures.js';

/** `direct`: each application lists the certificates of those it talks to. `authority`: each lists one authority, which signs for all. */
export type Strategy = 'direct' | 'authority';

export interface PlannedChange {
  readonly change: TrustChange;
  readonly why: string;
  /** Links that need it; empty where something is taken away that no link needs. */
  readonly linkIds: readonly string[];
}

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
 * trusted list holds anything that no link needs. What works already is left as it is. Each list is looked at for itself:
 * what one application trusts never depends on what another does, so the smallest set of each makes the smallest of all.
 */
export async function planTrust(plant: PlantTrust, wish: PlanWish, verifier: SignatureVerifier): Promise<TrustPlan> {
  const planner = new Planner(plant, wish, verifier);
  return planner.plan();
}

/** Problems that disappear when the right thing lies in the right list. */
const mendable: ReadonlySet<CertificateProblem['kind']> = new Set([
  'not-trusted',
  'wrong-list',
  'chain-incomplete',
  'crl-missing',
  'crl-stale',
]);

type Wanted = Pick<PlannedChange, 'change' | 'why'>;

/** What would mend a need, if it is enough. */
interface Wish {
  readonly need: TrustNeed;
  readonly wanted: readonly Wanted[];
}

class Planner {
  private readonly judge: PlantJudge;
  private readonly chains = new Map<Certificate, readonly Certificate[]>();
  private readonly shelf: Shelf;
  private readonly authorities: KnownLists;
  private readonly byId: ReadonlyMap<string, TrustParty>;
  private readonly changes = new Map<string, { change: TrustChange; why: string; linkIds: Set<string> }>();
  private readonly remainder: Remainder[] = [];
  private readonly renewed = new Set<string>();

  constructor(
    private readonly plant: PlantTrust,
    private readonly wish: PlanWish,
    verifier: SignatureVerifier,
  ) {
    this.judge = new PlantJudge(plant, verifier);
    const lying = shelfOf(plant);
    this.shelf = {
      certificates: new Map([...lying.certificates, ...wish.known.certificates]),
      crls: [...lying.crls, ...wish.known.crls],
    };
    const isAuthority = (certificate: Certificate): boolean => certificate.isAuthority;
    this.authorities = { ...emptyLists, issuers: [...this.shelf.certificates.values()].filter(isAuthority) };
    this.byId = new Map(plant.parties.map((party) => [party.applicationId, party]));
  }

  async plan(): Promise<TrustPlan> {
    const needs = trustNeeds(this.plant);
    if (this.wish.strategy === 'authority') await this.renewWhatTheAuthorityDidNotSign(needs);
    const byHolder = new Map<string, TrustNeed[]>();
    for (const need of needs) {
      const known = byHolder.get(need.holder.applicationId);
      if (known) known.push(need);
      else byHolder.set(need.holder.applicationId, [need]);
    }
    for (const party of this.plant.parties) await this.planHolder(party, byHolder.get(party.applicationId) ?? []);
    const changes = inSafeOrder(
      [...this.changes.values()].map(({ change, why, linkIds }) => ({ change, why, linkIds: [...linkIds] })),
    );
    return {
      strategy: this.wish.strategy,
      changes,
      restarts: this.restartsOf(changes),
      atRenewal: this.renewalCost(needs, changes),
      remainder: this.remainder,
    };
  }

  /** Everybody who is shown on a link must show a certificate of the authority, in order but for trust. */
  private async renewWhatTheAuthorityDidNotSign(needs: readonly TrustNeed[]): Promise<void> {
    const { authority } = this.wish;
    if (!authority) return;
    const unread = new Set(needs.filter(({ holder }) => !holder.lists).map(({ shown }) => shown.applicationId));
    const lists = { ...this.authorities, trusted: [authority], trustedCrls: this.shelf.crls };
    for (const { link, shown, host } of needs) {
      const judgement = shown.certificate
        ? await this.judge.certificate(lists, shown.certificate, shown.applicationUri, host)
        : null;
      const belongs = judgement?.path.some((certificate) => certificate.is(authority)) ?? false;
      const problems = (judgement?.findings ?? [])
        .flatMap((found) => found ?? [])
        .filter(({ status }) => status !== 'Good');
      const sound = belongs && problems.every(({ kind }) => mendable.has(kind));
      // Whoever keeps lists that nobody knows would refuse the new certificate.
      if (sound || shown.way === 'unknown' || unread.has(shown.applicationId)) continue;
      this.renewed.add(shown.applicationId);
      this.add(
        { kind: 'renew-certificate', applicationId: shown.applicationId, authority: authority.thumbprint },
        belongs && problems[0]
          ? sayProblem(problems[0])
          : `${commonName(authority.subject.text)} did not sign its certificate.`,
        link.linkId,
      );
    }
  }

  private async planHolder(holder: TrustParty, needs: readonly TrustNeed[]): Promise<void> {
    if (!holder.lists) {
      for (const need of needs) this.leave(need, `The lists of ${holder.name} have not been read yet.`);
      return;
    }
    const used = new Set<Thumbprint>();
    const wishes: Wish[] = [];
    for (const need of needs) {
      if (this.renewed.has(need.shown.applicationId)) this.trustAuthority(need, used);
      else wishes.push(...(await this.wishesOf(need, holder.lists, used)));
    }
    await this.grant(holder, wishes, used);
    for (const certificate of holder.lists.trusted)
      if (!used.has(certificate.thumbprint)) this.takeAway(holder, certificate);
  }

  /** What would mend a need; nothing where it is good already, or where trust can’t mend it. */
  private async wishesOf(need: TrustNeed, lists: KnownLists, used: Set<Thumbprint>): Promise<readonly Wish[]> {
    const verdict = await this.judge.need(need);
    if (verdict.result === 'unknown') {
      this.leave(need, verdict.says);
      return [];
    }
    for (const certificate of verdict.judgement.path) used.add(certificate.thumbprint);
    if (verdict.result === 'good') return [];
    const lasting = verdict.problems.find(({ kind }) => !mendable.has(kind));
    if (lasting) {
      this.leave(need, sayProblem(lasting));
      return [];
    }
    return [{ need, wanted: await this.mendingOf(need, verdict.judgement.certificate, lists) }];
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
    const trust: Wanted[] = path.some(isTrusted)
      ? []
      : [{ change: listing(holder, 'trusted', anchor), why: `${holder.name} must trust ${shown.name}.` }];
    const completion = issuers
      .filter((issuer) => issuer !== anchor && !holds(lists.trusted, issuer) && !holds(lists.issuers, issuer))
      .map((issuer): Wanted => ({
        change: listing(holder, 'issuers', issuer),
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
        change: { kind: 'list-crl', holderId: holder.applicationId, list, crlId: crl.id },
        why: `Without a CRL of ${commonName(issuer.subject.text)} in force, ${holder.name} accepts nothing that it signed.`,
      },
    ];
  }

  /** Carries all wishes of a holder out on paper at once; what is not mended by it is left with its reason, and its changes are not made. */
  private async grant(holder: TrustParty, wishes: readonly Wish[], used: Set<Thumbprint>): Promise<void> {
    if (wishes.length === 0) return;
    const all = wishes.flatMap(({ wanted }) => wanted.map(({ change }) => change));
    const after = { ...holder, lists: changedLists(listsOf(holder), all, this.shelf) };
    for (const { need, wanted } of wishes) {
      const judged = await this.judge.need({ ...need, holder: after });
      if (judged.result === 'bad') this.leave(need, judged.problems.map(sayProblem).join(' '));
      if (judged.result !== 'good') continue;
      for (const certificate of judged.judgement.path) used.add(certificate.thumbprint);
      for (const { change, why } of wanted) this.add(change, why, need.link.linkId);
    }
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
    const { strategy, authority } = this.wish;
    return (strategy === 'authority' && authority && issuers.find((issuer) => issuer.is(authority))) || leaf;
  }

  /** The authority gives trust to what it is going to sign; that can’t be judged before it is signed. */
  private trustAuthority({ holder, shown, link }: TrustNeed, used: Set<Thumbprint>): void {
    const { authority } = this.wish;
    if (!authority) return;
    const lists = listsOf(holder);
    used.add(authority.thumbprint);
    if (!holds(lists.trusted, authority))
      this.add(listing(holder, 'trusted', authority), `It will sign the certificate of ${shown.name}.`, link.linkId);
    if (this.plant.crlsDemanded)
      for (const { change, why } of this.crlWanted(holder, authority, lists, authority))
        this.add(change, why, link.linkId);
  }

  private newestCrl(issuer: Certificate): Crl | null {
    const fits = this.shelf.crls.filter(
      (crl) =>
        crl.issuer.equals(issuer.subject) &&
        crl.unusable === null &&
        crl.thisUpdate <= this.plant.at &&
        (crl.authorityKeyId === null || crl.authorityKeyId === issuer.extensions.subjectKeyId),
    );
    return fits.reduce<Crl | null>((best, crl) => (!best || crl.thisUpdate > best.thisUpdate ? crl : best), null);
  }

  private takeAway(holder: TrustParty, certificate: Certificate): void {
    const { applicationId: holderId } = holder;
    const { thumbprint } = certificate;
    this.add(
      { kind: 'unlist-certificate', holderId, list: 'trusted', thumbprint },
      `No link needs ${holder.name} to trust ${commonName(certificate.subject.text)}.`,
      null,
    );
  }

  private add(change: TrustChange, why: string, linkId: string | null): void {
    const key = keyOfChange(change);
    const known = this.changes.get(key) ?? { change, why, linkIds: new Set<string>() };
    if (linkId !== null) known.linkIds.add(linkId);
    this.changes.set(key, known);
  }

  private leave({ link, holder, shown }: TrustNeed, says: string): void {
    this.remainder.push({ linkId: link.linkId, holderId: holder.applicationId, shownId: shown.applicationId, says });
  }

  private restartsOf(changes: readonly PlannedChange[]): readonly string[] {
    const isRestart = ({ change }: PlannedChange): boolean => {
      const target = this.byId.get(targetOf(change));
      // A new certificate counts only after a restart; a client that the product holds is none that runs.
      return target !== undefined && (target.restarts || (givesCertificate(change) && target.way !== 'held'));
    };
    return [...new Set(changes.filter(isRestart).map(({ change }) => targetOf(change)))];
  }

  /** A renewed certificate must be put into each list that trusts the old one for itself. */
  private renewalCost(needs: readonly TrustNeed[], changes: readonly PlannedChange[]): TrustPlan['atRenewal'] {
    const added = new Set(changes.map(({ change }) => keyOfChange(change)));
    const listsTouched = new Map<string, Set<string>>();
    for (const { holder, shown } of needs) {
      const touched = listsTouched.get(shown.applicationId) ?? new Set<string>();
      listsTouched.set(shown.applicationId, touched);
      if (this.renewed.has(shown.applicationId) || !shown.certificate) continue;
      const isListed =
        holds(listsOf(holder).trusted, shown.certificate) ||
        added.has(keyOfChange(listing(holder, 'trusted', shown.certificate)));
      if (isListed) touched.add(holder.applicationId);
    }
    const counts = [...listsTouched.values()].map((touched) => touched.size + 1);
    const sum = counts.reduce((total, count) => total + count, 0);
    return { most: Math.max(0, ...counts), mean: counts.length === 0 ? 0 : sum / counts.length };
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
