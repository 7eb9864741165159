import 'reflect-metadata';
import {
  Pkcs10CertificateRequest,
  Pkcs10CertificateRequestGenerator,
  SubjectAlternativeNameExtension,
} from '@peculiar/x509';
import { isAddressLiteral } from '../../links/endpoint-url.js';
import { bufferOf, jsonNameOf } from './issue.js';
import type { SubjectName } from './issue.js';
import { signatureOf } from './keys.js';
import type { KeyKind } from './keys.js';

/** What a certificate signing request (PKCS#10, RFC 2986) asks for. */
export interface SigningRequest {
  readonly subject: SubjectName;
  readonly applicationUris: readonly string[];
  readonly hosts: readonly string[];
  /** SubjectPublicKeyInfo in DER. */
  readonly publicKey: Uint8Array;
  readonly keyType: 'RSA' | 'EC' | 'other';
}

export type SigningRequestResult =
  { readonly ok: true; readonly request: SigningRequest } | { readonly ok: false; readonly says: string };

/** Reads a request and verifies that whoever made it has the key; bytes that are none give a sentence. */
export async function readSigningRequest(der: Uint8Array): Promise<SigningRequestResult> {
  try {
    const read = new Pkcs10CertificateRequest(bufferOf(der));
    if (!(await read.verify()))
      return { ok: false, says: 'The signature of the request was not made with the key that it names.' };
    const names = read.extensions.find((one) => one instanceof SubjectAlternativeNameExtension)?.names.items ?? [];
    const valuesOf = (...types: readonly string[]): string[] =>
      names.filter(({ type }) => types.includes(type)).map(({ value }) => value);
    const field = (name: string): string => read.subjectName.getField(name)[0] ?? '';
    const algorithm = read.publicKey.algorithm.name ?? '';
    return {
      ok: true,
      request: {
        subject: { commonName: field('CN'), organization: field('O') },
        applicationUris: valuesOf('url'),
        hosts: valuesOf('dns', 'ip'),
        publicKey: new Uint8Array(read.publicKey.rawData),
        keyType: algorithm.startsWith('RSA') ? 'RSA' : algorithm.startsWith('EC') ? 'EC' : 'other',
      },
    };
  } catch {
    return { ok: false, says: 'This is not a certificate signing request (PKCS#10) in DER.' };
  }
}

export interface RequestWish {
  readonly subject: SubjectName;
  readonly applicationUri: string;
  readonly hosts: readonly string[];
  readonly kind: KeyKind;
  readonly keys: CryptoKeyPair;
}

/** DER of a request with the names of an application. */
export async function makeSigningRequest({
  subject,
  applicationUri,
  hosts,
  kind,
  keys,
}: RequestWish): Promise<Uint8Array> {
  const made = await Pkcs10CertificateRequestGenerator.create({
    name: jsonNameOf(subject),
    keys,
    signingAlgorithm: signatureOf(kind),
    extensions: [
      new SubjectAlternativeNameExtension([
        { type: 'url', value: applicationUri },
        ...hosts.map((value) => ({ type: isAddressLiteral(value) ? ('ip' as const) : ('dns' as const), value })),
      ]),
    ],
  });
  return new Uint8Array(made.rawData);
}
