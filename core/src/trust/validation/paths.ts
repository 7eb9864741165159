import type { Certificate } from '../certificate.js';
import { sameBytes } from '../x509/der.js';
import type { KnownSignatures } from './known-signatures.js';

/** A way from a certificate up to where it ends. */
export interface FoundPath {
  /** Leaf first. */
  readonly certificates: readonly Certificate[];
  readonly end:
    /** A certificate signed with its own key, or one that is trusted as it stands. */
    | 'anchor'
    /** Nobody here is called as the last one’s issuer, or nobody of that name has the key that it names. */
    | 'issuer missing'
    /** Somebody is called so, and did not sign it. */
    | 'signature wrong';
}

type Show = (certificates: readonly Certificate[], end: FoundPath['end']) => boolean | Promise<boolean>;

/** Deepest chain that is followed, and how many ways are tried: a bound against lists made to keep us busy. */
const longestPath = 10;
const mostWays = 64;

/** Finds the ways from certificates to anchors among a pool of issuers (RFC 4158). Names chain; key identifiers are hints only. */
export class PathFinder {
  private readonly byName = new Map<string, Certificate[]>();
  private readonly byRawName = new Map<string, readonly Certificate[]>();

  /**
   * @param pool whatever may be an issuer
   * @param isAnchor where a way ends before it comes to a self-signed certificate
   */
  constructor(
    pool: readonly Certificate[],
    private readonly signatures: KnownSignatures,
    private readonly isAnchor: (certificate: Certificate) => boolean,
  ) {
    for (const certificate of pool) {
      const named = this.byName.get(certificate.subject.key) ?? [];
      if (!named.some((other) => other.is(certificate))) named.push(certificate);
      this.byName.set(certificate.subject.key, named);
    }
  }

  /**
   * Shows one way after the other until one pleases.
   * @param at the time in question: issuers that are valid then are tried first
   */
  async find(leaf: Certificate, at: number, pleases: (path: FoundPath) => boolean | Promise<boolean>): Promise<void> {
    let ways = 0;
    const show: Show = (certificates, end) => {
      ways += 1;
      const pleased = pleases({ certificates, end });
      if (typeof pleased === 'boolean') return pleased || ways >= mostWays;
      return pleased.then((isPleased) => isPleased || ways >= mostWays);
    };
    await this.climb([leaf], at, show);
  }

  /** True where the search is over. */
  private async climb(path: readonly Certificate[], at: number, show: Show): Promise<boolean> {
    const last = path[path.length - 1] as Certificate;
    if (this.isAnchor(last)) return show(path, 'anchor');
    if (last.isSelfIssued) {
      const signed = this.signatures.isSignedWith(last, last.publicKey);
      if (typeof signed === 'boolean' ? signed : await signed) return show(path, 'anchor');
    }
    if (path.length >= longestPath) return show(path, 'issuer missing');
    const candidates = this.issuersOf(last).filter((candidate) => !repeats(path, candidate));
    const ordered = candidates.length > 1 ? inOrderOfPromise(candidates, last, at) : candidates;
    let followed = false;
    for (const candidate of ordered) {
      const signed = this.signatures.isSignedWith(last, candidate.publicKey);
      if (!(typeof signed === 'boolean' ? signed : await signed)) continue;
      followed = true;
      if (await this.climb([...path, candidate], at, show)) return true;
    }
    if (followed) return false;
    const couldBe = last.isSelfIssued || candidates.some((candidate) => keyIdMatch(last, candidate) !== 'other');
    return show(path, couldBe ? 'signature wrong' : 'issuer missing');
  }

  private issuersOf(certificate: Certificate): readonly Certificate[] {
    const { raw } = certificate.issuer;
    let issuers = this.byRawName.get(raw);
    if (!issuers) this.byRawName.set(raw, (issuers = this.byName.get(certificate.issuer.key) ?? []));
    return issuers;
  }
}

/** RFC 4158 §2.4.2: no name with the same key stands twice in a path. */
const repeats = (path: readonly Certificate[], candidate: Certificate): boolean =>
  path.some(
    (other) => sameBytes(other.publicKey.info, candidate.publicKey.info) && other.subject.equals(candidate.subject),
  );

function keyIdMatch(certificate: Certificate, issuer: Certificate): 'same' | 'untold' | 'other' {
  const { authorityKeyId } = certificate.extensions;
  const { subjectKeyId } = issuer.extensions;
  if (authorityKeyId === null || subjectKeyId === null) return 'untold';
  return authorityKeyId === subjectKeyId ? 'same' : 'other';
}

const rank = { same: 0, untold: 1, other: 2 } as const;

function inOrderOfPromise(candidates: readonly Certificate[], below: Certificate, at: number): readonly Certificate[] {
  const expired = (certificate: Certificate): number =>
    at < certificate.notBefore || at > certificate.notAfter ? 1 : 0;
  return [...candidates].sort(
    (left, right) =>
      rank[keyIdMatch(below, left)] - rank[keyIdMatch(below, right)] ||
      expired(left) - expired(right) ||
      right.notAfter - left.notAfter,
  );
}
