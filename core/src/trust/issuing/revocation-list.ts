import 'reflect-metadata';
import { Extension, X509Certificate, X509CrlGenerator, X509CrlReason } from '@peculiar/x509';
import type { RevocationReason } from '../crl.js';
import { authorityKeyId, bufferOf } from './issue.js';
import type { Signer } from './issue.js';
import { signatureOf } from './keys.js';

export interface RevocationWish {
  /** Counts up with every list of an authority (RFC 5280 §5.2.3). */
  readonly number: number;
  /** Milliseconds since 1970. */
  readonly thisUpdate: number;
  readonly nextUpdate: number;
  readonly revoked: readonly {
    readonly serialNumber: string;
    readonly since: number;
    readonly reason: RevocationReason;
  }[];
}

/** DER of a direct CRL (RFC 5280 §5) of an authority. */
export async function issueRevocationList(wish: RevocationWish, signer: Signer): Promise<Uint8Array> {
  if (!signer.certificate) throw new RangeError('a CRL is signed by an authority with a certificate');
  const authority = new X509Certificate(bufferOf(signer.certificate));
  const made = await X509CrlGenerator.create({
    issuer: authority.subjectName,
    thisUpdate: new Date(wish.thisUpdate),
    nextUpdate: new Date(wish.nextUpdate),
    signingAlgorithm: signatureOf(signer.kind),
    signingKey: signer.privateKey,
    entries: wish.revoked.map(({ serialNumber, since, reason }) => ({
      serialNumber,
      revocationDate: new Date(since),
      reason: X509CrlReason[reason],
    })),
    extensions: [await authorityKeyId(authority, authority.publicKey), crlNumber(wish.number)],
  });
  return new Uint8Array(made.rawData);
}

/** CRLNumber: an INTEGER in the fewest octets, never negative. */
function crlNumber(number: number): Extension {
  const octets: number[] = [];
  for (let rest = number; rest > 0 || octets.length === 0; rest = Math.floor(rest / 256)) octets.unshift(rest % 256);
  if ((octets[0] ?? 0) > 0x7f) octets.unshift(0);
  return new Extension('2.5.29.20', false, Uint8Array.from([0x02, octets.length, ...octets]));
}
