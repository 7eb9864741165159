import { lintCertificate } from '@loyal-hinge/core';
import type { UserCertificateGift } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { findCertificateIn } from '../testing/certificates.js';
import { plantGiven, thumbprintIn } from '../testing/given.js';
import { until } from '../testing/until.js';

const name = 'control-room';
const linkId = 'line-display--batch-scales';
const given = plantGiven().userCertificates.find((one) => one.name === name);
const before = {
  by: 'pem',
  certificatePem: given?.certificatePem ?? '',
  privateKeyPem: given?.privateKeyPem ?? '',
} as const satisfies UserCertificateGift;
const making = {
  by: 'making',
  commonName: 'Control room',
  organization: 'Marrowby Glass',
  keyKind: 'RSA 2048',
  validDays: 30,
} as const satisfies UserCertificateGift;

let engineer: Caller;
let viewer: Caller;
let approver: Caller;
beforeAll(async () => {
  [engineer, viewer, approver] = [await signIn('engineer'), await signIn('viewer'), await signIn('approver')];
});
afterAll(() => engineer.call('putUserCertificate', { name }, before));

const all = async () => (await engineer.call('userCertificates', {})).certificates;
const give = (gift: UserCertificateGift) => engineer.call('putUserCertificate', { name }, gift);

/** What a check of the link that is asked for now finds of signing in. */
async function signingIn() {
  const { id } = await engineer.call('checkLink', { linkId }, {});
  const { assessment } = await until(
    () => engineer.call('check', { checkId: id }),
    ({ check }) => check.endedAt !== null,
  );
  return assessment.steps.find(({ step }) => step === 'identity');
}

describe('a user certificate', () => {
  it('lets a link in at a server that trusts it', async () => {
    const [own] = await all();
    expect(own).toMatchObject({
      name,
      certificate: {
        thumbprint: thumbprintIn(before.certificatePem),
        criteria: 'CN="control-room"/O="Marrowby Glass"',
      },
      links: [{ id: linkId }],
    });
    const step = await signingIn();
    expect(step).toMatchObject({ verdict: 'holds', summary: 'Let in (user certificate).' });
  });

  it('that is made here keeps to the standard, and is refused where no server trusts it yet', async () => {
    const made = await give(making);
    const page = await engineer.call('certificatePage', { thumbprint: made.certificate?.thumbprint ?? '' });
    const certificate = findCertificateIn(page.pem);
    expect(certificate.summary).toMatchObject({
      applicationUris: [],
      keyUsages: ['digitalSignature', 'nonRepudiation'],
    });
    expect(lintCertificate(certificate).length).toBeGreaterThan(0);
    const step = await signingIn();
    const finding = step?.findings.find(({ causeId }) => causeId === 'user-refused');
    expect(finding?.meaning).toContain('does not let the user certificate “control-room” in');
    expect(finding?.remedies[0]?.title).toContain(made.certificate?.thumbprint);
    expect(step?.findings.map(({ causeId }) => causeId)).toContain('user-certificate-ends-soon');
  });

  it('is not forgotten while links sign in with it, nor given by viewers, nor under an odd name', async () => {
    expect(await engineer.refused('forgetUserCertificate', { name })).toMatchObject({
      status: 409,
      detail: expect.stringContaining('signs in with it.') as string,
    });
    expect(await viewer.refused('putUserCertificate', { name }, before)).toMatchObject({ status: 403 });
    expect(await engineer.refused('putUserCertificate', { name: 'a?b' }, before)).toMatchObject({ status: 400 });
    expect(await engineer.refused('forgetUserCertificate', { name: 'nobody' })).toMatchObject({ status: 404 });
    const other = { ...before, privateKeyPem: plantGiven().clients[0]?.privateKeyPem ?? '' };
    expect(await engineer.refused('putUserCertificate', { name }, other)).toMatchObject({
      faults: [{ place: 'privateKeyPem' }],
    });
  });

  it('of another name is forgotten with its key, and the trail says so', async () => {
    await engineer.call('putUserCertificate', { name: 'night shift' }, making);
    expect((await all()).map((one) => one.name)).toContain('night shift');
    await engineer.call('forgetUserCertificate', { name: 'night shift' });
    expect((await all()).map((one) => one.name)).not.toContain('night shift');
    const { entries } = await engineer.call('audit', {});
    expect(entries.map(({ action }) => action)).toEqual(
      expect.arrayContaining(['user certificate set', 'user certificate forgotten']),
    );
    expect(JSON.stringify(entries)).not.toContain('PRIVATE KEY');
  });

  it('is given back, and lets the link in again', async () => {
    await give(before);
    expect((await signingIn())?.verdict).toBe('holds');
  });

  it('is put into a server’s list of users by a work order, proved by reading, and taken out again', async () => {
    const serverId = 'batch-scales-server';
    const night = 'night shift';
    const { certificate } = await engineer.call('putUserCertificate', { name: night }, making);
    await engineer.call('readAccess', { serverId }, {});
    const trusted = async () =>
      (await engineer.call('access', { serverId })).userCertificates?.map(({ name: is }) => is);
    expect(await trusted()).toEqual(['control-room']);
    const { connected } = await engineer.call('access', { serverId });
    expect(connected?.says).toMatch(/ since the server was started/);
    const own = connected?.sessions?.find(({ isOwn }) => isOwn);
    expect(own).toMatchObject({ mode: 'SignAndEncrypt', weaknesses: [] });
    const change = {
      kind: 'trust-user' as const,
      serverId,
      thumbprint: certificate?.thumbprint ?? '',
      subject: certificate?.subject ?? '',
      notAfter: certificate?.notAfter ?? '',
    };
    const order = { title: 'Trust', lines: [{ change, why: 'It is tried.', linkIds: [] }] };
    const { id } = await engineer.call('proposeOrder', {}, order);
    await approver.call('approveOrder', { id }, {});
    await engineer.call('carryOutOrder', { id }, {});
    const done = await until(
      () => engineer.call('order', { id }),
      ({ lines }) => lines.every(({ state }) => state === 'proved' || state === 'failed'),
    );
    expect(done.lines[0]).toMatchObject({ state: 'proved', way: 'push' });
    expect((await trusted())?.sort()).toEqual(['control-room', night]);
    const { columns, cells } = await engineer.call('userTrust');
    expect(columns.map(({ name: is }) => is)).toEqual(['control-room', night]);
    const standingOf = (called: string) => {
      const column = columns.find(({ name: is }) => is === called);
      return cells.find((cell) => cell.holderId === serverId && cell.thumbprint === column?.thumbprint);
    };
    expect(standingOf('control-room')).toMatchObject({ standing: 'directly', linkIds: ['line-display--batch-scales'] });
    expect(standingOf(night)).toMatchObject({ standing: 'directly', linkIds: [] });
    expect((await all()).find((one) => one.name === night)?.trustedBy).toMatchObject([{ id: serverId }]);
    const undone = await engineer.call('undoLine', { id, position: '1' }, {});
    expect(undone.lines[0]?.state).toBe('undone');
    expect(await trusted()).toEqual(['control-room']);
    await engineer.call('forgetUserCertificate', { name: night });
  });
});
