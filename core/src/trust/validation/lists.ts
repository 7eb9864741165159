import { readCertificate } from '../certificate.js';
import type { Certificate } from '../certificate.js';
import { readCrl } from '../crl.js';
import type { Crl } from '../crl.js';

/** A trust list as it stands in an application (Part 12 §7.8.2), by bytes. */
export interface TrustList {
  /** These give trust: to themselves and, where they are authorities, to what hangs below them. */
  readonly trusted: readonly Uint8Array[];
  /** These complete chains and give no trust. */
  readonly issuers: readonly Uint8Array[];
  readonly crls: readonly Uint8Array[];
  /** Why CRLs that lay there besides can’t be read, where their bytes are not at hand any more. */
  readonly unreadableCrls?: readonly string[];
}

/** A trust list that was read. A certificate that can’t be read is left out: it can neither trust nor complete anything. */
export class ReadTrustList {
  private readonly bySerial = new Map<string, { certificate: Certificate; list: 'trusted' | 'issuers' }[]>();

  constructor(
    readonly trusted: readonly Certificate[],
    readonly issuers: readonly Certificate[],
    readonly crls: readonly Crl[],
    /** Why the CRLs among them that can’t be read can’t. */
    readonly unreadableCrls: readonly string[] = [],
  ) {
    for (const list of ['issuers', 'trusted'] as const)
      for (const certificate of this[list]) {
        const { serialNumber } = certificate;
        this.bySerial.set(serialNumber, [...(this.bySerial.get(serialNumber) ?? []), { certificate, list }]);
      }
  }

  static read(list: TrustList): ReadTrustList {
    const crls = list.crls.map(readCrl);
    return new ReadTrustList(
      certificatesIn(list.trusted),
      certificatesIn(list.issuers),
      crls.flatMap((read) => (read.ok ? [read.crl] : [])),
      [...(list.unreadableCrls ?? []), ...crls.flatMap((read) => (read.ok ? [] : [read.says]))],
    );
  }

  trusts(certificate: Certificate): boolean {
    return this.lists(certificate, 'trusted');
  }

  holdsAsIssuer(certificate: Certificate): boolean {
    return this.lists(certificate, 'issuers');
  }

  private lists(certificate: Certificate, list: 'trusted' | 'issuers'): boolean {
    for (const entry of this.bySerial.get(certificate.serialNumber) ?? [])
      if (entry.list === list && entry.certificate.is(certificate)) return true;
    return false;
  }
}

export const certificatesIn = (ders: readonly Uint8Array[]): readonly Certificate[] =>
  ders.flatMap((der) => {
    const read = readCertificate(der);
    return read.ok ? [read.certificate] : [];
  });
