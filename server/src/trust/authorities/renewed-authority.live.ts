import { randomBytes } from 'node:crypto';
import { targetOf, writePem } from '@loyal-hinge/core';
import { makeKeys, makeSigningRequest } from '@loyal-hinge/core/issuing';
import type { TrustChange } from '@loyal-hinge/core';
import type { AuthorityView, WorkOrder } from '@loyal-hinge/contract';
import { signIn } from '../../testing/calls.js';
import type { Caller } from '../../testing/calls.js';
import { found } from '../../testing/found.js';
import { inPlant, passphraseGiven, plantGiven, thumbprintIn } from '../../testing/given.js';
import { startOneServer } from '../../testing/one-server.js';
import type { OneServer } from '../../testing/one-server.js';
import { Pair, listing, unlisting } from '../../testing/orders.js';
import { ownPassword, ownServer } from '../../testing/own-server.js';

const taken = plantGiven();
const works = thumbprintIn(taken.authority.certificatePem);
const passphrase = passphraseGiven();
const pemOf = (id: string): string =>
  taken.clients.find(({ applicationId }) => applicationId === id)?.certificatePem ?? '';

const own = ownServer('renewed_authority');
const [crane, quality, desk] = ['crane-server', 'quality-client', 'engineering-client'] as const;
const linkId = 'quality--crane';
const address = inPlant('99.2');
const endpointUrl = `opc.tcp://${address}:4840`;
let server: OneServer;
let engineer: Caller;
let approver: Caller;
let pair: Pair;

const renewing = (applicationId: string, authority: string): TrustChange => ({
  kind: 'renew-certificate',
  applicationId,
  authority,
  before: null,
});
const authorityOf = async (thumbprint: string): Promise<AuthorityView | undefined> =>
  (await engineer.call('authorities')).authorities.find((one) => one.thumbprint === thumbprint);
const trustedBy = async (id: string): Promise<readonly string[]> =>
  (await engineer.call('trustHolder', { id })).lists
    .filter(({ list }) => list === 'trusted')
    .map(({ thumbprint }) => thumbprint);
const statesOf = ({ lines }: WorkOrder): readonly string[] =>
  lines.map(({ change, state }) => `${change.kind} ${state}`);
const checked = async () => {
  await found(engineer, linkId);
  const { state, headline, partedAt, leadingCause } = (await engineer.call('link', { linkId })).assessment;
  return { state, headline, partedAt, leadingCause };
};
/** What the plan wants for the server, the client and the desk of this test. */
const plannedHere = async (): Promise<readonly TrustChange[]> => {
  const { authority } = await engineer.call('trustPlans');
  const here: readonly string[] = [crane, quality, desk];
  return (authority?.changes ?? []).map(({ change }) => change).filter((change) => here.includes(targetOf(change)));
};
const isGiving = ({ kind }: TrustChange): boolean => kind.startsWith('list-');
const renewed = async (before: string, newKey: 'RSA 2048' | null): Promise<AuthorityView> =>
  approver.call('renewAuthority', { thumbprint: before }, { newKey, validDays: 900, passphrase, newPassphrase: null });

/** A server and a client that both show what the works’ authority signed, and trust it. */
beforeAll(async () => {
  const passwords = {
    security: randomBytes(12).toString('base64url'),
    collector: taken.passwords.find((kept) => kept.linkId === linkId)?.password ?? '',
  };
  [server] = await Promise.all([
    startOneServer({ id: crane, address, trusted: [pemOf(desk)], passwords }),
    own.setUp(),
  ]);
  const { url } = await own.serve();
  [engineer, approver] = [await signIn('engineer', url, ownPassword), await signIn('administrator', url, ownPassword)];
  pair = new Pair(engineer, approver, passphrase);
  const base64 = Buffer.from(server.certificatePem).toString('base64');
  await engineer.call('recognise', {}, { files: [{ name: 'crane.pem', base64 }] });
  const { password, ...way } = { userName: 'security', password: passwords.security, clientId: desk, endpointUrl };
  await engineer.call('setTrustWay', { id: crane }, { way: 'push', ...way, password });
  const link = taken.plant.links.find(({ id }) => id === linkId);
  const machine = taken.plant.machines.find(({ id }) => id === 'crane');
  if (!link || !machine) throw new Error(`no link ${linkId}`);
  await engineer.call('putMachine', { id: machine.id }, { ...machine, addresses: [address] });
  const change = { kind: 'set-endpoint-url', linkId, before: link.endpointUrl, after: endpointUrl } as const;
  await engineer.call('mend', { linkId }, { change, password: passwords.collector });
  // New certificates are tried on all links of theirs: servers of the made-up plant are left alone.
  for (const { id, clientId } of taken.plant.links)
    if (clientId === quality && id !== linkId) await engineer.call('removeLink', { id });
  expect(
    await pair.carryOut([
      listing(desk, thumbprintIn(server.certificatePem)),
      listing(crane, works),
      renewing(crane, works),
      renewing(quality, works),
    ]),
  ).toMatchObject({ state: 'proved' });
  expect(await pair.carryOut((await plannedHere()).filter(isGiving))).toMatchObject({ state: 'proved' });
  expect(await checked()).toMatchObject({ partedAt: null });
}, 180_000);
afterAll(() => Promise.all([server.stop(), own.remove()]));

describe('an authority that is renewed with a new key', () => {
  let next: AuthorityView;

  it('takes the place of the old one in plans, and leaves it trusted everywhere', async () => {
    next = await renewed(works, 'RSA 2048');
    expect(next).toMatchObject({ name: 'Marrowby Glass Works Authority', isCurrent: true, mayRenew: true });
    expect(next.crl).toMatchObject({ number: 1 });
    expect(await authorityOf(works)).toMatchObject({
      isCurrent: false,
      mayRenew: false,
      keyKept: true,
      succession: { after: next.thumbprint, isOver: false, showBefore: expect.arrayContaining(['Crane server']) },
    });
    expect(await trustedBy(crane)).toContain(works);
    expect(await approver.refused('renewAuthority', { thumbprint: works }, wishWith(passphrase))).toMatchObject({
      status: 409,
      detail: 'This authority was replaced already.',
    });
  }, 60_000);

  it('keeps the old one trusted where a new certificate is not accepted, and says by whom', async () => {
    const changes = [
      ...(await plannedHere()).filter((change) => change.kind !== 'unlist-certificate' && targetOf(change) !== crane),
      renewing(quality, next.thumbprint),
      unlisting(crane, works),
    ];
    const order = await pair.carryOut(changes, [linkId]);
    expect(order.state).toBe('approved');
    expect(statesOf(order).slice(-2)).toEqual(['renew-certificate proved', 'unlist-certificate waiting']);
    expect(order.lines.at(-1)?.says).toContain('Kept, since a new certificate is not accepted here');
    expect(order.lines.at(-1)?.says).toContain('Quality board to Crane');
    expect(await engineer.call('readTrust', { id: crane }, {})).toMatchObject({ ok: true });
    expect(await trustedBy(crane)).toContain(works);

    const letIn = (await plannedHere()).filter((change) => targetOf(change) === crane && isGiving(change));
    expect(await pair.carryOut([listing(crane, next.thumbprint), ...letIn], [linkId])).toMatchObject({
      state: 'proved',
    });
    expect(await pair.goOn(order.id)).toMatchObject({ state: 'proved' });
    expect(await trustedBy(crane)).not.toContain(works);
    expect(await checked()).toMatchObject({ partedAt: null });
  }, 240_000);

  it('is proved with each new certificate, and only then the old one goes', async () => {
    const changes = [
      ...(await plannedHere()).filter((change) => change.kind !== 'unlist-certificate'),
      unlisting(quality, works),
    ];
    expect(changes).toContainEqual({ ...renewing(crane, next.thumbprint), before: expect.any(String) });
    const order = await pair.carryOut(changes, [linkId]);
    expect(order).toMatchObject({ state: 'proved' });
    const { checks } = await engineer.call('link', { linkId });
    const proof = checks.find(({ askedAt }) => askedAt > (order.decidedAt ?? ''));
    const removed = (await engineer.call('trustHolder', { id: quality })).history.find(({ removed }) =>
      removed.some((what) => what.includes('Marrowby Glass Works Authority')),
    );
    expect(proof?.found).not.toBe('Parted');
    const ends = checks.filter(({ askedAt }) => askedAt > (order.decidedAt ?? '')).map(({ endedAt }) => endedAt ?? '9');
    expect(ends.some((endedAt) => endedAt < (removed?.at ?? ''))).toBe(true);
    expect(await trustedBy(quality)).not.toContain(works);
    const { succession } = (await authorityOf(works)) ?? {};
    expect(succession?.showBefore).not.toContain('Crane server');
  }, 240_000);

  it('issues CRLs of both for as long as lists want them', async () => {
    const old = await engineer.call('issueCrl', { thumbprint: works }, { passphrase });
    expect(old.crl?.number).toBeGreaterThan(next.crl?.number ?? 0);
    expect((await authorityOf(next.thumbprint))?.crl).toMatchObject({ number: 1 });
  });
});

const wishWith = (secret: string) => ({ newKey: null, validDays: 900, passphrase: secret, newPassphrase: null });

/** A certificate that nobody uses. */
async function lostWish() {
  const keys = await makeKeys('P-256');
  const subject = { commonName: 'Lost', organization: 'Marrowby Glass' };
  const applicationUri = 'urn:marrowby.example:crane-server';
  const made = await makeSigningRequest({ subject, applicationUri, hosts: [address], kind: 'P-256', keys });
  return { applicationId: crane, requestPem: writePem('CERTIFICATE REQUEST', made), validDays: 30, passphrase };
}

describe('an authority that is renewed with its key', () => {
  it('keeps what it has signed and revoked: only lists have to move', async () => {
    const { authorities } = await engineer.call('authorities');
    const before = authorities.find(({ isCurrent }) => isCurrent);
    if (!before) throw new Error('no authority');
    const lost = await engineer.call('issueCertificate', { thumbprint: before.thumbprint }, await lostWish());
    const { certificate } = await engineer.call('certificatePage', { thumbprint: lost.thumbprint });
    const revoke = { serialNumber: certificate.serialNumber, reason: 'superseded' as const, passphrase };
    await approver.call('revokeCertificate', { thumbprint: before.thumbprint }, revoke);
    expect(
      await approver.refused('renewAuthority', { thumbprint: before.thumbprint }, wishWith('not that one')),
    ).toMatchObject({ status: 400, faults: [{ place: 'passphrase' }] });
    const after = await renewed(before.thumbprint, null);
    expect(after).toMatchObject({ isCurrent: true, crl: { number: 3 } });
    expect(after.certificate.subjectKeyId).toBe(before.certificate.subjectKeyId);
    const planned = await plannedHere();
    expect(planned.filter(({ kind }) => kind === 'renew-certificate')).toEqual([]);
    expect(planned).toContainEqual(listing(crane, after.thumbprint));
    expect(planned).toContainEqual(unlisting(crane, before.thumbprint));
    expect((await authorityOf(before.thumbprint))?.succession).toMatchObject({ showBefore: [], isOver: false });
  }, 60_000);

  it('is renewed by administrators only', async () => {
    const wish = wishWith(passphrase);
    expect(await engineer.refused('renewAuthority', { thumbprint: works }, wish)).toMatchObject({ status: 403 });
  });
});
