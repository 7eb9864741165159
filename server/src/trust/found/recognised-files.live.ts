import { writePem } from '@loyal-hinge/core';
import { issueRevocationList } from '@loyal-hinge/core/issuing';
import type { RecognisedFile } from '@loyal-hinge/contract';
import { authorityElsewhere } from '../../testing/authority.js';
import { signIn } from '../../testing/calls.js';
import type { Caller } from '../../testing/calls.js';
import { derOf, plantGiven } from '../../testing/given.js';

const taken = plantGiven();
const dayMs = 86_400_000;
let engineer: Caller;
beforeAll(async () => {
  engineer = await signIn('engineer');
});

async function told(bytes: Uint8Array | string): Promise<RecognisedFile | undefined> {
  const base64 = Buffer.from(bytes).toString('base64');
  return (await engineer.call('recognise', {}, { files: [{ name: 'brought', base64 }] })).files[0];
}

/** The CRL of an authority that calls itself so. */
async function crlOf(commonName: string): Promise<Uint8Array> {
  const times = { thisUpdate: Date.now() - dayMs, nextUpdate: Date.now() + 30 * dayMs };
  return issueRevocationList({ number: 1, ...times, revoked: [] }, await authorityElsewhere(commonName));
}

describe('files that somebody brings', () => {
  it('are a CRL of the plant’s authority, and nothing is said against it', async () => {
    const [crl] = taken.clients.find(({ applicationId }) => applicationId === 'quality-client')?.crlsPem ?? [];
    const file = await told(derOf(crl ?? ''));
    expect(file).toMatchObject({ kind: 'crl', crlId: expect.any(String) });
    expect(file?.says).toMatch(/^A CRL of Marrowby Glass Works Authority, 1 certificate revoked, next update \S+\.$/);
  });

  it('are a CRL of an issuer that nobody here knows', async () => {
    expect((await told(await crlOf('Distant Authority')))?.says).toContain(
      'No authority of that name is known in the plant',
    );
  });

  it('are a CRL that only bears the name of the plant’s authority', async () => {
    const file = await told(await crlOf('Marrowby Glass Works Authority'));
    expect(file?.says).toContain('None of the authorities of that name that are known here has signed it');
  });

  it('are private keys, which are never stored', async () => {
    const file = await told(writePem('PRIVATE KEY', Uint8Array.from([0x30, 0x03, 0x02, 0x01, 0x00])));
    expect(file).toMatchObject({ kind: 'private-key', says: expect.stringContaining('It was not stored') });
  });

  it('hold several things, each told for itself, what can’t be read among them', async () => {
    const cut = '-----BEGIN CERTIFICATE-----\nAAAA\n';
    const text = `${taken.authority.certificatePem}\n${writePem('X509 CRL', await crlOf('Distant Authority'))}${cut}`;
    const base64 = Buffer.from(text, 'utf16le').toString('base64');
    const { files } = await engineer.call('recognise', {}, { files: [{ name: 'brought', base64 }] });
    expect(files.map(({ kind }) => kind)).toEqual(['certificates', 'crl', 'unknown']);
    expect(files[2]?.says).toMatch(/never ends. This block was skipped/);
  });

  it.each([
    ['', 'The file is empty.'],
    ['Dear Sirs', 'This is neither DER nor PEM nor a zip.'],
    ['-----BEGIN CERTIFICATE-----\nAAAA', 'Line 1: the block “CERTIFICATE” never ends.'],
  ])('are nothing that is known: %j', async (text, says) => {
    expect(await told(text)).toMatchObject({ kind: 'unknown', says });
  });
});
