import { writePem } from '@loyal-hinge/core';
import {
  freshSerialNumber,
  issueApplicationCertificate,
  issueRevocationList,
  makeKeys,
  readSigningRequest,
} from '@loyal-hinge/core/issuing';
import type { Signer } from '@loyal-hinge/core/issuing';
import type { AuthorityView, SigningRequestView } from '@loyal-hinge/contract';
import { authorityElsewhere } from '../../testing/authority.js';
import { signIn } from '../../testing/calls.js';
import { derOf, passphraseGiven, plantGiven, thumbprintIn } from '../../testing/given.js';
import { Pair, listing, unlisting } from '../../testing/orders.js';

const taken = plantGiven();
const recorder = 'old-recorder-client';
const dayMs = 86_400_000;

let pair: Pair;
let signer: Signer;
let authority: string;

/** An authority whose key never comes to the product. */
beforeAll(async () => {
  const outside = await authorityElsewhere('Head Office Authority');
  signer = outside;
  authority = thumbprintIn(outside.certificate);
  pair = new Pair(await signIn('engineer'), await signIn('administrator'));
  const certificatePem = writePem('CERTIFICATE', outside.certificate);
  const wish = { certificatePem, encryptedKeyPem: null, passphrase: null };
  expect(await pair.approver.call('importAuthority', {}, wish)).toMatchObject({ keyKept: false, requests: [] });
});
/** The works’ own authority is the one with which plans reckon. */
afterAll(async () => {
  const { certificatePem, encryptedKeyPem } = taken.authority;
  const wish = { certificatePem, encryptedKeyPem, passphrase: passphraseGiven() };
  await pair.approver.call('importAuthority', {}, wish);
});

/** What is done where the key is kept. */
async function signedThere({ requestPem }: SigningRequestView, applicationUri?: string): Promise<string> {
  const read = await readSigningRequest(derOf(requestPem));
  if (!read.ok) throw new Error(read.says);
  const { subject, hosts, publicKey, applicationUris } = read.request;
  const der = await issueApplicationCertificate(
    {
      subject,
      hosts,
      publicKey,
      applicationUri: applicationUri ?? applicationUris[0] ?? '',
      serialNumber: freshSerialNumber(),
      notBefore: Date.now() - dayMs,
      notAfter: Date.now() + 300 * dayMs,
    },
    signer,
  );
  return writePem('CERTIFICATE', der);
}

const request = (applicationId: string): Promise<SigningRequestView> =>
  pair.engineer.call('requestCertificate', { thumbprint: authority }, { applicationId });
const bring = ({ id }: SigningRequestView, certificatePem: string) =>
  pair.engineer.call('bringCertificate', { id }, { certificatePem });
const refusedTo = ({ id }: SigningRequestView, certificatePem: string) =>
  pair.engineer.refused('bringCertificate', { id }, { certificatePem });
const shown = async (): Promise<AuthorityView | undefined> =>
  (await pair.engineer.call('authorities')).authorities.find(({ thumbprint }) => thumbprint === authority);

/** Carries the proposed order out, undoes its line, and says which certificate it was about. */
async function thereAndBack(orderId: string): Promise<string> {
  await pair.approver.call('approveOrder', { id: orderId });
  const order = await pair.goOn(orderId);
  expect(order).toMatchObject({ state: 'proved', lines: [{ state: 'proved' }] });
  const undone = await pair.engineer.call('undoLine', { id: orderId, position: '1' }, {});
  expect(undone.lines[0]).toMatchObject({ state: 'undone' });
  const change = order.lines[0]?.change;
  return change?.kind === 'install-certificate' ? change.thumbprint : '';
}

describe('an authority whose key is kept elsewhere', () => {
  it('gets a request of a client to sign, whose certificate comes back and is given by a work order', async () => {
    const made = await request(recorder);
    expect((await shown())?.requests).toMatchObject([{ id: made.id, application: made.application }]);
    const pem = await signedThere(made);
    const order = await bring(made, pem);
    expect(order.lines[0]).toMatchObject({
      why: 'Head Office Authority has signed it where its key is kept.',
      linkIds: expect.arrayContaining(['old-recorder--lehr']),
      restart: false,
    });
    expect(await shown()).toMatchObject({ requests: [], issued: [{ thumbprint: thumbprintIn(pem) }] });
    expect(await thereAndBack(order.id)).toBe(thumbprintIn(pem));
    const { thumbprint } = (await pair.engineer.call('trust')).columns.find(({ shownBy }) =>
      shownBy.includes(recorder),
    ) ?? {
      thumbprint: '',
    };
    expect(thumbprint).toBe(
      thumbprintIn(taken.clients.find((one) => one.applicationId === recorder)?.certificatePem ?? ''),
    );
  }, 120_000);

  it('gets a request of a server, which takes the certificate over push management', async () => {
    const der = await issueRevocationList(
      { number: 1, thisUpdate: Date.now() - dayMs, nextUpdate: Date.now() + 30 * dayMs, revoked: [] },
      signer,
    );
    const file = { name: 'head-office.crl', base64: Buffer.from(der).toString('base64') };
    const [recognised] = (await pair.engineer.call('recognise', {}, { files: [file] })).files;
    const crlId = recognised?.crlId ?? '';
    const letIn = [
      listing('engineering-client', authority),
      { kind: 'list-crl', holderId: 'engineering-client', list: 'trusted', crlId, before: null } as const,
    ];
    expect(await pair.carryOut(letIn)).toMatchObject({ state: 'proved' });
    expect(await shown()).toMatchObject({ crl: { number: 1 } });
    const made = await request('glass-lab-server');
    const order = await bring(made, await signedThere(made));
    expect(order.lines[0]).toMatchObject({ restart: true, way: 'push' });
    await thereAndBack(order.id);
    expect(await pair.carryOut([unlisting('engineering-client', authority)])).toMatchObject({ state: 'proved' });
  }, 240_000);

  it('has its answer looked at: key, signature, application and validity must fit, or nothing is kept', async () => {
    const [made, other] = [await request(recorder), await request('line-display-client')];
    expect((await refusedTo(made, await signedThere(other))).detail).toContain('for the key of');
    expect((await refusedTo(made, await signedThere(made, 'urn:marrowby.example:other'))).detail).toContain(
      'It is for urn:marrowby.example:other',
    );
    const stranger = await makeKeys('P-256');
    const authorityBefore = signer;
    signer = { ...signer, privateKey: stranger.privateKey };
    expect((await refusedTo(made, await signedThere(made))).detail).toContain('did not sign this certificate');
    signer = authorityBefore;
    expect(await refusedTo(made, 'no PEM at all')).toMatchObject({ faults: [{ place: 'certificatePem' }] });
    for (const { id } of [made, other]) await pair.engineer.call('dropRequest', { id });
    expect(await shown()).toMatchObject({ requests: [] });
    expect(await pair.engineer.refused('bringCertificate', { id: made.id }, { certificatePem: 'x' })).toMatchObject({
      status: 404,
    });
  });

  it('can’t renew by itself: the line says what to do instead, and no passphrase is asked for', async () => {
    const renew = { kind: 'renew-certificate', applicationId: recorder, authority, before: null } as const;
    const order = await pair.carryOut([renew]);
    expect(order.lines[0]).toMatchObject({ state: 'failed', signedHere: false });
    expect(order.lines[0]?.says).toContain('Create a request for the application on the Authority page');
  });

  it('is not the way for an authority whose key lies here, nor for an application that can’t be asked', async () => {
    const works = thumbprintIn(taken.authority.certificatePem);
    const wish = { applicationId: recorder };
    expect(await pair.engineer.refused('requestCertificate', { thumbprint: works }, wish)).toMatchObject({
      detail: 'The key of this authority is stored here.',
    });
    const crane = { applicationId: 'crane-server' };
    expect(await pair.engineer.refused('requestCertificate', { thumbprint: authority }, crane)).toMatchObject({
      detail: expect.stringContaining('can’t be asked for a request from here'),
    });
  });
});
