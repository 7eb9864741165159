import { sayTrustChange, trustNames } from '@loyal-hinge/core';
import type { TrustChange } from '@loyal-hinge/core';
import type { ProposedOrder } from '@loyal-hinge/contract';
import type { Database } from '../../database/database.js';
import type { ListedIds } from '../../database/schema.js';
import { conflict, notFound } from '../../http/problems.js';
import { knownTrust } from '../known/known-trust.js';
import { historyOf } from '../lists/store.js';

/** An order that takes the lists of an application back to what they were before an entry of its history. */
export async function stepBackOrder(db: Database, applicationId: string, entryId: number): Promise<ProposedOrder> {
  const entry = (await historyOf(db, applicationId)).find(({ id }) => id === entryId);
  if (!entry) throw notFound('entry of the history', String(entryId));
  const { applications, shelf } = await knownTrust(db);
  const issuers = new Map(shelf.crls.map(({ id, issuer }) => [id, issuer.key]));
  const changes = backTo(applicationId, entry, (crlId) => issuers.get(crlId));
  if (changes.length === 0)
    throw conflict('Nothing that gives trust changed in this step.', 'Choose another entry of the history.');
  const names = trustNames([...applications.values()], shelf);
  return {
    title: `Undo a change of the lists of ${names.application(applicationId)}`,
    lines: changes.map((change) => ({
      change,
      why: `${sayTrustChange(change, names).after}: as it was before.`,
      linkIds: [],
    })),
  };
}

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
