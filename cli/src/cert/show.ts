import { readCertificate } from '@loyal-hinge/core';
import type { CertificateSummary } from '@loyal-hinge/core';
import { CannotRun } from '../cannot-run.js';
import type { Command } from '../command.js';
import { derBlocks, readBytes } from '../files.js';
import { readOptions } from '../options.js';

const usage = `hinge cert show FILE [--json]
  Shows what the certificates of a file say. Exit code 0, 3 where one can’t be read, 2 when it could not run.`;

export const show: Command = {
  usage,
  run(args, out) {
    const { options, rest } = readOptions(args, { cert: 'text', json: 'flag' }, usage);
    const file = options.cert ?? rest[0];
    if (file === undefined) throw new CannotRun(`Say which file.\n\n${usage}`);
    const read = derBlocks(readBytes(file), 'CERTIFICATE').map(readCertificate);
    const told = read.map((result) => (result.ok ? result.certificate.summary : { unreadable: result.says }));
    if (options.json) out.write(`${JSON.stringify(told, null, 2)}\n`);
    else out.write(`${told.map((one) => ('unreadable' in one ? one.unreadable : inLines(one))).join('\n\n')}\n`);
    return Promise.resolve(read.length > 0 && read.every(({ ok }) => ok) ? 0 : 3);
  },
};

const inLines = (summary: CertificateSummary): string =>
  Object.entries(labels)
    .map(([key, label]) => [label, valueOf(summary[key as keyof CertificateSummary])] as const)
    .filter(([, value]) => value !== '')
    .map(([label, value]) => `${label.padEnd(20)}${value}`)
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
