import { makeKeys, makeSigningRequest } from '@loyal-hinge/core/issuing';
import { writePem } from '@loyal-hinge/core';
import { signIn } from '../../testing/calls.js';
import type { Caller } from '../../testing/calls.js';
import { passphraseGiven, plantGiven, thumbprintIn } from '../../testing/given.js';

const taken = plantGiven();
const passphrase = passphraseGiven();
const authority = thumbprintIn(taken.authority.certificatePem);

let engineer: Caller;
beforeAll(async () => {
  engineer = await signIn('engineer');
  await engineer.call('readTrust', { id: 'cooling-water-server' }, {});
});

describe('an application that fetches by itself', () => {
  it('hands a request in, and gets certificate and trust list, once', async () => {
    const { token, ticket } = await engineer.call(
      'makePullTicket',
      {},
      { applicationId: 'cooling-water-server', validHours: 2 },
    );
    const nobody = await signIn('viewer');
    const keys = await makeKeys('P-256');
    const der = await makeSigningRequest({
      subject: { commonName: 'Cooling water', organization: 'Marrowby Glass' },
      applicationUri: 'urn:marrowby.example:cooling-water-server',
      hosts: ['cooling-water.marrowby.example'],
      kind: 'P-256',
      keys,
    });
    const requestPem = writePem('CERTIFICATE REQUEST', der);
    const wrong = await nobody.refused('pullRequest', {}, { token: 'x'.repeat(43), requestPem });
    expect(wrong).toMatchObject({ status: 404 });
    expect(await nobody.call('pullRequest', {}, { token, requestPem })).toMatchObject({ state: 'waiting' });
    expect(await nobody.refused('pullRequest', {}, { token, requestPem })).toMatchObject({ status: 409 });
    expect(await nobody.call('pullResult', {}, { token })).toMatchObject({ state: 'waiting' });
    expect(
      await nobody.refused('signPullTicket', { id: ticket.id }, { authority, validDays: 9, passphrase }),
    ).toMatchObject({ status: 403 });
    const body = { authority, validDays: 400, passphrase };
    expect(await engineer.call('signPullTicket', { id: ticket.id }, body)).toMatchObject({ state: 'signed' });
    const got = await nobody.call('pullResult', {}, { token });
    if (got.state !== 'ready') throw new Error('it is not ready');
    expect(thumbprintIn(got.chainPem)).toBe(authority);
    expect(got.trustList.trusted.map(thumbprintIn)).toHaveLength(1);
    expect(got.trustList.issuers.map(thumbprintIn)).toEqual([authority]);
    expect(got.trustList.issuerCrls).toHaveLength(1);
    expect(await nobody.refused('pullResult', {}, { token })).toMatchObject({ status: 404 });
    expect((await engineer.call('pullTickets')).tickets[0]).toMatchObject({ state: 'fetched' });
    expect(JSON.stringify(await engineer.call('pullTickets'))).not.toContain(token);
  });

  it('is none whose key the product holds', async () => {
    const wish = { applicationId: 'quality-client', validHours: 2 };
    expect(await engineer.refused('makePullTicket', {}, wish)).toMatchObject({
      status: 409,
      detail: expect.stringContaining('Loyal Hinge holds the key of Quality board'),
    });
  });

  it('is refused a request for somebody else', async () => {
    const { token } = await engineer.call('makePullTicket', {}, { applicationId: 'crane-server', validHours: 2 });
    const keys = await makeKeys('P-256');
    const subject = { commonName: 'Lehr', organization: '' };
    const wish = {
      subject,
      applicationUri: 'urn:marrowby.example:lehr-server',
      hosts: [],
      kind: 'P-256' as const,
      keys,
    };
    const requestPem = writePem('CERTIFICATE REQUEST', await makeSigningRequest(wish));
    expect(await engineer.refused('pullRequest', {}, { token, requestPem })).toMatchObject({
      detail: 'The request is not for urn:marrowby.example:crane-server.',
    });
  });
});
