import type { Certificate } from '../certificate.js';
import type { Crl } from '../crl.js';
import { uncomputed } from '../x509/algorithms.js';
import { policyFault } from './certificate-policies.js';
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

const clean: RevocationFindings = { lists: [], revoked: [] };

/** Steps 10 and 11: a usable CRL for every issuer in a path, and nothing in the path on it (RFC 5280 §6.3, direct CRLs). */
export class Revocations {
  private readonly byIssuer = new Map<string, Crl[]>();

  constructor(
    private readonly list: ReadTrustList,
    private readonly signatures: KnownSignatures,
  ) {
    for (const crl of list.crls) this.byIssuer.set(crl.issuer.key, [...(this.byIssuer.get(crl.issuer.key) ?? []), crl]);
  }

  /** At once where there is neither a CRL nor a demand for one. */
  of(path: readonly Certificate[], demand: Demand): RevocationFindings | Promise<RevocationFindings> {
    return this.byIssuer.size === 0 && !demand.crlsDemanded ? clean : this.lookedUp(path, demand, new Set());
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
      const { usable, refused } = await this.crlFor({ below, issuer, anchor: lastOf(path), demand, pending });
      if (!usable) {
        if (crlsDemanded || refused !== null) lists.push(missing(below, issuer, ofIssuer, refused));
        continue;
      }
      const nextUpdate = usable.nextUpdate;
      if (nextUpdate !== null && nextUpdate < at) lists.push(stale(below, issuer, ofIssuer, nextUpdate));
      const entry = usable.revoked.get(below.serialNumber);
      if (entry && entry.reason !== 'removeFromCRL') revoked.push(onTheList(below, issuer, ofIssuer, entry.since));
    }
    return { lists, revoked };
  }

  /** The newest CRL that may speak of a certificate, or why none of those that are there may. */
  private async crlFor(search: Search): Promise<{ readonly usable: Crl | null; readonly refused: string | null }> {
    const { below, issuer, demand, pending } = search;
    let usable: Crl | null = null;
    let refused: string | null = null;
    for (const crl of this.byIssuer.get(issuer.subject.key) ?? []) {
      const fault =
        crl.unusable ??
        scopeFault(crl, below) ??
        timeFault(crl, demand.at) ??
        (pending.has(crl) ? 'Its signer can’t be judged without it.' : await this.signerFault(crl, search));
      if (fault === anothers) continue;
      if (fault !== null) refused = fault;
      else if (!usable || crl.thisUpdate > usable.thisUpdate) usable = crl;
    }
    return { usable, refused };
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
    for (const signer of this.signersFor(issuer)) {
      if (!(await this.signatures.isSignedWith(crl, signer.publicKey))) continue;
      if (!(signer.extensions.keyUsages?.includes('cRLSign') ?? true))
        fault = 'It was signed by an authority whose key usage does not allow signing CRLs.';
      else if (signer.is(issuer) || (await this.isInForce(signer, crl, search))) return null;
      else if (signer.isAuthority && this.list.trusts(signer)) return anothers;
      else fault = 'Its signer has the issuer’s name, and is not valid up to the same trust anchor.';
    }
    return fault;
  }

  /** The issuer itself, and where it did not sign, all of its name. */
  private *signersFor(issuer: Certificate): Generator<Certificate> {
    yield issuer;
    for (const list of [this.list.trusted, this.list.issuers])
      for (const other of list) if (other.subject.equals(issuer.subject)) yield other;
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

function scopeFault(crl: Crl, below: Certificate): string | null {
  if (crl.scope === 'authorities' && !below.isAuthority) return 'It speaks of authorities only.';
  if (crl.scope === 'others' && below.isAuthority) return 'It does not speak of authorities.';
  return null;
}

const timeFault = (crl: Crl, at: number): string | null =>
  crl.thisUpdate > at ? 'It was issued later than the time in question.' : null;

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
