import { emptyLists, trustNames } from '@loyal-hinge/core';
import type { TrustNames } from '@loyal-hinge/core';
import type { HolderDetail } from '@loyal-hinge/contract';
import type { Database } from '../../database/database.js';
import { notFound } from '../../http/problems.js';
import type { KnownTrust } from '../known/known-trust.js';
import { entriesOf, historyOf } from '../lists/store.js';
import { partyRow } from './overview.js';

/** What is kept of the password of its push management. */
export type HeldPassword = Pick<NonNullable<HolderDetail['access']>, 'passwordState' | 'passwordMoves'>;

/** The lists of one application, and what changed in them. */
export async function holderView(
  db: Database,
  known: KnownTrust,
  applicationId: string,
  reading: ReadonlySet<string>,
  held: HeldPassword,
): Promise<HolderDetail> {
  const holder = known.trust.parties.find((row) => row.applicationId === applicationId);
  const party = holder && partyRow(known, holder, reading);
  const lists = holder?.lists ?? emptyLists;
  if (!party) throw notFound('application', applicationId);
  const [entries, history] = await Promise.all([entriesOf(db, applicationId), historyOf(db, applicationId)]);
  const way = known.ways.get(applicationId);
  const newest = known.readings.get(applicationId);
  const names = trustNames([...known.applications.values()], known.shelf);
  const nameOf = (thumbprint: string): string => names.certificate(thumbprint);
  return {
    party,
    access:
      way?.way === 'push'
        ? {
            clientId: way.clientId ?? '',
            endpointUrl: way.endpointUrl ?? '',
            userName: way.userName ?? '',
            ...held,
          }
        : null,
    lists: entries.map(({ list, thumbprint, since, until }) => ({
      list,
      thumbprint,
      name: nameOf(thumbprint),
      notAfter: ofMs(known.shelf.certificates.get(thumbprint)?.notAfter ?? 0),
      since: ofMs(Date.parse(since)),
      until: until === null ? null : ofMs(Date.parse(until)),
    })),
    unreadable: [...(newest?.unreadableCrls ?? []), ...(newest?.unreadableCertificates ?? [])],
    crls: (['trusted', 'issuers'] as const).flatMap((list) =>
      lists[list === 'trusted' ? 'trustedCrls' : 'issuerCrls'].map((crl) => ({
        list,
        id: crl.id,
        issuer: crl.issuer.text,
        thisUpdate: ofMs(crl.thisUpdate),
        nextUpdate: crl.nextUpdate === null ? null : ofMs(crl.nextUpdate),
        revoked: crl.count,
      })),
    ),
    history: history.map(({ id, at, actor, says, before, after }) => {
      const [was, is] = [namedLists(before, names), namedLists(after, names)];
      return {
        id,
        at: ofMs(Date.parse(at)),
        actor,
        says,
        added: is.filter((line) => !was.includes(line)),
        removed: was.filter((line) => !is.includes(line)),
      };
    }),
  };
}

const ofMs = (ms: number): string => new Date(ms).toISOString();

function namedLists(
  lists: {
    readonly trusted: readonly string[];
    readonly issuers: readonly string[];
    readonly trustedCrls: readonly string[];
    readonly issuerCrls: readonly string[];
  },
  names: TrustNames,
): readonly string[] {
  return [
    ...lists.trusted.map((thumbprint) => `trusted: ${names.certificate(thumbprint)}`),
    ...lists.issuers.map((thumbprint) => `issuer: ${names.certificate(thumbprint)}`),
    ...[...lists.trustedCrls, ...lists.issuerCrls].map((id) => names.crl(id)),
  ];
}
