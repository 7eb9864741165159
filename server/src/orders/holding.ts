import { listingCrl, listsOf, targetOf } from '@loyal-hinge/core';
import type { TrustChange, TrustParty } from '@loyal-hinge/core';
import type { ProposedOrder } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { knownTrust } from '../trust/known-trust.js';
import type { KnownTrust } from '../trust/known-trust.js';
import { linesOf } from './store.js';

/** The positions of those lines of an order that are done, and whose change holds as far as is known now. */
export async function linesThatHold(db: Database, id: string): Promise<number[]> {
  const [lines, known] = await Promise.all([linesOf(db, id), knownTrust(db)]);
  return lines.filter(({ state, change }) => state === 'done' && holds(change, known)).map(({ position }) => position);
}

/** Proposed lines, each with what its change really takes the place of: the way back is reckoned from that. */
export async function linesAsTheyLie(db: Database, lines: ProposedOrder['lines']): Promise<ProposedOrder['lines']> {
  const known = await knownTrust(db);
  return lines.map((line) => ({ ...line, change: asItLies(line.change, known) }));
}

/** Whether a change holds, as far as the newest reading tells. */
export function holds(
  change: TrustChange,
  { trust, plant, shelf }: Pick<KnownTrust, 'trust' | 'plant' | 'shelf'>,
): boolean {
  const party = trust.parties.find(({ applicationId }) => applicationId === targetOf(change));
  if (!party) return !plant.applications.some(({ id }) => id === targetOf(change));
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

function asItLies(change: TrustChange, { trust, shelf }: Pick<KnownTrust, 'trust' | 'shelf'>): TrustChange {
  if (change.kind !== 'list-crl' && change.kind !== 'renew-certificate') return change;
  const party = trust.parties.find(({ applicationId }) => applicationId === targetOf(change));
  if (change.kind === 'renew-certificate') return { ...change, before: party?.certificate?.thumbprint ?? null };
  const crl = shelf.crls.find(({ id }) => id === change.crlId);
  return crl ? listingCrl(change.holderId, change.list, crl, party?.lists ?? null) : change;
}

const isSignedBy = ({ certificate }: TrustParty, keyId: string | null): boolean =>
  keyId !== null && certificate?.extensions.authorityKeyId === keyId && !certificate.isSelfIssued;
