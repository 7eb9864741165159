import forge from 'node-forge';
import { lintCertificate } from '@loyal-hinge/core';
import type { ClientIdentity } from '@loyal-hinge/contract';
import { findCertificateIn } from '../testing/certificates.js';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { inPlant, passphraseGiven, plantGiven, thumbprintIn } from '../testing/given.js';

const { clients, authority } = plantGiven();
const passphrase = passphraseGiven();
const id = 'old-recorder-client';
const own = clients.find(({ applicationId }) => applicationId === id);
const before: ClientIdentity = {
  by: 'pem',
  certificatePem: own?.certificatePem ?? '',
  privateKeyPem: own?.privateKeyPem ?? '',
};
const making = {
  by: 'making',
  commonName: 'Old recorder',
  organization: 'Marrowby Glass',
  hosts: ['recorder-2.marrowby.example', inPlant('50.12')],
  keyKind: 'RSA 2048',
  validDays: 90,
  authority: null,
} as const satisfies ClientIdentity;

let engineer: Caller;
beforeAll(async () => {
  engineer = await signIn('engineer');
});
afterAll(() => engineer.call('putIdentity', { id }, before));

const give = (identity: ClientIdentity) => engineer.call('putIdentity', { id }, identity);
const refusal = (identity: unknown) => engineer.refused('putIdentity', { id }, identity);
const pageOf = (thumbprint: string | null) => engineer.call('certificatePage', { thumbprint: thumbprint ?? '' });

describe('a client’s certificate that is made here', () => {
  it('signs itself where no authority is named, and keeps all rules of the standard', async () => {
    const { thumbprint } = await give(making);
    const page = await pageOf(thumbprint);
    const certificate = findCertificateIn(page.pem);
    expect(lintCertificate(certificate).filter(({ severity }) => severity === 'error')).toEqual([]);
    expect(page.certificate).toMatchObject({
      selfIssued: true,
      applicationUris: [own ? findCertificateIn(own.certificatePem).summary.applicationUris[0] : ''],
      dnsNames: ['recorder-2.marrowby.example'],
      ipAddresses: [inPlant('50.12')],
    });
    expect(page.shownBy).toContainEqual(expect.objectContaining({ applicationId: id, now: true }));
  });

  it('is signed by the plant’s authority, whose passphrase is asked for', async () => {
    const signer = { thumbprint: thumbprintIn(authority.certificatePem), passphrase };
    expect(await refusal({ ...making, authority: { ...signer, passphrase: 'another one' } })).toMatchObject({
      faults: [{ place: 'passphrase' }],
    });
    const { thumbprint } = await give({ ...making, authority: signer });
    const page = await pageOf(thumbprint);
    expect(page.chain.map((link) => link.thumbprint)).toEqual([thumbprint, signer.thumbprint]);
    expect(JSON.stringify(page)).not.toContain('PRIVATE KEY');
  });

  it('needs a host, and hosts are no sentences', async () => {
    expect(await refusal({ ...making, hosts: [] })).toMatchObject({ status: 400, faults: [{ place: 'hosts' }] });
    expect(await refusal({ ...making, hosts: ['the laptop'] })).toMatchObject({
      status: 400,
      faults: [{ place: 'hosts.0' }],
    });
  });
});

describe('a PKCS#12 file', () => {
  const file = (passphraseOfFile: string, of = own): string => {
    const key = forge.pki.privateKeyFromPem(of?.privateKeyPem ?? '');
    const certificate = forge.pki.certificateFromPem(of?.certificatePem ?? '');
    const structure = forge.pkcs12.toPkcs12Asn1(key, [certificate], passphraseOfFile, { algorithm: 'aes256' });
    return Buffer.from(forge.asn1.toDer(structure).getBytes(), 'latin1').toString('base64');
  };

  it('gives the client its certificate and key', async () => {
    const { thumbprint } = await give({ by: 'pkcs12', base64: file('open it'), passphrase: 'open it' });
    expect(thumbprint).toBe(thumbprintIn(own?.certificatePem ?? ''));
  });

  it('is refused with a wrong passphrase, or where it is none', async () => {
    expect(await refusal({ by: 'pkcs12', base64: file('open it'), passphrase: 'no' })).toMatchObject({
      faults: [{ place: 'passphrase', says: 'The passphrase does not open this PKCS#12 file.' }],
    });
    expect(await refusal({ by: 'pkcs12', base64: 'AAAA', passphrase: '' })).toMatchObject({
      faults: [{ place: 'base64' }],
    });
  });

  it('of another application is refused: every server would refuse it', async () => {
    const other = clients.find(({ applicationId }) => applicationId !== id);
    const problem = await refusal({ by: 'pkcs12', base64: file('x', other), passphrase: 'x' });
    expect(problem.detail).toContain('every server would refuse it');
  });
});
