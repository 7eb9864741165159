import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { readCertificate, readPem } from '@loyal-hinge/core';
import { handover } from '../setup/made-up-plant/handover.js';
import type { Handover } from '../setup/made-up-plant/handover.js';

/** What `npm test` has started: database, made-up plant and server. */
export function given(name: string): string {
  const value = process.env[name];
  if (!value) throw new Error(`${name} is not set: run “npm test”, which starts what these tests need`);
  return value;
}

export const plantGiven = (): Handover =>
  handover.parse(JSON.parse(readFileSync(given('HINGE_TEST_HANDOVER'), 'utf8')));

/** An address of the made-up plant by what is its own part of it, such as `20.11`. */
export function inPlant(rest: string): string {
  const [first = '', second = ''] = plantGiven().range.split('.');
  return `${first}.${second}.${rest}`;
}

/** The passphrase of the authority of the made-up plant; it is made anew with the plant. */
export function passphraseGiven(): string {
  const file = join(dirname(given('HINGE_TEST_HANDOVER')), 'secrets.json');
  return (JSON.parse(readFileSync(file, 'utf8')) as { passphrase: string }).passphrase;
}

export function derOf(pem: string): Uint8Array {
  const read = readPem(pem);
  const der = read.ok ? read.blocks[0]?.der : undefined;
  if (!der) throw new Error('no certificate');
  return der;
}

export function thumbprintIn(certificate: string | Uint8Array): string {
  const read = readCertificate(typeof certificate === 'string' ? derOf(certificate) : certificate);
  return read.ok ? read.certificate.thumbprint : '';
}
