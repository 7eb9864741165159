import type { Certificate, Thumbprint } from '../certificate.js';
import type { Crl } from '../crl.js';
import { PromisedCertificate } from './promised.js';
import type { KnownLists, PlantTrust, Shelf, TrustParty } from './plant-trust.js';

/** A change of what an application trusts, or of the certificate that it shows. */
export type TrustChange =
  /** Part 12 §7.8.2: into the trusted list (it gives trust) or the issuers list (it completes chains). */
  | {
      readonly kind: 'list-certificate';
      readonly holderId: string;
      readonly list: 'trusted' | 'issuers';
      readonly thumbprint: Thumbprint;
      /** When a temporary trust ends by itself; null: it stays. */
      readonly until: string | null;
    }
  | {
      readonly kind: 'unlist-certificate';
      readonly holderId: string;
      readonly list: 'trusted' | 'issuers';
      readonly thumbprint: Thumbprint;
    }
  | {
      readonly kind: 'list-crl';
      readonly holderId: string;
      readonly list: 'trusted' | 'issuers';
      /** SHA-256 of the CRL’s DER, in capital hexadecimal. */
      readonly crlId: string;
      /** The older one of the same authority that it takes the place of, for the way back; null where none lies there. */
      readonly before: string | null;
    }
  | {
      readonly kind: 'unlist-crl';
      readonly holderId: string;
      readonly list: 'trusted' | 'issuers';
      readonly crlId: string;
      /** The one that lies there again afterwards; null: none. */
      readonly instead: string | null;
    }
  /** A new certificate for an application, signed by an authority of the plant (Part 12 §7.10.4). */
  | {
      readonly kind: 'renew-certificate';
      readonly applicationId: string;
      /** Thumbprint of the authority that signs. */
      readonly authority: Thumbprint;
      /** The one that it shows until then, for the way back: the key stays the same. null where that is not known. */
      readonly before: Thumbprint | null;
    }
  /** A certificate that was signed elsewhere for the key that the application has (Part 12 §7.10.4). */
  | {
      readonly kind: 'install-certificate';
      readonly applicationId: string;
      readonly thumbprint: Thumbprint;
      /** The one that it shows until then, for the way back; null where that is not known. */
      readonly before: Thumbprint | null;
    };

/** The application that a change is made on. */
export const targetOf = (change: TrustChange): string =>
  'holderId' in change ? change.holderId : change.applicationId;

/** The same change twice is one change, whatever lay there before it. */
export function keyOfChange(change: TrustChange): string {
  switch (change.kind) {
    case 'renew-certificate':
      return `renew ${change.applicationId}`;
    case 'install-certificate':
      return `install ${change.applicationId} ${change.thumbprint}`;
    case 'list-crl':
    case 'unlist-crl':
      return `${change.kind} ${change.holderId} ${change.list} ${change.crlId}`;
    default:
      return `${change.kind} ${change.holderId} ${change.list} ${change.thumbprint}`;
  }
}

/** What undoes a change; null where nobody knows the certificate from before. */
export function undoOf(change: TrustChange): TrustChange | null {
  switch (change.kind) {
    case 'list-certificate': {
      const { holderId, list, thumbprint } = change;
      return { kind: 'unlist-certificate', holderId, list, thumbprint };
    }
    case 'unlist-certificate': {
      const { holderId, list, thumbprint } = change;
      return { kind: 'list-certificate', holderId, list, thumbprint, until: null };
    }
    case 'list-crl': {
      const { holderId, list, crlId, before } = change;
      return { kind: 'unlist-crl', holderId, list, crlId, instead: before };
    }
    case 'unlist-crl': {
      const { holderId, list, crlId, instead } = change;
      return { kind: 'list-crl', holderId, list, crlId, before: instead };
    }
    case 'install-certificate': {
      const { applicationId, thumbprint, before } = change;
      return before === null
        ? null
        : { kind: 'install-certificate', applicationId, thumbprint: before, before: thumbprint };
    }
    case 'renew-certificate': {
      const { applicationId, before } = change;
      return before === null ? null : { kind: 'install-certificate', applicationId, thumbprint: before, before: null };
    }
  }
}

/** The lists of an application as they will be. A certificate that is trusted no longer lies set aside. */
export function changedLists(lists: KnownLists, changes: readonly TrustChange[], shelf: Shelf): KnownLists {
  let { trusted, issuers, rejected, trustedCrls, issuerCrls } = lists;
  for (const change of changes) {
    if (!('holderId' in change)) continue;
    if (change.kind === 'list-crl' || change.kind === 'unlist-crl') {
      if (change.list === 'trusted') trustedCrls = changedCrls(trustedCrls, change, shelf);
      else issuerCrls = changedCrls(issuerCrls, change, shelf);
      continue;
    }
    const certificate = shelf.certificates.get(change.thumbprint);
    if (change.kind === 'unlist-certificate') {
      const without = (list: readonly Certificate[]): readonly Certificate[] =>
        list.filter(({ thumbprint }) => thumbprint !== change.thumbprint);
      if (change.list === 'trusted') trusted = without(trusted);
      else issuers = without(issuers);
    } else if (certificate) {
      const including = (list: readonly Certificate[]): readonly Certificate[] =>
        list.some((listed) => listed.is(certificate)) ? list : [...list, certificate];
      if (change.list === 'trusted') {
        trusted = including(trusted);
        rejected = rejected.filter((listed) => !listed.is(certificate));
      } else issuers = including(issuers);
    }
  }
  return { trusted, issuers, rejected, trustedCrls, issuerCrls };
}

/** A newer CRL takes the place of older ones of the same authority; one that is taken away gives its place back. */
function changedCrls(
  crls: readonly Crl[],
  change: Extract<TrustChange, { readonly kind: 'list-crl' | 'unlist-crl' }>,
  shelf: Shelf,
): readonly Crl[] {
  const onShelf = (id: string): Crl | undefined => shelf.crls.find((crl) => crl.id === id);
  if (change.kind === 'list-crl') {
    const crl = onShelf(change.crlId);
    return crl ? [...crls.filter((other) => !isReplacedBy(other, crl)), crl] : crls;
  }
  const left = crls.filter(({ id }) => id !== change.crlId);
  const back = change.instead === null ? undefined : onShelf(change.instead);
  return back && !left.some(({ id }) => id === back.id) ? [...left, back] : left;
}

const isReplacedBy = (older: Crl, newer: Crl): boolean =>
  older.issuer.equals(newer.issuer) &&
  older.authorityKeyId === newer.authorityKeyId &&
  older.thisUpdate <= newer.thisUpdate;

/** The wish that a CRL lies beside a list, with what it takes the place of there. */
export function listingCrl(
  holderId: string,
  list: 'trusted' | 'issuers',
  crl: Crl,
  lists: KnownLists | null,
): TrustChange {
  const there = (list === 'trusted' ? lists?.trustedCrls : lists?.issuerCrls) ?? [];
  const before = there.find((other) => other.id !== crl.id && isReplacedBy(other, crl));
  return { kind: 'list-crl', holderId, list, crlId: crl.id, before: before?.id ?? null };
}

/**
 * The plant after changes, on paper. Whoever is to be given a certificate that is not made yet shows a promised one; a
 * judge believes in those only with `withPromises`.
 */
export function onPaper(plant: PlantTrust, changes: readonly TrustChange[], shelf: Shelf): PlantTrust {
  const byTarget = byTargetOf(changes);
  const changed = (party: TrustParty): TrustParty => {
    const own = byTarget.get(party.applicationId);
    if (!own) return party;
    const lists = party.lists ? changedLists(party.lists, own, shelf) : party.lists;
    return { ...party, lists, certificate: shownAfter(party, own, shelf, plant.at) };
  };
  return { ...plant, parties: plant.parties.map(changed) };
}

function shownAfter(
  party: TrustParty,
  changes: readonly TrustChange[],
  { certificates }: Shelf,
  at: number,
): Certificate | null {
  let shown = party.certificate;
  for (const change of changes) {
    if (change.kind === 'install-certificate') shown = certificates.get(change.thumbprint) ?? shown;
    const authority = change.kind === 'renew-certificate' ? certificates.get(change.authority) : undefined;
    if (shown && authority) shown = new PromisedCertificate(shown, authority, party.applicationUri, at);
  }
  return shown;
}

function byTargetOf(changes: readonly TrustChange[]): ReadonlyMap<string, readonly TrustChange[]> {
  const groups = new Map<string, TrustChange[]>();
  for (const change of changes) {
    const known = groups.get(targetOf(change));
    if (known) known.push(change);
    else groups.set(targetOf(change), [change]);
  }
  return groups;
}

/** What gives trust comes first, what takes it away last: nothing is cut off in between. */
export const inSafeOrder = <Line extends { readonly change: TrustChange }>(lines: readonly Line[]): readonly Line[] =>
  stages.flatMap((stage) => lines.filter(({ change }) => stageOf(change) === stage));

/** Whether an application shows another certificate after a change, which counts only after a restart. */
export const givesCertificate = (change: TrustChange): boolean => 'applicationId' in change;

/** 0: gives trust; 1: gives another certificate; 2: takes trust away. */
const stages = [0, 1, 2] as const;
export type Stage = (typeof stages)[number];
export const stageOf = (change: TrustChange): Stage =>
  change.kind.startsWith('unlist-') ? 2 : givesCertificate(change) ? 1 : 0;
