import { speaksOfAll } from '@loyal-hinge/core';
import type { Crl, ListWish, TrustChange } from '@loyal-hinge/core';
import type { Queryable } from '../../database/database.js';
import { conflict } from '../../http/problems.js';
import { allCrls } from '../../certificates/crls.js';
import { listsOf } from './store.js';
import { allCertificates, findCertificate } from '../../certificates/store.js';

/**
 * The changes of lists by which a wish comes true, from the certificates and CRLs that are known.
 * @throws a problem where what is wished for is not known here, or holds already
 */
export async function changesFor(db: Queryable, holderId: string, wish: ListWish): Promise<readonly TrustChange[]> {
  switch (wish.what) {
    case 'move-to-trusted': {
      const { thumbprint } = wish;
      if (!(await findCertificate(db, thumbprint))) throw unknownHere(`The certificate ${thumbprint}`);
      return [
        { kind: 'list-certificate', holderId, list: 'trusted', thumbprint, until: null },
        { kind: 'unlist-certificate', holderId, list: 'issuers', thumbprint },
      ];
    }
    case 'supply-issuer':
      return issuerFor(db, holderId, 'issuers', wish);
    case 'trust-issuer':
      return issuerFor(db, holderId, 'trusted', wish);
    case 'supply-crl':
      return crlFor(db, holderId, wish.issuer);
  }
}

/** An issuer by its name and key, with its newest CRL where one is known: without it, it would stop at the next step. */
async function issuerFor(
  db: Queryable,
  holderId: string,
  list: 'trusted' | 'issuers',
  wish: { readonly subject: string; readonly keyId: string | null },
): Promise<readonly TrustChange[]> {
  const found = (await allCertificates(db)).find(
    ({ isAuthority, subject, summary }) =>
      isAuthority && subject.text === wish.subject && (wish.keyId === null || summary.subjectKeyId === wish.keyId),
  );
  if (!found) throw unknownHere(`The certificate of ${wish.subject}`);
  const crl = await newestCrl(db, wish.subject);
  return [
    { kind: 'list-certificate', holderId, list, thumbprint: found.thumbprint, until: null },
    ...(crl ? [{ kind: 'list-crl' as const, holderId, list, crlId: crl.id, before: null }] : []),
  ];
}

/** The newest CRL of an issuer that is in force, beside the issuer’s own certificate. */
async function crlFor(db: Queryable, holderId: string, issuer: string): Promise<readonly TrustChange[]> {
  const newest = await newestCrl(db, issuer);
  if (!newest) throw unknownHere(`A CRL of ${issuer} that is in force`);
  const lists = await listsOf(db, holderId);
  const isTrusted = lists.trusted.some(({ subject }) => subject.text === issuer);
  const [list, there] = isTrusted
    ? (['trusted', lists.trustedCrls] as const)
    : (['issuers', lists.issuerCrls] as const);
  const before = there.find((crl) => crl.issuer.text === issuer && crl.id !== newest.id)?.id ?? null;
  return [{ kind: 'list-crl', holderId, list, crlId: newest.id, before }];
}

async function newestCrl(db: Queryable, issuer: string): Promise<Crl | null> {
  const now = Date.now();
  const [newest] = (await allCrls(db))
    .filter(
      (crl) => crl.issuer.text === issuer && speaksOfAll(crl) && (crl.nextUpdate === null || crl.nextUpdate > now),
    )
    .sort((left, right) => right.thisUpdate - left.thisUpdate);
  return newest ?? null;
}

const unknownHere = (what: string) =>
  conflict(
    `${what} is not known here, so it can’t be put into a list. Nothing was changed.`,
    'Bring it in on the Files page of Trust, or read the lists of a server that has it; then try again.',
  );
