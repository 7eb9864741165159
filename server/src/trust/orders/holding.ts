import { listingCrl, listsOf, targetOf } from '@loyal-hinge/core';
import type { TrustChange, TrustParty } from '@loyal-hinge/core';
import type { KnownTrust } from '../known/known-trust.js';

/** Whether a change holds, as far as the newest reading tells. */
export function holds(
  change: TrustChange,
  { trust, applications, shelf }: Pick<KnownTrust, 'trust' | 'applications' | 'shelf'>,
): boolean {
  const party = trust.parties.find(({ applicationId }) => applicationId === targetOf(change));
  if (!party) return !applications.has(targetOf(change));
  if (change.kind === 'renew-certificate')
    return isSignedBy(party, shelf.certificates.get(change.authority)?.extensions.subjectKeyId ?? null);
  if (change.kind === 'install-certificate') return party.certificate?.thumbprint === change.thumbprint;
  if (!party.lists) return false;
  const lists = listsOf(party);
  if (change.kind === 'list-crl' || change.kind === 'unlist-crl') {
    const there = lists[change.list === 'trusted' ? 'trustedCrls' : 'issuerCrls'].map(({ id }) => id);
    if (change.kind === 'list-crl') return there.includes(change.crlId);
    return !there.includes(change.crlId) && (change.instead === null || there.includes(change.instead));
  }
  const isListed = lists[change.list].some(({ thumbprint }) => thumbprint === change.thumbprint);
  return isListed === (change.kind === 'list-certificate');
}

/** A change with what it really takes the place of. */
export function asItLies(change: TrustChange, { trust, shelf }: Pick<KnownTrust, 'trust' | 'shelf'>): TrustChange {
  if (change.kind !== 'list-crl' && change.kind !== 'renew-certificate') return change;
  const party = trust.parties.find(({ applicationId }) => applicationId === targetOf(change));
  if (change.kind === 'renew-certificate') return { ...change, before: party?.certificate?.thumbprint ?? null };
  const crl = shelf.crls.find(({ id }) => id === change.crlId);
  return crl ? listingCrl(change.holderId, change.list, crl, party?.lists ?? null) : change;
}

const isSignedBy = ({ certificate }: TrustParty, keyId: string | null): boolean =>
  keyId !== null && certificate?.extensions.authorityKeyId === keyId && !certificate.isSelfIssued;
