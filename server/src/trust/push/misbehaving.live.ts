import { randomBytes } from 'node:crypto';
import type { TrustChange } from '@loyal-hinge/core';
import { signIn } from '../../testing/calls.js';
import type { Caller } from '../../testing/calls.js';
import { inPlant, passphraseGiven, plantGiven, thumbprintIn } from '../../testing/given.js';
import { startOneServer } from '../../testing/one-server.js';
import type { OneServer } from '../../testing/one-server.js';
import { Pair, listing, unlisting } from '../../testing/orders.js';
import { ownPassword, ownServer } from '../../testing/own-server.js';
import { until } from '../../testing/until.js';

const taken = plantGiven();
const authority = thumbprintIn(taken.authority.certificatePem);
const pemOf = (id: string): string =>
  taken.clients.find(({ applicationId }) => applicationId === id)?.certificatePem ?? '';
const base64 = (text: string): string => Buffer.from(text).toString('base64');

const own = ownServer('misbehaving');
const crane = 'crane-server';
const address = inPlant('99.1');
let server: OneServer;
let engineer: Caller;
let pair: Pair;

beforeAll(async () => {
  const password = randomBytes(12).toString('base64url');
  [server] = await Promise.all([
    startOneServer({ id: crane, address, trusted: [pemOf('engineering-client')], passwords: { security: password } }),
    own.setUp(),
  ]);
  const { url } = await own.serve();
  engineer = await signIn('engineer', url, ownPassword);
  pair = new Pair(engineer, await signIn('administrator', url, ownPassword), passphraseGiven());
  await engineer.call('recognise', {}, { files: [{ name: 'crane.pem', base64: base64(server.certificatePem) }] });
  await engineer.call(
    'setTrustWay',
    { id: crane },
    {
      way: 'push',
      clientId: 'engineering-client',
      endpointUrl: `opc.tcp://${address}:4840`,
      userName: 'security',
      password,
    },
  );
  expect(await pair.carryOut([listing('engineering-client', thumbprintIn(server.certificatePem))])).toMatchObject({
    state: 'proved',
  });
}, 120_000);
afterAll(() => Promise.all([server.stop(), own.remove()]));

const trustedThere = async (): Promise<readonly string[]> => {
  expect(await engineer.call('readTrust', { id: crane }, {})).toMatchObject({ ok: true });
  const { lists } = await engineer.call('trustHolder', { id: crane });
  return lists.filter(({ list }) => list === 'trusted').map(({ thumbprint }) => thumbprint);
};

describe('a server that takes its lists only one certificate after the other', () => {
  const display = thumbprintIn(pemOf('line-display-client'));

  it('is given a certificate, and rid of it, by AddCertificate and RemoveCertificate', async () => {
    await server.behave({ oneByOne: true });
    const before = await trustedThere();
    expect(await pair.carryOut([listing(crane, display)])).toMatchObject({
      state: 'proved',
      lines: [{ state: 'proved' }],
    });
    expect(await trustedThere()).toEqual(expect.arrayContaining([...before, display]));
    expect(await pair.carryOut([unlisting(crane, display)])).toMatchObject({ state: 'proved' });
    expect([...(await trustedThere())].sort()).toEqual([...before].sort());
  }, 120_000);

  it('says so where that way can’t do what is asked for', async () => {
    await server.behave({ oneByOne: true });
    const order = await pair.carryOut([{ ...listing(crane, authority), list: 'issuers' } as TrustChange]);
    expect(order).toMatchObject({ state: 'approved', lines: [{ state: 'failed' }] });
    expect(order.lines[0]?.says).toContain('refused AddCertificate');
  }, 120_000);
});

describe('a server that takes lists, and goes on with those that it read at its start', () => {
  it('is said to need a restart, since when and for what, until it goes by them', async () => {
    const linkId = 'quality--crane';
    const { links, machines, applications } = await engineer.call('plant');
    const { machineId } = applications.find(({ id }) => id === crane) ?? { machineId: '' };
    const machine = machines.find(({ id }) => id === machineId);
    if (!machine) throw new Error(`no machine ${machineId}`);
    await engineer.call('putMachine', { id: machineId }, { ...machine, addresses: [address] });
    const link = links.find(({ id }) => id === linkId);
    if (!link) throw new Error(`no link ${linkId}`);
    const clientId = 'line-display-client';
    await engineer.call('putLink', { id: linkId }, { ...link, clientId, endpointUrl: `opc.tcp://${address}:4840` });
    const client = thumbprintIn(pemOf(clientId));
    const checked = async () => {
      const { id: checkId } = await engineer.call('checkLink', { linkId }, {});
      await until(
        () => engineer.call('check', { checkId }),
        ({ check }) => check.endedAt !== null,
      );
      return (await engineer.call('link', { linkId })).assessment;
    };
    await server.behave({ staysAsItWas: true });
    await pair.carryOut([listing(clientId, thumbprintIn(server.certificatePem))]);
    expect((await checked()).leadingCause).toMatch(/not-trusted|lying-in-rejected/);
    expect(await pair.carryOut([listing(crane, client)])).toMatchObject({ state: 'proved' });
    const told = await checked();
    expect(told).toMatchObject({ partedAt: 'secure-channel', leadingCause: 'needs-restart' });
    const said = told.steps.flatMap(({ findings }) => findings).find(({ causeId }) => causeId === 'needs-restart');
    expect(said?.meaning).toContain('although its lists, as they are read, accept');
    await server.behave({});
    expect((await checked()).leadingCause).not.toBe('needs-restart');
  }, 120_000);
});

describe('a server that answers noise for its trust list', () => {
  it('is said to do so, and what was known of it stays', async () => {
    await server.behave({});
    const before = await trustedThere();
    await server.behave({ noise: true });
    expect(await engineer.call('readTrust', { id: crane }, {})).toMatchObject({
      ok: false,
      says: expect.stringContaining('Bad_DecodingError'),
    });
    const { lists, party } = await engineer.call('trustHolder', { id: crane });
    expect(party.fault).toContain('refused Read');
    expect(lists.filter(({ list }) => list === 'trusted').map(({ thumbprint }) => thumbprint)).toEqual(before);
  }, 120_000);
});

describe('a server with a file among its CRLs that is none', () => {
  it('is said to have it, for as long as it lies there', async () => {
    await server.behave({ strayCrl: true });
    await trustedThere();
    const { unreadable } = await engineer.call('trustHolder', { id: crane });
    expect(unreadable).toEqual([expect.stringContaining('This is not a CRL in DER')]);
    await server.behave({});
    await trustedThere();
    expect((await engineer.call('trustHolder', { id: crane })).unreadable).toEqual([]);
  }, 120_000);
});

describe('a server that hangs up between UpdateCertificate and ApplyChanges', () => {
  it('keeps its certificate; the line fails, is carried out again, and is proved', async () => {
    await server.behave({ hangsUpOnUpdate: true });
    const order = await pair.carryOut([{ kind: 'renew-certificate', applicationId: crane, authority, before: null }]);
    expect(order).toMatchObject({ state: 'approved', lines: [{ state: 'failed' }] });
    expect(order.lines[0]?.says).toMatch(/was lost|UpdateCertificate/);
    await server.behave({});
    await trustedThere();
    const shown = async (): Promise<boolean> =>
      (await engineer.call('certificatePage', { thumbprint: thumbprintIn(server.certificatePem) })).shownBy.some(
        ({ applicationId, now }) => applicationId === crane && now,
      );
    expect(await shown()).toBe(true);
    expect(await pair.carryOut([listing('engineering-client', authority)])).toMatchObject({ state: 'proved' });
    expect(await pair.goOn(order.id)).toMatchObject({ state: 'proved', lines: [{ state: 'proved', restart: true }] });
    expect(await shown()).toBe(false);
    const undone = await engineer.call('undoLine', { id: order.id, position: '1' }, {});
    expect(undone.lines[0]).toMatchObject({ state: 'undone', says: expect.stringContaining('answers with it') });
    expect(await shown()).toBe(true);
  }, 180_000);
});
