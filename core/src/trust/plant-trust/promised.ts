import { Certificate } from '../certificate.js';
import { applicationUsages, clientAuth, serverAuth } from '../validation/usage.js';
import type { SignatureAlgorithm } from '../x509/algorithms.js';
import { sameBytes } from '../x509/der.js';
import { noExtensions } from '../x509/extensions.js';
import type { CertificateExtensions } from '../x509/extensions.js';
import type { SignatureVerifier } from '../x509/signatures.js';
import type { TrustParty } from './plant-trust.js';

const hourMs = 3_600_000;
const dayMs = 24 * hourMs;
/** For how long a certificate is signed that replaces another. */
export const renewedForDays = 730;

/**
 * A certificate that is not made yet, as it will be when an authority signs for the key and the hosts of the one from
 * today: it can be judged on paper, and only by whoever trusts in promises.
 */
export class PromisedCertificate extends Certificate {
  /**
   * @param today the certificate that it takes the place of
   * @param applicationUri the URI that the plant knows: nothing is signed for another one
   * @param at when it would be signed, in milliseconds since 1970
   */
  constructor(
    today: Certificate,
    readonly promisedBy: Certificate,
    applicationUri: string,
    at: number,
  ) {
    const nothing = new Uint8Array();
    super(
      new TextEncoder().encode(`promised by ${promisedBy.thumbprint} for ${today.thumbprint}`),
      3,
      '00',
      nothing,
      signedWith(promisedBy),
      nothing,
      promisedBy.subject,
      today.subject,
      at - hourMs,
      Math.min(at + renewedForDays * dayMs, promisedBy.notAfter),
      today.publicKey,
      rightExtensions(today, promisedBy, applicationUri),
    );
  }
}

/** Applications as they will be once they show what one authority promises them: each stays the same object as long as it is one today. */
export class PromisedParties {
  private readonly later = new WeakMap<TrustParty, TrustParty>();

  /** @param at when it would be signed, in milliseconds since 1970: counts the first time */
  of(party: TrustParty, authority: Certificate, at: number): TrustParty {
    const { certificate, applicationUri } = party;
    if (!certificate) return party;
    const known = this.later.get(party) ?? {
      ...party,
      certificate: new PromisedCertificate(certificate, authority, applicationUri, at),
    };
    this.later.set(party, known);
    return known;
  }
}

/** Believes in promised certificates; whatever else was signed is verified. For judging on paper, never for what was met. */
export function withPromises(verifier: SignatureVerifier): SignatureVerifier {
  return (key, signed) =>
    signed instanceof PromisedCertificate
      ? sameBytes(signed.promisedBy.publicKey.info, key.info)
      : verifier(key, signed);
}

const signedWith = ({ publicKey }: Certificate): SignatureAlgorithm =>
  publicKey.kind === 'EC' ? { kind: 'ECDSA', hash: 'SHA-256' } : { kind: 'RSA PKCS#1 v1.5', hash: 'SHA-256' };

/** What an application instance certificate needs (Part 6 §6.2.2), right by construction; its hosts stay. */
function rightExtensions(
  { extensions, publicKey }: Certificate,
  authority: Certificate,
  applicationUri: string,
): CertificateExtensions {
  const hosts = (extensions.alternativeNames ?? []).filter(({ kind }) => kind === 'dns' || kind === 'ip');
  return {
    ...noExtensions,
    basicConstraints: { isAuthority: false, pathLength: null, critical: true },
    keyUsages: applicationUsages(publicKey.kind),
    usageIsBinding: true,
    extendedKeyUsages: [serverAuth, clientAuth],
    alternativeNames: [{ kind: 'uri', value: applicationUri }, ...hosts],
    subjectKeyId: extensions.subjectKeyId,
    authorityKeyId: authority.extensions.subjectKeyId,
    present: ['2.5.29.19', '2.5.29.15', '2.5.29.37', '2.5.29.17', '2.5.29.14', '2.5.29.35'],
  };
}
