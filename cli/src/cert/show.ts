import { readCertificate, oneLine } from '@loyal-hinge/core';
import { readPkcs12 } from '@loyal-hinge/core/pkcs12';
import type { CertificateSummary } from '@loyal-hinge/core';
import { CannotRun } from '../cannot-run.js';
import type { Command } from '../command.js';
import { derBlocks, readBytes } from '../files.js';
import { readOptions } from '../options.js';

const usage = `hinge cert show FILE [--passphrase-file FILE] [--json]
  Shows what the certificates of a file say: DER, PEM, PKCS#7 or, with the passphrase in a file, PKCS#12 (never its key). Exit code 0, 3 where one can’t be read, 2 when it could not run.`;

export const show: Command = {
  usage,
  run(args, out, errors) {
    const { options, rest } = readOptions(args, { cert: 'text', 'passphrase-file': 'text', json: 'flag' }, usage);
    const file = options.cert ?? rest[0];
    if (file === undefined) throw new CannotRun(`Say which file.\n\n${usage}`);
    const phrase = options['passphrase-file'];
    const read = (
      phrase === null
        ? derBlocks(file, 'CERTIFICATE', (says) => errors.write(`${oneLine(says)}\n`))
        : inPkcs12(readBytes(file), phrase)
    ).map(readCertificate);
    const told = read.map((result) => (result.ok ? result.certificate.summary : { unreadable: result.says }));
    if (options.json) out.write(`${JSON.stringify(told, null, 2)}\n`);
    else
      out.write(`${told.map((one) => ('unreadable' in one ? oneLine(one.unreadable) : inLines(one))).join('\n\n')}\n`);
    return Promise.resolve(read.length > 0 && read.every(({ ok }) => ok) ? 0 : 3);
  },
};

function inPkcs12(bytes: Uint8Array, passphraseFile: string): readonly Uint8Array[] {
  const passphrase = new TextDecoder().decode(readBytes(passphraseFile)).replace(/\r?\n$/, '');
  const read = readPkcs12(bytes, passphrase);
  if (!read.ok) throw new CannotRun(read.says);
  return [read.entry.certificate, ...read.entry.others].map(({ der }) => der);
}

const inLines = (summary: CertificateSummary): string =>
  Object.entries(labels)
    .map(([key, label]) => [label, valueOf(summary[key as keyof CertificateSummary])] as const)
    .filter(([, value]) => value !== '')
    .map(([label, value]) => `${label.padEnd(20)}${oneLine(value)}`)
    .join('\n');

const labels = {
  subject: 'subject',
  issuer: 'issuer',
  serialNumber: 'serial number',
  notBefore: 'valid from',
  notAfter: 'valid to',
  applicationUris: 'application URI',
  dnsNames: 'DNS names',
  ipAddresses: 'IP addresses',
  keyType: 'key',
  keyBits: 'key bits',
  signatureHash: 'signature hash',
  keyUsages: 'key usage',
  extendedKeyUsages: 'extended key usage',
  isAuthority: 'authority',
  pathLength: 'path length',
  subjectKeyId: 'subject key id',
  authorityKeyId: 'authority key id',
  thumbprint: 'thumbprint (SHA-1)',
  sha256: 'SHA-256',
} as const satisfies Partial<Record<keyof CertificateSummary, string>>;

function valueOf(value: CertificateSummary[keyof CertificateSummary]): string {
  if (value === null) return '';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return Array.isArray(value) ? value.join(', ') : String(value);
}
