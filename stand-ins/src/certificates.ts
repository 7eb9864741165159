import { createPrivateKey, createPublicKey } from 'node:crypto';
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { readPem, writePem } from '@loyal-hinge/core';
import {
  exportKey,
  freshSerialNumber,
  importPrivateKey,
  issueApplicationCertificate,
  issueAuthorityCertificate,
  issueUserCertificate,
  makeKeys,
  makeSigningRequest as requestOf,
  algorithmOf,
} from '@loyal-hinge/core/issuing';
import type { KeyKind, Signer } from '@loyal-hinge/core/issuing';

export interface KeyAndCertificate {
  readonly privateKeyPem: string;
  readonly certificatePem: string;
}

export interface CertificateWish {
  readonly commonName: string;
  readonly applicationUri: string;
  readonly hosts: readonly string[];
  /** Days from now. */
  readonly fromDay: number;
  readonly toDay: number;
}

export const dayMs = 86_400_000;
const organization = 'Marrowby Glass';
const kind: KeyKind = 'RSA 2048';
const daysFromNow = (days: number): number => Date.now() + days * dayMs;

/**
 * Makes an application instance certificate, signed by an authority or, without one, by itself.
 * @param privateKeyPem a key that was made before; without one it is made now
 */
export async function makeApplication(
  wish: CertificateWish,
  authority: KeyAndCertificate | null,
  privateKeyPem?: string,
): Promise<KeyAndCertificate> {
  const keys = await (privateKeyPem === undefined ? makeKeys(kind) : keysIn(privateKeyPem));
  const certificate = await issueApplicationCertificate(
    {
      subject: { commonName: wish.commonName, organization },
      applicationUri: wish.applicationUri,
      hosts: wish.hosts,
      publicKey: await exportKey('spki', keys.publicKey),
      serialNumber: freshSerialNumber(),
      notBefore: daysFromNow(wish.fromDay),
      notAfter: daysFromNow(wish.toDay),
    },
    authority ? await signerOf(authority) : { kind, privateKey: keys.privateKey, certificate: null },
  );
  return pems(keys, certificate);
}

/** Makes a certificate of a user, signed by itself. */
export async function makeUser(commonName: string, fromDay: number, toDay: number): Promise<KeyAndCertificate> {
  const keys = await makeKeys(kind);
  const certificate = await issueUserCertificate(
    {
      subject: { commonName, organization },
      publicKey: await exportKey('spki', keys.publicKey),
      serialNumber: freshSerialNumber(),
      notBefore: daysFromNow(fromDay),
      notAfter: daysFromNow(toDay),
    },
    { kind, privateKey: keys.privateKey, certificate: null },
  );
  return pems(keys, certificate);
}

/** Makes a self-signed authority. */
export async function makeAuthority(commonName: string, fromDay: number, toDay: number): Promise<KeyAndCertificate> {
  const keys = await makeKeys(kind);
  const certificate = await issueAuthorityCertificate(
    {
      subject: { commonName, organization },
      publicKey: await exportKey('spki', keys.publicKey),
      serialNumber: freshSerialNumber(),
      notBefore: daysFromNow(fromDay),
      notAfter: daysFromNow(toDay),
      pathLength: 0,
    },
    { kind, privateKey: keys.privateKey, certificate: null },
  );
  return pems(keys, certificate);
}

type Keys = Awaited<ReturnType<typeof makeKeys>>;

async function pems(keys: Keys, certificate: Uint8Array): Promise<KeyAndCertificate> {
  return {
    privateKeyPem: writePem('PRIVATE KEY', await exportKey('pkcs8', keys.privateKey)),
    certificatePem: writePem('CERTIFICATE', certificate),
  };
}

export async function signerOf({ privateKeyPem, certificatePem }: KeyAndCertificate): Promise<Signer> {
  return {
    kind,
    privateKey: await importPrivateKey(kind, derIn(privateKeyPem)),
    certificate: derIn(certificatePem),
  };
}

/** A signing request with a key that is there already; under the certificate’s own name where no other is asked for. */
export async function makeSigningRequest(wish: {
  readonly privateKeyPem: string;
  readonly commonName: string;
  readonly applicationUri: string;
  readonly hosts: readonly string[];
}): Promise<Uint8Array> {
  return requestOf({
    subject: { commonName: wish.commonName, organization },
    applicationUri: wish.applicationUri,
    hosts: wish.hosts,
    kind,
    keys: await keysIn(wish.privateKeyPem),
  });
}

async function keysIn(privateKeyPem: string): Promise<Keys> {
  const key = createPrivateKey(privateKeyPem);
  const pkcs8 = key.export({ type: 'pkcs8', format: 'der' });
  const spki = createPublicKey(key).export({ type: 'spki', format: 'der' });
  return {
    privateKey: await importPrivateKey(kind, pkcs8),
    publicKey: await crypto.subtle.importKey('spki', spki, algorithmOf(kind), true, ['verify']),
  };
}

/** Reads a key and certificate from a folder, or makes them and puts them there, the key readable by its owner alone. */
export async function keptOrMade(folder: string, make: () => Promise<KeyAndCertificate>): Promise<KeyAndCertificate> {
  const files = keyFiles(folder);
  try {
    return {
      privateKeyPem: await readFile(files.privateKey, 'utf8'),
      certificatePem: await readFile(files.certificate, 'utf8'),
    };
  } catch {
    const made = await make();
    await keep(folder, made);
    return made;
  }
}

export async function keep(folder: string, { privateKeyPem, certificatePem }: KeyAndCertificate): Promise<void> {
  const files = keyFiles(folder);
  await mkdir(dirname(files.privateKey), { recursive: true, mode: 0o700 });
  await writeFile(files.privateKey, privateKeyPem, { mode: 0o600 });
  await writeFile(files.certificate, certificatePem);
}

export const keyFiles = (folder: string): { privateKey: string; certificate: string } => ({
  privateKey: `${folder}/private-key.pem`,
  certificate: `${folder}/certificate.pem`,
});

/** The first block of a PEM text. */
export function derIn(pem: string): Uint8Array {
  const read = readPem(pem);
  const der = read.ok ? read.blocks[0]?.der : undefined;
  if (!der) throw new Error('there is no block in the PEM text');
  return der;
}
