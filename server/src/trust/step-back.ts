import type { TrustChange } from '@loyal-hinge/core';
import type { ListedIds } from '../database/schema.js';

/** A step of the history of lists: the ids of what lay in them before and after. */
export interface HistoryStep {
  readonly before: ListedIds;
  readonly after: ListedIds;
}

/**
 * Changes that take the lists of an application back to what they were before a step.
 * @param issuerOf the issuer of a CRL by the CRL’s id, as a key; undefined where the CRL is not known
 */
export function backTo(
  holderId: string,
  { before, after }: HistoryStep,
  issuerOf: (crlId: string) => string | undefined,
): readonly TrustChange[] {
  return (['trusted', 'issuers'] as const).flatMap((list): TrustChange[] => {
    const key = list === 'trusted' ? 'trustedCrls' : 'issuerCrls';
    return [
      ...only(before[list], after[list]).map((thumbprint): TrustChange => ({
        kind: 'list-certificate',
        holderId,
        list,
        thumbprint,
        until: null,
      })),
      ...only(after[list], before[list]).map((thumbprint): TrustChange => ({
        kind: 'unlist-certificate',
        holderId,
        list,
        thumbprint,
      })),
      ...crlsBack(holderId, list, only(before[key], after[key]), only(after[key], before[key]), issuerOf),
    ];
  });
}

/** A CRL that came goes, and the one whose place it took comes back with it; those that only went come back by themselves. */
function crlsBack(
  holderId: string,
  list: 'trusted' | 'issuers',
  gone: readonly string[],
  came: readonly string[],
  issuerOf: (crlId: string) => string | undefined,
): readonly TrustChange[] {
  const left = new Set(gone);
  const away = came.map((crlId): TrustChange => {
    const instead = [...left].find((id) => issuerOf(id) === issuerOf(crlId)) ?? null;
    if (instead !== null) left.delete(instead);
    return { kind: 'unlist-crl', holderId, list, crlId, instead };
  });
  return [
    ...away,
    ...[...left].map((crlId): TrustChange => ({ kind: 'list-crl', holderId, list, crlId, before: null })),
  ];
}

const only = (these: readonly string[], those: readonly string[]): readonly string[] =>
  these.filter((id) => !those.includes(id));
