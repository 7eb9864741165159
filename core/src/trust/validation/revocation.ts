import type { Certificate } from '../certificate.js';
import { crlEntryOf } from '../crl.js';
import type { Crl, RevokedEntry } from '../crl.js';
import { uncomputed } from '../x509/algorithms.js';
import { allReasons, directoryKey } from '../x509/distribution-points.js';
import type { ReasonMask } from '../x509/distribution-points.js';
import { policyFault } from './certificate-policies.js';
import { otherCrlIssuers, reachOf, reasonsMissing } from './crl-reach.js';
import type { KnownSignatures } from './known-signatures.js';
import type { ReadTrustList } from './lists.js';
import { nameConstraintFault } from './name-constraints.js';
import { PathFinder, lastOf } from './paths.js';
import { about } from './problem.js';
import type { CertificateProblem } from './problem.js';
import { usageProblems } from './usage.js';
import { validityProblems } from './validity.js';

export interface RevocationFindings {
  readonly lists: readonly CertificateProblem[];
  readonly revoked: readonly CertificateProblem[];
}

interface Demand {
  readonly at: number;
  readonly crlsDemanded: boolean;
}

/** What a CRL is looked up for. */
interface Search {
  readonly below: Certificate;
  readonly issuer: Certificate;
  /** Where the path of the certificate in question ends. */
  readonly anchor: Certificate;
  readonly demand: Demand;
  /** CRLs whose signers are being validated just now: none of them speaks for its own signer. */
  readonly pending: ReadonlySet<Crl>;
}

/** A CRL that may speak of a certificate. */
interface Fit {
  readonly crl: Crl;
  readonly reasons: ReasonMask;
}

/** What all CRLs together say of a certificate. */
interface Standing {
  readonly entry: RevokedEntry | null;
  /** When the first of them should have been replaced; null: none says so. */
  readonly nextUpdate: number | null;
  /** Why they don’t settle it; null where they do, and where there is none at all. */
  readonly refused: string | null;
  readonly isSettled: boolean;
}

const clean: RevocationFindings = { lists: [], revoked: [] };

/**
 * Steps 10 and 11: usable CRLs for every issuer in a path, and nothing in the path on them (RFC 5280 §6.3): CRLs for parts
 * that are put together until all reasons are spoken of, those of other issuers that a certificate names, and what has
 * changed since.
 */
export class Revocations {
  private readonly byIssuer = new Map<string, Crl[]>();

  constructor(
    private readonly list: ReadTrustList,
    private readonly signatures: KnownSignatures,
  ) {
    for (const crl of list.crls) {
      const key = directoryKey(crl.issuer.key);
      this.byIssuer.set(key, [...(this.byIssuer.get(key) ?? []), crl]);
    }
  }

  /** At once where there is neither a CRL nor a demand for one. */
  of(path: readonly Certificate[], demand: Demand): RevocationFindings | Promise<RevocationFindings> {
    const isNothing = this.byIssuer.size === 0 && this.list.unreadableCrls.length === 0 && !demand.crlsDemanded;
    return isNothing ? clean : this.lookedUp(path, demand, new Set());
  }

  private async lookedUp(
    path: readonly Certificate[],
    demand: Demand,
    pending: ReadonlySet<Crl>,
  ): Promise<RevocationFindings> {
    const { at, crlsDemanded } = demand;
    const lists: CertificateProblem[] = [];
    const revoked: CertificateProblem[] = [];
    for (let index = 1; index < path.length; index += 1) {
      const issuer = path[index] as Certificate;
      const below = path[index - 1] as Certificate;
      const ofIssuer = index > 1;
      const found = await this.standingOf({ below, issuer, anchor: lastOf(path), demand, pending });
      const { entry, nextUpdate, refused, isSettled } = found;
      if (refused !== null || (!isSettled && crlsDemanded)) lists.push(missing(below, issuer, ofIssuer, refused));
      if (nextUpdate !== null && nextUpdate < at) lists.push(stale(below, issuer, ofIssuer, nextUpdate));
      if (entry) revoked.push(onTheList(below, issuer, ofIssuer, entry.since));
      lists.push(...this.unreadable(below, issuer, isSettled));
    }
    return { lists, revoked };
  }

  /** Nobody can say whose it is: where nothing else tells of a certificate, it may be what revokes it. */
  private unreadable(below: Certificate, issuer: Certificate, isSettled: boolean): readonly CertificateProblem[] {
    return this.list.unreadableCrls.slice(0, 1).map((says) => ({
      kind: 'crl-unreadable',
      status: isSettled ? 'Good' : 'BadCertificateRevocationUnknown',
      ...about(below),
      issuer: issuer.subject.text,
      count: this.list.unreadableCrls.length,
      says,
    }));
  }

  private async standingOf(search: Search): Promise<Standing> {
    const { fits, deltas, hiding, refused } = await this.fitting(search);
    const { below } = search;
    const coveredBy = new Map<string, ReasonMask>();
    let entry: RevokedEntry | null = null;
    let nextUpdate: number | null = null;
    const taken: Crl[] = [];
    // A newer one takes the place of an older one of its issuer that speaks of no further reason (RFC 5280 §6.3.3 e).
    for (const { crl, newest, reasons } of newestFirst(fits, deltas)) {
      const before = coveredBy.get(crl.issuer.key) ?? 0;
      if ((reasons & ~before) === 0) continue;
      coveredBy.set(crl.issuer.key, before | reasons);
      taken.push(newest);
      const said = [newest, crl].map((one) => crlEntryOf(one, below.issuer, below.serialNumber)).find(Boolean);
      if (said && said.reason !== 'removeFromCRL') entry ??= said;
      const until = latest(crl.nextUpdate, newest.nextUpdate);
      if (until !== null) nextUpdate = Math.min(nextUpdate ?? until, until);
    }
    if (taken.length === 0) return { entry, nextUpdate, refused: hiding[0]?.says ?? refused, isSettled: false };
    const covered = [...coveredBy.values()].reduce((all, reasons) => all | reasons, 0);
    const lonely = deltas.find(
      (delta) => !fits.some(({ crl }) => buildsOn(delta, crl)) && taken.every((crl) => isNewer(delta, crl)),
    );
    const hidden = hiding.find(({ crl }) => taken.every((one) => one.thisUpdate < crl.thisUpdate));
    const isSettled = covered === allReasons;
    return {
      entry,
      nextUpdate,
      refused: lonely ? withoutBase(lonely) : (hidden?.says ?? (isSettled ? null : silentAbout(covered))),
      isSettled,
    };
  }

  /** The CRLs that may speak of a certificate, and why none of the others does. */
  private async fitting(search: Search): Promise<{
    readonly fits: Fit[];
    readonly deltas: readonly Crl[];
    /** By their signer’s word they tell of the certificate, and can’t be used. */
    readonly hiding: readonly { readonly crl: Crl; readonly says: string }[];
    readonly refused: string | null;
  }> {
    const { below, demand, pending } = search;
    const fits: Fit[] = [];
    const deltas: Crl[] = [];
    const hiding: { crl: Crl; says: string }[] = [];
    let refused: string | null = null;
    for (const crl of this.candidates(search)) {
      const { reasons, says } = reachOf(crl, below);
      const fault =
        says ??
        timeFault(crl, demand.at) ??
        (pending.has(crl) ? 'Its signer can’t be judged without it.' : await this.signerFault(crl, search));
      if (fault === anothers) continue;
      if (fault !== null) refused = fault;
      else if (crl.unusable !== null) hiding.push({ crl, says: crl.unusable });
      else if (crl.deltaOf !== null) deltas.push(crl);
      else fits.push({ crl, reasons });
    }
    const [lonely] = deltas;
    return { fits, deltas, hiding, refused: refused ?? (lonely ? withoutBase(lonely) : null) };
  }

  private candidates({ below, issuer }: Search): readonly Crl[] {
    const keys = new Set([directoryKey(issuer.subject.key), ...otherCrlIssuers(below)]);
    return [...keys].flatMap((key) => this.byIssuer.get(key) ?? []);
  }

  /**
   * The issuer in the path may sign, and whoever has its name and leads to the same trust anchor, all in force: an issuer
   * that was renewed (RFC 5280 §6.3.3 f).
   */
  private async signerFault(crl: Crl, search: Search): Promise<string | null> {
    const { issuer } = search;
    const uncheckable = uncomputed(crl.signatureAlgorithm);
    let fault = uncheckable
      ? `It was signed with ${uncheckable}, which is not checked here.`
      : 'Its signature was not made with the issuer’s key.';
    for (const signer of this.signersFor(crl, issuer)) {
      if (!(await this.signatures.isSignedWith(crl, signer.publicKey))) continue;
      if (!(signer.extensions.keyUsages?.includes('cRLSign') ?? true))
        fault = 'It was signed by an authority whose key usage does not allow signing CRLs.';
      else if (signer.is(issuer) || (await this.isInForce(signer, crl, search))) return null;
      else if (signer.isAuthority && this.list.trusts(signer)) return anothers;
      else fault = 'Its signer has the issuer’s name, and is not valid up to the same trust anchor.';
    }
    return fault;
  }

  /** The certificate’s issuer itself where it bears the name, and where it did not sign, all who bear it. */
  private *signersFor(crl: Crl, issuer: Certificate): Generator<Certificate> {
    if (issuer.subject.equals(crl.issuer)) yield issuer;
    for (const list of [this.list.trusted, this.list.issuers])
      for (const other of list) if (other.subject.equals(crl.issuer)) yield other;
  }

  private async isInForce(signer: Certificate, crl: Crl, { anchor, demand, pending }: Search): Promise<boolean> {
    const { trusted, issuers } = this.list;
    const finder = new PathFinder([...trusted, ...issuers], this.signatures, (certificate) => certificate.is(anchor));
    let isFound = false;
    const pleases = async ({ certificates: path }: { readonly certificates: readonly Certificate[] }) => {
      if (!lastOf(path).is(anchor) || !isSoundPath(path, demand.at)) return false;
      const { lists, revoked } = await this.lookedUp(path, demand, new Set([...pending, crl]));
      return (isFound = lists.length === 0 && revoked.length === 0);
    };
    await finder.find(signer, demand.at, { pleases });
    return isFound;
  }
}

/** Said of a CRL by another authority that is trusted for itself and happens to have the same name: it is none of the issuer’s. */
const anothers = 'It is another authority’s of the same name.';

/** Whether all of a signer’s path may do what it does there at that time. */
function isSoundPath(path: readonly Certificate[], at: number): boolean {
  const isStrange = path.some(({ extensions }) => extensions.unknownCritical.length > 0);
  const problems = [
    ...validityProblems(path, { at, warnDays: 0 }),
    ...usageProblems(path, false, nameConstraintFault(path), policyFault(path)),
  ];
  return !isStrange && problems.length === 0;
}

const timeFault = (crl: Crl, at: number): string | null =>
  crl.thisUpdate > at ? 'It was issued later than the time in question.' : null;

/** A delta applies to a complete CRL of the same scope and signer whose number lies between its base and itself (§6.3.3 c). */
const buildsOn = (delta: Crl, complete: Crl): boolean =>
  complete.number !== null &&
  delta.issuer.equals(complete.issuer) &&
  delta.scope.key === complete.scope.key &&
  delta.authorityKeyId === complete.authorityKeyId &&
  valueOf(delta.deltaOf) <= valueOf(complete.number) &&
  isNewer(delta, complete);

const isNewer = (delta: Crl, complete: Crl): boolean =>
  complete.number === null ? delta.thisUpdate > complete.thisUpdate : valueOf(delta.number) > valueOf(complete.number);

const valueOf = (number: string | null): bigint => BigInt(`0x${number ?? '0'}`);

const newestOf = (crls: readonly Crl[]): Crl | null =>
  crls.reduce<Crl | null>((best, crl) => (best && valueOf(best.number) >= valueOf(crl.number) ? best : crl), null);

/** Each complete CRL with the newest delta that builds on it, where there is one; the newest of them first. */
const newestFirst = (fits: readonly Fit[], deltas: readonly Crl[]): readonly (Fit & { readonly newest: Crl })[] =>
  fits
    .map((fit) => ({ ...fit, newest: newestOf(deltas.filter((delta) => buildsOn(delta, fit.crl))) ?? fit.crl }))
    .sort((one, other) => other.newest.thisUpdate - one.newest.thisUpdate);

/** A complete CRL is current as long as it says itself, and with a delta for as long as that one says. */
const latest = (complete: number | null, delta: number | null): number | null =>
  complete === null || delta === null ? null : Math.max(complete, delta);

const silentAbout = (covered: ReasonMask): string =>
  `Those that are there say nothing about these reasons: ${reasonsMissing(covered).join(', ')}.`;

const withoutBase = ({ number, deltaOf }: Crl): string =>
  `A delta CRL (number ${valueOf(number)}) tells what has changed since CRL number ${valueOf(deltaOf)}, and that one, or a later one, is not there.`;

const unknownStatus = (ofIssuer: boolean): string =>
  ofIssuer ? 'BadCertificateIssuerRevocationUnknown' : 'BadCertificateRevocationUnknown';

const missing = (
  below: Certificate,
  issuer: Certificate,
  ofIssuer: boolean,
  refused: string | null,
): CertificateProblem => ({
  kind: 'crl-missing',
  status: unknownStatus(ofIssuer),
  ...about(below),
  issuer: issuer.subject.text,
  ofIssuer,
  refused,
});

const stale = (below: Certificate, issuer: Certificate, ofIssuer: boolean, nextUpdate: number): CertificateProblem => ({
  kind: 'crl-stale',
  status: unknownStatus(ofIssuer),
  ...about(below),
  issuer: issuer.subject.text,
  nextUpdate: new Date(nextUpdate).toISOString(),
  ofIssuer,
});

const onTheList = (below: Certificate, issuer: Certificate, ofIssuer: boolean, since: string): CertificateProblem => ({
  ...(ofIssuer
    ? { kind: 'issuer-revoked', status: 'BadCertificateIssuerRevoked' }
    : { kind: 'revoked', status: 'BadCertificateRevoked' }),
  ...about(below),
  issuer: issuer.subject.text,
  since,
});
