import type { Certificate, Thumbprint } from '../trust/certificate.js';
import { commonName } from '../trust/certificate.js';
import type { TrustChange } from '../trust/plant-trust/trust-change.js';
import { targetOf } from '../trust/plant-trust/trust-change.js';
import type { Shelf, TrustWay } from '../trust/plant-trust/plant-trust.js';
import { dayOf } from '../time.js';

/** What somebody working under a permit has to know about a change of trust. */
export interface ToldChange {
  readonly title: string;
  readonly target: string;
  readonly before: string;
  readonly after: string;
  readonly undo: string;
}

/** Names of what changes speak of. */
export interface TrustNames {
  application(id: string): string;
  certificate(thumbprint: Thumbprint): string;
  crl(id: string): string;
}

/** Names from what is known of the plant; what is not known is named by its id. */
export function trustNames(
  applications: readonly { readonly id: string; readonly name: string }[],
  shelf: Shelf,
): TrustNames {
  const byId = new Map(applications.map(({ id, name }) => [id, name]));
  return {
    application: (id) => byId.get(id) ?? id,
    certificate: (thumbprint) => {
      const known = shelf.certificates.get(thumbprint);
      return known ? certificateName(known) : thumbprint;
    },
    crl: (id) => {
      const known = shelf.crls.find((crl) => crl.id === id);
      return known
        ? `CRL of ${commonName(known.issuer.text)} of ${dayOf(new Date(known.thisUpdate).toISOString())}`
        : `CRL ${id}`;
    },
  };
}

/** The common name, with the first digits of the thumbprint: names come twice where certificates are renewed. */
export const certificateName = (certificate: Certificate): string =>
  `${commonName(certificate.subject.text)} (${certificate.thumbprint.slice(0, 8)})`;

/** A change in words: what, where, before and after, and the way back. */
export function sayTrustChange(change: TrustChange, names: TrustNames): ToldChange {
  const target = names.application(targetOf(change));
  switch (change.kind) {
    case 'list-certificate': {
      const what = names.certificate(change.thumbprint);
      const list = listWords[change.list];
      const end = change.until === null ? '' : `, until ${dayOf(change.until)}`;
      return {
        title: change.list === 'trusted' ? `Let ${target} trust ${what}${end}` : `Give ${target} the issuer ${what}`,
        target,
        before: `not in the ${list}`,
        after: `in the ${list}${end}`,
        undo: `Remove it from the ${list} again.`,
      };
    }
    case 'unlist-certificate': {
      const list = listWords[change.list];
      return {
        title: `Remove ${names.certificate(change.thumbprint)} from the ${list} of ${target}`,
        target,
        before: `in the ${list}`,
        after: `not in the ${list}`,
        undo: `Put it into the ${list} again; its bytes are stored.`,
      };
    }
    case 'list-crl': {
      const place = `beside the ${listWords[change.list]}`;
      return {
        title: `Give ${target} the ${names.crl(change.crlId)}`,
        target,
        before: change.before === null ? `without it ${place}` : `the ${names.crl(change.before)} ${place}`,
        after: place,
        undo: change.before === null ? 'Remove it again.' : `Remove it, and restore the ${names.crl(change.before)}.`,
      };
    }
    case 'unlist-crl': {
      const place = `beside the ${listWords[change.list]}`;
      return {
        title: `Remove the ${names.crl(change.crlId)} from ${target}`,
        target,
        before: place,
        after: change.instead === null ? `not ${place}` : `the ${names.crl(change.instead)} ${place} instead`,
        undo: `Put it ${place} again; its bytes are stored.`,
      };
    }
    case 'renew-certificate':
      return {
        title: `Give ${target} a certificate signed by ${names.certificate(change.authority)}`,
        target,
        before: change.before === null ? 'its present certificate' : names.certificate(change.before),
        after: `one signed by ${names.certificate(change.authority)}`,
        undo: 'Give it the previous certificate again; its key stays the same.',
      };
    case 'install-certificate':
      return {
        title: `Give ${target} the certificate ${names.certificate(change.thumbprint)}`,
        target,
        before: change.before === null ? 'its present certificate' : names.certificate(change.before),
        after: names.certificate(change.thumbprint),
        undo: 'Give it the previous certificate again; its key stays the same.',
      };
  }
}

const listWords = { trusted: 'trusted list', issuers: 'issuers list' } as const;

/** The way by which a change reaches its target, in words. */
export const wayWords: Readonly<Record<TrustWay, string>> = {
  held: 'by Loyal Hinge, which holds these lists',
  push: 'over push management',
  files: 'by a bundle that somebody takes to the machine',
  unknown: 'by hand: it is not known how these lists can be changed',
};
