import type { Certificate } from '../certificate.js';
import { sameBytes } from '../x509/der.js';
import type { DistinguishedName } from '../x509/name.js';
import type { Eventually } from './eventually.js';
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

/** Whoever asks for ways is shown one after the other until one pleases. */
export interface Asker {
  pleases(path: FoundPath): Eventually<boolean>;
}

/** Deepest chain that is followed, and how many ways are tried: a bound against lists made to keep us busy. */
const longestPath = 10;
const mostWays = 64;

/** Finds the ways from certificates to anchors among a pool of issuers (RFC 4158). Names chain; key identifiers are hints only. */
export class PathFinder {
  private readonly byName = new Map<string, Certificate[]>();
  private readonly byIssuer = new Map<DistinguishedName, readonly Certificate[]>();

  /**
   * @param pool whatever may be an issuer
   * @param isAnchor where a way ends before it comes to a self-signed certificate
   */
  constructor(
    pool: readonly Certificate[],
    private readonly signatures: KnownSignatures,
    readonly isAnchor: (certificate: Certificate) => boolean,
  ) {
    for (const certificate of pool) {
      const named = this.byName.get(certificate.subject.key) ?? [];
      if (!named.some((other) => other.is(certificate))) named.push(certificate);
      this.byName.set(certificate.subject.key, named);
    }
  }

  /**
   * Shows one way after the other until one pleases; at once where signatures are verified at once.
   * @param at the time in question: issuers that are valid then are tried first
   */
  find(leaf: Certificate, at: number, asker: Asker): Eventually<boolean> {
    return new Search(this, this.signatures, at, asker).climb([leaf]);
  }

  /** Whoever is called as the issuer of a certificate. */
  issuersOf({ issuer }: Certificate): readonly Certificate[] {
    let issuers = this.byIssuer.get(issuer);
    if (!issuers) this.byIssuer.set(issuer, (issuers = this.byName.get(issuer.key) ?? []));
    return issuers;
  }
}

/** One search, depth first. What waits for a signature stands in methods of its own, so that what need not wait is quick. */
class Search {
  private ways = 0;

  constructor(
    private readonly finder: PathFinder,
    private readonly signatures: KnownSignatures,
    private readonly at: number,
    private readonly asker: Asker,
  ) {}

  /** True where the search is over. */
  climb(path: readonly Certificate[]): Eventually<boolean> {
    const last = lastOf(path);
    if (this.finder.isAnchor(last)) return this.show(path, 'anchor');
    if (!last.isSelfIssued) return this.climbOn(path);
    const isRoot = this.signatures.isSignedWith(last, last.publicKey);
    return isRoot instanceof Promise ? this.endOrClimbLater(isRoot, path) : this.endOrClimb(isRoot, path);
  }

  private endOrClimb(isRoot: boolean, path: readonly Certificate[]): Eventually<boolean> {
    return isRoot ? this.show(path, 'anchor') : this.climbOn(path);
  }

  private async endOrClimbLater(isRoot: Promise<boolean>, path: readonly Certificate[]): Promise<boolean> {
    return this.endOrClimb(await isRoot, path);
  }

  private climbOn(path: readonly Certificate[]): Eventually<boolean> {
    if (path.length >= longestPath) return this.show(path, 'issuer missing');
    const last = lastOf(path);
    const candidates = this.finder.issuersOf(last).filter((candidate) => !repeats(path, candidate));
    return this.follow(
      path,
      candidates.length > 1 ? inOrderOfPromise(candidates, last, this.at) : candidates,
      0,
      false,
    );
  }

  /** Follows the candidates from one on; where none has signed, the way ends here. */
  private follow(
    path: readonly Certificate[],
    candidates: readonly Certificate[],
    from: number,
    followed: boolean,
  ): Eventually<boolean> {
    for (let index = from; index < candidates.length; index += 1) {
      const candidate = candidates[index] as Certificate;
      const isSigned = this.signatures.isSignedWith(lastOf(path), candidate.publicKey);
      if (isSigned === false) continue;
      if (isSigned instanceof Promise) return this.followLater(path, candidates, index, followed, isSigned);
      const isOver = this.climb([...path, candidate]);
      if (isOver instanceof Promise) return this.goOnLater(path, candidates, index, isOver);
      if (isOver) return true;
      followed = true;
    }
    return followed ? false : this.show(path, endOf(lastOf(path), candidates));
  }

  private async followLater(
    path: readonly Certificate[],
    candidates: readonly Certificate[],
    index: number,
    followed: boolean,
    isSigned: Promise<boolean>,
  ): Promise<boolean> {
    if (!(await isSigned)) return this.follow(path, candidates, index + 1, followed);
    return this.goOnLater(path, candidates, index, this.climb([...path, candidates[index] as Certificate]));
  }

  private async goOnLater(
    path: readonly Certificate[],
    candidates: readonly Certificate[],
    index: number,
    isOver: Eventually<boolean>,
  ): Promise<boolean> {
    return (await isOver) || this.follow(path, candidates, index + 1, true);
  }

  private show(certificates: readonly Certificate[], end: FoundPath['end']): Eventually<boolean> {
    this.ways += 1;
    const isEnough = this.ways >= mostWays;
    const isPleased = this.asker.pleases({ certificates, end });
    return isPleased instanceof Promise ? isPleased.then((later) => later || isEnough) : isPleased || isEnough;
  }
}

/** Where a path ends: the topmost certificate. */
export const lastOf = (path: readonly Certificate[]): Certificate => path[path.length - 1] as Certificate;

/** Nobody signed it: somebody who is called so and may have the key, or nobody at all. */
function endOf(last: Certificate, candidates: readonly Certificate[]): FoundPath['end'] {
  const couldBe = last.isSelfIssued || candidates.some((candidate) => keyIdMatch(last, candidate) !== 'other');
  return couldBe ? 'signature wrong' : 'issuer missing';
}

/** RFC 4158 §2.4.2: no name with the same key stands twice in a path. The candidate is called as the last one’s issuer. */
function repeats(path: readonly Certificate[], candidate: Certificate): boolean {
  const last = path.length - 1;
  for (let index = lastOf(path).isSelfIssued ? last : last - 1; index >= 0; index -= 1) {
    const other = path[index] as Certificate;
    if (other.subject.equals(candidate.subject) && sameBytes(other.publicKey.info, candidate.publicKey.info))
      return true;
  }
  return false;
}

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
