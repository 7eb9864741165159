import { changedLists, readCertificate, readCrl } from '@loyal-hinge/core';
import type { Shelf, TrustChange } from '@loyal-hinge/core';
import type { ListedBytes } from './store.js';

/** Lists after changes, by bytes. What can’t be read is left where it is: it is not ours to lose. */
export function changedBytes(lists: ListedBytes, changes: readonly TrustChange[], shelf: Shelf): ListedBytes {
  const certificates = (ders: readonly Uint8Array[]) =>
    ders.flatMap((der) => {
      const read = readCertificate(der);
      return read.ok ? [read.certificate] : [];
    });
  const crls = (ders: readonly Uint8Array[]) =>
    ders.flatMap((der) => {
      const read = readCrl(der);
      return read.ok ? [read.crl] : [];
    });
  const after = changedLists(
    {
      trusted: certificates(lists.trusted),
      issuers: certificates(lists.issuers),
      rejected: certificates(lists.rejected),
      trustedCrls: crls(lists.trustedCrls),
      issuerCrls: crls(lists.issuerCrls),
    },
    changes,
    shelf,
  );
  const bytes = (
    parts: readonly { readonly der: Uint8Array }[],
    before: readonly Uint8Array[],
    isReadable: (der: Uint8Array) => boolean,
  ): readonly Uint8Array[] => [...parts.map(({ der }) => der), ...before.filter((der) => !isReadable(der))];
  const isCertificate = (der: Uint8Array): boolean => readCertificate(der).ok;
  const isCrl = (der: Uint8Array): boolean => readCrl(der).ok;
  return {
    trusted: bytes(after.trusted, lists.trusted, isCertificate),
    issuers: bytes(after.issuers, lists.issuers, isCertificate),
    rejected: bytes(after.rejected, lists.rejected, isCertificate),
    trustedCrls: bytes(after.trustedCrls, lists.trustedCrls, isCrl),
    issuerCrls: bytes(after.issuerCrls, lists.issuerCrls, isCrl),
  };
}

/** The names of those lists that differ: only they are written. */
export function differing(before: ListedBytes, after: ListedBytes): readonly (keyof ListedBytes)[] {
  const same = (left: readonly Uint8Array[], right: readonly Uint8Array[]): boolean => {
    const marks = new Set(left.map((der) => Buffer.from(der).toString('base64')));
    return left.length === right.length && right.every((der) => marks.has(Buffer.from(der).toString('base64')));
  };
  return (Object.keys(after) as (keyof ListedBytes)[]).filter((list) => !same(before[list], after[list]));
}
