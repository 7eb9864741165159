import { exportKey, makeKeys, makeSigningRequest } from '@loyal-hinge/core/issuing';
import { readCertificate, readPem, writePem } from '@loyal-hinge/core';
import { signIn } from '../../testing/calls.js';
import type { Caller } from '../../testing/calls.js';
import { passphraseGiven, plantGiven, thumbprintIn } from '../../testing/given.js';

const taken = plantGiven();
const passphrase = passphraseGiven();
const authority = thumbprintIn(taken.authority.certificatePem);

let engineer: Caller;
let approver: Caller;
beforeAll(async () => {
  [engineer, approver] = [await signIn('engineer'), await signIn('administrator')];
});

describe('the plant’s authority', () => {
  const request = async (applicationUri: string): Promise<string> => {
    const keys = await makeKeys('P-256');
    const subject = { commonName: 'Crane', organization: 'Marrowby Glass' };
    const hosts = ['crane.marrowby.example'];
    expect((await exportKey('spki', keys.publicKey)).length).toBeGreaterThan(80);
    return writePem(
      'CERTIFICATE REQUEST',
      await makeSigningRequest({ subject, applicationUri, hosts, kind: 'P-256', keys }),
    );
  };
  const wish = async (applicationUri = 'urn:marrowby.example:crane-server') => ({
    applicationId: 'crane-server',
    requestPem: await request(applicationUri),
    validDays: 400,
  });

  it('signs a request only with its passphrase, and never tells its key', async () => {
    const refused = await engineer.refused(
      'issueCertificate',
      { thumbprint: authority },
      { ...(await wish()), passphrase: 'not the passphrase' },
    );
    expect(refused).toMatchObject({ status: 400, faults: [{ place: 'passphrase' }] });
    const issued = await engineer.call(
      'issueCertificate',
      { thumbprint: authority },
      { ...(await wish()), passphrase },
    );
    const pem = readPem(issued.certificatePem);
    const read = pem.ok && pem.blocks[0] ? readCertificate(pem.blocks[0].der) : null;
    expect(read?.ok && read.certificate.summary).toMatchObject({
      applicationUris: ['urn:marrowby.example:crane-server'],
      dnsNames: ['crane.marrowby.example'],
      issuer: 'CN=Marrowby Glass Works Authority, O=Marrowby Glass',
    });
    expect(JSON.stringify(await engineer.call('authorities'))).not.toMatch(/PRIVATE KEY|passphrase/);
  });

  it('refuses a request for another application URI, and garbage', async () => {
    const body = { ...(await wish('urn:marrowby.example:crusher')), passphrase };
    expect(await engineer.refused('issueCertificate', { thumbprint: authority }, body)).toMatchObject({
      detail: expect.stringContaining('the plant knows this application as urn:marrowby.example:crane-server'),
    });
    const garbage = { ...body, requestPem: writePem('CERTIFICATE REQUEST', Uint8Array.from([0x30, 3, 2, 1, 1])) };
    expect(await engineer.refused('issueCertificate', { thumbprint: authority }, garbage)).toMatchObject({
      detail: expect.stringContaining('PKCS#10'),
    });
  });

  it('is made, revokes, and tells of it in a CRL with the next number', async () => {
    const made = await approver.call(
      'createAuthority',
      {},
      {
        commonName: 'Trial Authority',
        organization: 'Marrowby Glass',
        keyKind: 'P-256',
        validDays: 900,
        pathLength: 0,
        passphrase: 'a long passphrase',
      },
    );
    expect(made).toMatchObject({ isCurrent: true, keyKept: true, crl: { number: 1, warning: null } });
    const mine = { thumbprint: made.thumbprint };
    const issued = await engineer.call('issueCertificate', mine, {
      ...(await wish()),
      passphrase: 'a long passphrase',
    });
    const [row] =
      (await engineer.call('authorities')).authorities.find(({ thumbprint }) => thumbprint === made.thumbprint)
        ?.issued ?? [];
    expect(row).toMatchObject({ thumbprint: issued.thumbprint, application: 'Crane server', revokedAt: null });
    const body = {
      serialNumber: row?.serialNumber ?? '',
      reason: 'superseded' as const,
      passphrase: 'a long passphrase',
    };
    expect(await engineer.refused('revokeCertificate', mine, body)).toMatchObject({ status: 403 });
    const after = await approver.call('revokeCertificate', mine, body);
    expect(after).toMatchObject({
      crl: { number: 2 },
      issued: [{ reason: 'superseded', revokedAt: expect.any(String) }],
    });
    // The works’ own authority is the one with which plans reckon.
    await approver.call(
      'importAuthority',
      {},
      {
        certificatePem: taken.authority.certificatePem,
        encryptedKeyPem: taken.authority.encryptedKeyPem,
        passphrase,
      },
    );
  });
});
