import { generateKeyPairSync } from 'node:crypto';
import { writePem } from '@loyal-hinge/core';
import { party, read, rootOf } from '../../../../core/src/testing/pki.js';
import type { Algorithm } from '../../../../core/src/testing/pki.js';
import { ProblemError } from '../../http/problems.js';
import { requestIn } from '../../certificates/request-in.js';
import { certificateIn, kindOf, openKey, pemOf } from './given.js';

/** What somebody is told who gave something wrong. */
function refusal(of: () => unknown): { readonly says: string; readonly place: string | undefined } {
  try {
    of();
  } catch (error) {
    if (error instanceof ProblemError) return { says: error.problem.detail, place: error.problem.faults?.[0]?.place };
    throw error;
  }
  throw new Error('it was taken');
}

describe('the key of an authority', () => {
  const { privateKey } = generateKeyPairSync('ec', { namedCurve: 'P-256' });
  const pem = privateKey
    .export({ type: 'pkcs8', format: 'pem', cipher: 'aes-256-cbc', passphrase: 'open it' })
    .toString();

  it('opens with its passphrase alone', () => {
    expect(openKey(pem, 'open it').equals(privateKey)).toBe(true);
    for (const wrong of ['', 'open it ', 'OPEN IT'])
      expect(refusal(() => openKey(pem, wrong))).toEqual({
        says: 'The passphrase does not open the key of the authority.',
        place: 'passphrase',
      });
  });

  it('never stands in what is said about it', () => {
    expect(refusal(() => openKey('no key at all, but a secret', 'open it')).says).not.toContain('secret');
  });
});

describe('the certificate of an authority', () => {
  const rootWith = async (algorithm: Algorithm): Promise<Uint8Array> => rootOf(await party('Works CA', algorithm));

  it('is taken out of PEM, whatever stands around it', async () => {
    const der = await rootWith('P-256');
    const text = `some words\n${writePem('CERTIFICATE REQUEST', Uint8Array.of(0x30, 0))}${pemOf(der)}`;
    expect(certificateIn(text).thumbprint).toBe(read(der).thumbprint);
  });

  it('is asked for where there is none, and what is broken is said with its line', () => {
    expect(refusal(() => certificateIn('nothing'))).toEqual({
      says: 'There is no certificate in this text.',
      place: 'certificatePem',
    });
    expect(refusal(() => certificateIn(pemOf(Uint8Array.of(0x30, 1)))).says).toContain('not an X.509 certificate');
    const broken = '-----BEGIN CERTIFICATE-----\n%%%\n-----END CERTIFICATE-----\n';
    expect(refusal(() => certificateIn(broken)).says).toMatch(/^Line \d+: /);
  });

  it('has a key of a kind that can sign here, or it is refused with those that can', async () => {
    const kind = async (algorithm: Algorithm) => certificateIn(pemOf(await rootWith(algorithm)));
    expect(kindOf(await kind('P-256'))).toBe('P-256');
    expect(kindOf(await kind('RSA'))).toBe('RSA 2048');
    const other = await kind('P-384');
    expect(refusal(() => kindOf(other)).says).toContain('can’t be used here');
  });
});

describe('a request', () => {
  it('is taken by either of its labels', () => {
    const der = Uint8Array.of(0x30, 3, 2, 1, 0);
    for (const label of ['CERTIFICATE REQUEST', 'NEW CERTIFICATE REQUEST'])
      expect([...requestIn(writePem(label, der))]).toEqual([...der]);
  });

  it('is asked for where something else was given', async () => {
    const certificate = pemOf(await rootOf(await party('Works CA')));
    expect(refusal(() => requestIn(certificate))).toEqual({
      says: 'There is no certificate request in this text.',
      place: 'requestPem',
    });
  });
});
