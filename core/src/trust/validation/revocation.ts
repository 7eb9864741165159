import type { Certificate } from '../certificate.js';
import type { Crl } from '../crl.js';
import type { KnownSignatures } from './known-signatures.js';
import type { ReadTrustList } from './lists.js';
import { about } from './problem.js';
import type { CertificateProblem } from './problem.js';

export interface RevocationFindings {
  readonly lists: readonly CertificateProblem[];
  readonly revoked: readonly CertificateProblem[];
}

interface Demand {
  readonly at: number;
  readonly crlsDemanded: boolean;
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
    return this.byIssuer.size === 0 && !demand.crlsDemanded ? clean : this.lookedUp(path, demand);
  }

  private async lookedUp(path: readonly Certificate[], { at, crlsDemanded }: Demand): Promise<RevocationFindings> {
    const lists: CertificateProblem[] = [];
    const revoked: CertificateProblem[] = [];
    for (let index = 1; index < path.length; index += 1) {
      const issuer = path[index] as Certificate;
      const below = path[index - 1] as Certificate;
      const ofIssuer = index > 1;
      const { usable, refused } = await this.crlFor(below, issuer, at);
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
  private async crlFor(
    below: Certificate,
    issuer: Certificate,
    at: number,
  ): Promise<{ readonly usable: Crl | null; readonly refused: string | null }> {
    let usable: Crl | null = null;
    let refused: string | null = null;
    for (const crl of this.byIssuer.get(issuer.subject.key) ?? []) {
      const fault =
        crl.unusable ?? scopeFault(crl, below) ?? timeFault(crl, at) ?? (await this.signatureFault(crl, issuer));
      if (fault !== null) refused = fault;
      else if (!usable || crl.thisUpdate > usable.thisUpdate) usable = crl;
    }
    return { usable, refused };
  }

  /** The issuer’s own key, or another certificate of the same name in the lists: an issuer that was renewed. */
  private async signatureFault(crl: Crl, issuer: Certificate): Promise<string | null> {
    const { trusted, issuers } = this.list;
    const named = [...trusted, ...issuers].filter((other) => other.subject.equals(issuer.subject));
    let mayNot = false;
    for (const signer of [issuer, ...named]) {
      if (!(await this.signatures.isSignedWith(crl, signer.publicKey))) continue;
      if (signer.extensions.keyUsages?.includes('cRLSign') ?? true) return null;
      mayNot = true;
    }
    return mayNot
      ? 'It was signed by an authority whose key usage does not allow signing CRLs.'
      : 'Its signature was not made with the issuer’s key.';
  }
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
