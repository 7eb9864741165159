import 'reflect-metadata';
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { randomBytes, webcrypto } from 'node:crypto';
import {
  AuthorityKeyIdentifierExtension,
  BasicConstraintsExtension,
  ExtendedKeyUsageExtension,
  KeyUsageFlags,
  KeyUsagesExtension,
  SubjectAlternativeNameExtension,
  SubjectKeyIdentifierExtension,
  X509CertificateGenerator,
} from '@peculiar/x509';
import { isAddressLiteral, writePem } from '@loyal-hinge/core';

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
  readonly modulusLength?: 2048 | 3072;
}

const dayMs = 86_400_000;

/** Makes an RSA key and a self-signed application instance certificate (Part 6 §6.2.2). */
export async function makeSelfSigned(wish: CertificateWish): Promise<KeyAndCertificate> {
  const algorithm = {
    name: 'RSASSA-PKCS1-v1_5',
    hash: 'SHA-256',
    publicExponent: new Uint8Array([1, 0, 1]),
    modulusLength: wish.modulusLength ?? 2048,
  };
  const keys = await webcrypto.subtle.generateKey(algorithm, true, ['sign', 'verify']);
  const flags =
    KeyUsageFlags.digitalSignature |
    KeyUsageFlags.nonRepudiation |
    KeyUsageFlags.keyEncipherment |
    KeyUsageFlags.dataEncipherment;
  const certificate = await X509CertificateGenerator.createSelfSigned({
    serialNumber: randomBytes(8).toString('hex').replace(/^./, '1'),
    name: `CN=${wish.commonName}, O=Marrowby Glass`,
    notBefore: new Date(Date.now() + wish.fromDay * dayMs),
    notAfter: new Date(Date.now() + wish.toDay * dayMs),
    keys,
    signingAlgorithm: algorithm,
    extensions: [
      new BasicConstraintsExtension(false, undefined, true),
      new KeyUsagesExtension(flags | KeyUsageFlags.keyCertSign, true),
      new ExtendedKeyUsageExtension(['1.3.6.1.5.5.7.3.1', '1.3.6.1.5.5.7.3.2']),
      new SubjectAlternativeNameExtension([
        { type: 'url', value: wish.applicationUri },
        ...wish.hosts.map((host) => ({
          type: isAddressLiteral(host) ? ('ip' as const) : ('dns' as const),
          value: host,
        })),
      ]),
      await SubjectKeyIdentifierExtension.create(keys.publicKey),
      await AuthorityKeyIdentifierExtension.create(keys.publicKey),
    ],
  });
  const privateKey = new Uint8Array(await webcrypto.subtle.exportKey('pkcs8', keys.privateKey));
  return {
    privateKeyPem: writePem('PRIVATE KEY', privateKey),
    certificatePem: writePem('CERTIFICATE', new Uint8Array(certificate.rawData)),
  };
}

/** Reads a key and certificate from a folder, or makes them and puts them there, the key readable by its owner alone. */
export async function keptOrMade(folder: string, wish: CertificateWish): Promise<KeyAndCertificate> {
  const files = keyFiles(folder);
  try {
    return {
      privateKeyPem: await readFile(files.privateKey, 'utf8'),
      certificatePem: await readFile(files.certificate, 'utf8'),
    };
  } catch {
    const made = await makeSelfSigned(wish);
    await mkdir(dirname(files.privateKey), { recursive: true, mode: 0o700 });
    await writeFile(files.privateKey, made.privateKeyPem, { mode: 0o600 });
    await writeFile(files.certificate, made.certificatePem);
    return made;
  }
}

export const keyFiles = (folder: string): { privateKey: string; certificate: string } => ({
  privateKey: `${folder}/private-key.pem`,
  certificate: `${folder}/certificate.pem`,
});
