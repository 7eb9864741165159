import type { Certificate } from '../certificate.js';
import { sameBytes } from '../x509/der.js';
import type { SignatureVerifier } from '../x509/signatures.js';
import { PlantJudge, emptyLists, listsOf } from './plant-judge.js';
import type { KnownLists, PlantTrust, Shelf, TrustParty } from './plant-trust.js';

/** Whether two certificates are of one authority, by its name and its key: all that one has signed hangs below both. */
export const isSameAuthority = (left: Certificate, right: Certificate): boolean =>
  left.isAuthority &&
  right.isAuthority &&
  left.subject.equals(right.subject) &&
  sameBytes(left.publicKey.info, right.publicKey.info);

/** How far a plant has moved from one authority to the one that takes its place. Applications are named by their ids. */
export interface Succession {
  /** They trust the one before and not yet the one after. */
  readonly trustOnlyBefore: readonly string[];
  /** They trust both: the overlap. */
  readonly trustBoth: readonly string[];
  /** They trust the one after alone. */
  readonly trustOnlyAfter: readonly string[];
  /** What they show hangs below the one before and not below the one after. */
  readonly showBefore: readonly string[];
  /** What they show hangs below the one after. */
  readonly showAfter: readonly string[];
}

/** Nothing hangs on the one before any more, as far as lists and certificates are known. */
export const isOver = ({ trustOnlyBefore, trustBoth, showBefore }: Succession): boolean =>
  trustOnlyBefore.length + trustBoth.length + showBefore.length === 0;

/**
 * Reckons how far the lists and the certificates of a plant have moved from an authority to another. Chains are followed
 * through whatever authorities are known.
 */
export async function successionOf(
  plant: PlantTrust,
  { certificates }: Shelf,
  before: Certificate,
  after: Certificate,
  verifier: SignatureVerifier,
): Promise<Succession> {
  const judge = new PlantJudge({ crlsDemanded: false, at: plant.at }, verifier);
  const issuers = [...certificates.values()].filter(({ isAuthority }) => isAuthority);
  const under = (authority: Certificate): KnownLists => ({ ...emptyLists, trusted: [authority], issuers });
  const [underBefore, underAfter] = [under(before), under(after)];
  const hangs = async ({ certificate }: TrustParty, lists: KnownLists, authority: Certificate): Promise<boolean> =>
    certificate !== null &&
    (await judge.certificate(lists, certificate, null, null)).path.some((one) => one.is(authority));
  const trusts = (party: TrustParty, authority: Certificate): boolean =>
    listsOf(party).trusted.some((listed) => listed.is(authority));
  const told = { trustOnlyBefore: [], trustBoth: [], trustOnlyAfter: [], showBefore: [], showAfter: [] } as Told;
  for (const party of plant.parties) {
    const { applicationId } = party;
    const [old, next] = [trusts(party, before), trusts(party, after)];
    if (old || next) told[old ? (next ? 'trustBoth' : 'trustOnlyBefore') : 'trustOnlyAfter'].push(applicationId);
    if (await hangs(party, underAfter, after)) told.showAfter.push(applicationId);
    else if (await hangs(party, underBefore, before)) told.showBefore.push(applicationId);
  }
  return told;
}

type Told = { readonly [Key in keyof Succession]: string[] };
