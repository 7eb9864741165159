import { spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Link, LinkIdentity, NeededItem, Remedy } from '@loyal-hinge/core';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { inPlant, passphraseGiven, plantGiven } from '../testing/given.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('gateways');
const folder = mkdtempSync(join(tmpdir(), 'hinge-gateways-'));
const gatewayId = 'dmz-gateway';
const facePort = 48_610;
let engineer: Caller;
let child: ChildProcess | null = null;
let said = '';
beforeAll(async () => {
  await own.setUp();
  const { url } = await own.serve();
  engineer = await signIn('engineer', url, ownPassword);
});
afterAll(async () => {
  child?.kill('SIGKILL');
  await own.remove();
  rmSync(folder, { recursive: true, force: true });
});

/** Starts the gateway as somebody at its machine would; what it says is kept. */
function run(...args: readonly string[]): void {
  child = spawn(process.execPath, [join(process.cwd(), 'gateway/bin/gateway.mjs'), join(folder, 'gateway'), ...args]);
  for (const stream of [child.stdout, child.stderr]) stream?.on('data', (part) => (said += String(part)));
}
const gateway = () => engineer.call('gateway', { gatewayId });
const items = (find: string) => engineer.query('gatewayItems', { find }, { gatewayId });

const linkTo = (
  id: string,
  ends: Pick<Link, 'clientId' | 'serverId' | 'endpointUrl'>,
  identity: LinkIdentity,
  needs: readonly NeededItem[],
) => ({
  id,
  kind: 'ua' as const,
  name: id,
  ...ends,
  pinnedAddress: null,
  chosenEndpoint: null,
  needs: needs.map((need) => ({ ...need, uses: [...need.uses] })),
  identity,
  floor: 'signed' as const,
  staleAfterMs: 60_000,
});
const passwordAt = (serverId: string, userName: string): string => {
  const like = plantGiven().plant.links.find(
    ({ serverId: server, identity }) =>
      server === serverId && identity.kind === 'user' && identity.userName === userName,
  );
  return plantGiven().passwords.find(({ linkId }) => linkId === like?.id)?.password ?? '';
};

/** Checks a link, and lets the product mend what it can, until nothing of that is left. */
async function mended(linkId: string) {
  for (let round = 0; round < 6; round += 1) {
    const { id } = await engineer.call('checkLink', { linkId }, {});
    await until(
      () => engineer.call('check', { checkId: id }),
      ({ check }) => check.endedAt !== null,
    );
    const { assessment } = await engineer.call('link', { linkId });
    const remedies: readonly Remedy[] =
      assessment?.steps.flatMap(({ findings }) => findings.flatMap((finding) => finding.remedies)) ?? [];
    const change = remedies
      .map((remedy) => remedy.change)
      .find(({ kind }) => ['trust-server-certificate', 'accept-client-certificate', 'change-lists'].includes(kind));
    if (assessment?.partedAt === null || !change) return assessment;
    await engineer.call('mend', { linkId }, { change });
    if (child) await until(gateway, ({ gateway: { state } }) => state === 'runs');
  }
  return null;
}

describe('a gateway that is set up from the product', () => {
  it('is a client and a server of the plant, and says what is missing', async () => {
    const wish = {
      name: 'DMZ gateway',
      machineId: 'history',
      address: inPlant('50.21'),
      port: facePort,
      mapperPort: null,
    };
    expect((await engineer.call('addGateway', {}, wish)).id).toBe(gatewayId);
    expect((await gateway()).gateway).toMatchObject({
      state: 'unset',
      says: 'DMZ gateway, reading has no certificate yet. Give it one under Settings, Client certificates.',
    });
    const plant = await engineer.call('plant');
    const ends = plant.applications.filter(({ applicationUri }) => applicationUri === `urn:loyal-hinge:${gatewayId}`);
    expect(ends.map(({ id, kind }) => [id, kind])).toEqual([
      [`${gatewayId}-shows`, 'server'],
      [`${gatewayId}-reads`, 'client'],
    ]);
    expect(await engineer.refused('addGateway', {}, wish)).toMatchObject({ status: 400 });
    expect(await engineer.refused('addGateway', {}, { ...wish, name: 'Other' })).toMatchObject({
      detail: '“DMZ gateway” listens there already.',
    });
    expect(await engineer.refused('addGateway', {}, { ...wish, name: 'Other', address: '10.1.2.3' })).toMatchObject({
      detail: 'History node has no address 10.1.2.3.',
    });
  });

  it('reads by links of the plant, once a check has seen their endpoints', async () => {
    const { authorities } = await engineer.call('authorities');
    const authority = authorities.find(({ isCurrent }) => isCurrent)?.thumbprint ?? '';
    await engineer.call(
      'putIdentity',
      { id: `${gatewayId}-reads` },
      {
        by: 'making',
        commonName: 'DMZ gateway',
        organization: '',
        hosts: [inPlant('50.21')],
        keyKind: 'RSA 2048',
        validDays: 400,
        authority: { thumbprint: authority, passphrase: passphraseGiven() },
      },
    );
    for (const [to, userName, needs] of [
      ['furnace', 'collector', [{ path: 'Furnace/*', uses: ['read', 'watch'] }]],
      ['lehr', 'technician', [{ path: 'Lehr/Roller speed wanted', uses: ['read', 'write'] }]],
    ] as const) {
      const id = `gateway-${to}`;
      const ends = {
        clientId: `${gatewayId}-reads`,
        serverId: `${to}-server`,
        endpointUrl: `opc.tcp://${to}.marrowby.example:4840`,
      };
      await engineer.call('putLink', { id }, linkTo(id, ends, { kind: 'user', userName }, needs));
      const change = { kind: 'set-password' as const, linkId: id, userName };
      await engineer.call('mend', { linkId: id }, { change, password: passwordAt(`${to}-server`, userName) });
      expect(await mended(id)).toMatchObject({ partedAt: null });
    }
    expect((await gateway()).sources.map(({ linkId, state, says }) => [linkId, state, says])).toEqual([
      ['gateway-furnace', 'not-told', null],
      ['gateway-lehr', 'not-told', null],
    ]);
  });

  it('runs on its machine with a ticket, and tells what it reads', async () => {
    const made = await engineer.call(
      'makeOutpostTicket',
      { outpostId: gatewayId },
      { address: '127.0.0.1', validHours: 1 },
    );
    writeFileSync(join(folder, 'ticket.txt'), made.ticket, { mode: 0o600 });
    run('--ticket', join(folder, 'ticket.txt'));
    await until(gateway, ({ gateway: { outpost } }) => outpost.state === 'asks');
    const { authorities } = await engineer.call('authorities');
    const authority = authorities.find(({ isCurrent }) => isCurrent)?.thumbprint ?? '';
    await engineer.call(
      'signOutpost',
      { outpostId: gatewayId },
      { authority, validDays: 30, passphrase: passphraseGiven() },
    );
    const view = await until(gateway, ({ gateway: { sourcesThere, items: count } }) => sourcesThere === 2 && count > 1);
    expect(view.gateway).toMatchObject({ state: 'runs', says: null });
    expect(view.sources[0]?.endpoint).toContain('as “collector”');
    /* What it holds is written down a moment after it runs by it, with the servers whose keys it has, none of which it may have read yet. */
    await until(
      () => own.read<{ details: unknown }>("select details from audit where action = 'gateway holds what it was told'"),
      (trail) => JSON.stringify(trail).includes('gateway-furnace'),
    );
    // Its password is in its own folder alone, and in nothing that it says.
    expect(said).not.toContain(passwordAt('furnace-server', 'collector'));
    expect(JSON.stringify(view)).not.toContain('PRIVATE KEY');
  });

  it('shows items with what the source says beside what it shows', async () => {
    const { items: found } = await until(
      () => items('gas flow'),
      ({ items: [item] }) => item?.shown.status === 0,
    );
    expect(found).toHaveLength(1);
    expect(found[0]).toMatchObject({
      linkId: 'gateway-furnace',
      path: 'Furnace/Gas flow',
      place: 'Furnace server/Furnace/Gas flow',
      isWritable: false,
    });
    expect(found[0]?.atSource?.value).toBe(found[0]?.shown.value);
  });

  it('lets a client in as its link says, and the link becomes sound', async () => {
    const id = 'collector-gateway';
    const ends = {
      clientId: 'history-client',
      serverId: `${gatewayId}-shows`,
      endpointUrl: `opc.tcp://${inPlant('50.21')}:${facePort}`,
    };
    const path = 'Furnace server/Furnace/Gas flow';
    await engineer.call(
      'putLink',
      { id },
      linkTo(id, ends, { kind: 'user', userName: 'collecting' }, [{ path, uses: ['read', 'watch'] }]),
    );
    expect((await gateway()).readers).toMatchObject([{ signsInAs: 'collecting', mayWrite: false }]);
    expect((await gateway()).readers[0]?.says).toContain('No password is kept');
    const change = { kind: 'set-password' as const, linkId: id, userName: 'collecting' };
    await engineer.call('mend', { linkId: id }, { change, password: 'made for collecting' });
    await until(gateway, ({ gateway: { state } }) => state === 'runs');
    expect(await mended(id)).toMatchObject({ partedAt: null, leadingCause: null });
  });

  it('goes over to relays and other places while its reader stays connected', async () => {
    const scale = { kind: 'ranges' as const, from: [0, 100] as [number, number], to: [0.1, 0.4] as [number, number] };
    const relay = {
      to: { linkId: 'gateway-lehr', path: 'Lehr/Roller speed wanted' },
      from: { linkId: 'gateway-furnace', path: 'Furnace/Gas flow' },
      scale: { ...scale, clamps: true },
      deadBand: null,
      as: null,
      onBad: { kind: 'hold' as const },
    };
    const begun = said.length;
    const { id: relayId } = await engineer.call('addRelay', { gatewayId }, relay);
    await until(gateway, ({ relays }) => (relays.find(({ id }) => id === relayId)?.written ?? 0) > 0);
    const back = { ...relay, to: relay.from, from: relay.to };
    expect(await engineer.refused('addRelay', { gatewayId }, back)).toMatchObject({
      status: 400,
      detail: expect.stringContaining('circle'),
    });
    expect(
      await engineer.refused('addRelay', { gatewayId }, { ...relay, from: { linkId: 'energy--furnace', path: 'x' } }),
    ).toMatchObject({ detail: 'This gateway has no link “energy--furnace” to a server.' });

    const places = [
      { linkId: 'gateway-furnace', items: 'Furnace/Gas flow', domain: 'Melting', withoutFirst: 1, isWritable: false },
    ];
    await engineer.call('putGatewayPlaces', { gatewayId }, { places });
    await until(
      () => items('melting'),
      ({ total }) => total === 1,
    );
    // The face was not started anew for that.
    expect(said.slice(begun)).toContain('holds what it was given');
    expect(said.slice(begun)).not.toContain('lehr is gone');
  });

  it('gives relays as CSV and takes them again, all or none', async () => {
    const { csv } = await engineer.call('relaysCsv', { gatewayId });
    expect(csv).toContain('gateway-lehr,Lehr/Roller speed wanted,gateway-furnace,Furnace/Gas flow');
    expect(await engineer.call('importRelays', { gatewayId }, { csv })).toEqual({ relays: 1 });
    const [head = '', first = ''] = csv.split('\r\n');
    const refused = await engineer.refused('importRelays', { gatewayId }, { csv: `${head}\n${first}\n,,,,\n` });
    expect(refused).toMatchObject({ status: 400, detail: expect.stringContaining('Nothing was imported') });
    const unknown = first.replace('gateway-furnace', 'nowhere');
    expect(await engineer.refused('importRelays', { gatewayId }, { csv: `${head}\n${unknown}\n` })).toMatchObject({
      detail: 'This gateway has no link “nowhere” to a server.',
    });
    expect((await gateway()).relays).toHaveLength(1);
  });

  it('reads classic servers, and shows all that it has to classic clients, where it has a mapper', async () => {
    const wish = { name: 'DMZ gateway', machineId: 'history', address: inPlant('50.21'), port: facePort };
    expect(await engineer.refused('putGateway', { gatewayId }, { ...wish, mapperPort: facePort })).toMatchObject({
      status: 400,
    });
    await engineer.call('putGateway', { gatewayId }, { ...wish, mapperPort: 48_611 });
    const known = plantGiven().plant.links.find(({ id }) => id === 'trend--lehr-data');
    if (!known) throw new Error('no classic link');
    const classic = (id: string, ends: Pick<Link, 'clientId' | 'serverId' | 'endpointUrl'>, path: string) => ({
      ...known,
      ...ends,
      id,
      name: id,
      needs: [{ path, uses: ['read' as const, 'watch' as const] }],
    });
    const from = classic(
      'gateway-lehr-data',
      { ...known, clientId: `${gatewayId}-reads-classic` },
      'Lehr.Zone1.Temperature',
    );
    await engineer.call('putLink', { id: from.id }, from);
    const signIn = (linkId: string) => ({ kind: 'set-password' as const, linkId, userName: 'trend' });
    const password = plantGiven().passwords.find(({ linkId }) => linkId === known.id)?.password ?? '';
    await engineer.call('mend', { linkId: from.id }, { change: signIn(from.id), password });
    await until(
      () => items('Lehr/Zone1'),
      ({ items: [item] }) => item?.shown.status === 0,
    );
    const { gateway: shown } = await gateway();
    const to = classic(
      'trend-gateway',
      {
        clientId: `${gatewayId}-reads-classic`,
        serverId: `${gatewayId}-shows-classic`,
        endpointUrl: `classic://${inPlant('50.21')}:48611/${shown.classic?.program ?? ''}`,
      },
      'Lehr data server.Lehr.Zone1.Temperature',
    );
    await engineer.call('putLink', { id: to.id }, to);
    await engineer.call('mend', { linkId: to.id }, { change: signIn(to.id), password: 'made for the trends' });
    await until(gateway, ({ gateway: { state } }) => state === 'runs');
    expect(await mended(to.id)).toMatchObject({ partedAt: null });
    expect(await engineer.refused('putGateway', { gatewayId }, { ...wish, mapperPort: null })).toMatchObject({
      detail: expect.stringContaining('is a link of classic OPC'),
    });
    for (const { id } of [from, to]) await engineer.call('removeLink', { id });
    await engineer.call('putGateway', { gatewayId }, { ...wish, mapperPort: null });
    const { applications } = await engineer.call('plant');
    expect(applications.some(({ id }) => id.startsWith(gatewayId) && id.endsWith('-classic'))).toBe(false);
  });

  it('is removed once nothing begins or ends at it, and its process lets go', async () => {
    expect(await engineer.refused('removeGateway', { gatewayId })).toMatchObject({ status: 409 });
    for (const id of ['gateway-furnace', 'gateway-lehr', 'collector-gateway'])
      await engineer.call('removeLink', { id });
    await engineer.call('removeGateway', { gatewayId });
    await until(
      () => Promise.resolve(said),
      (text) => text.includes('Nothing is to be held any more.'),
    );
    expect(readFileSync(join(folder, 'gateway', 'gateway.json'), 'utf8')).toBe('');
    const plant = await engineer.call('plant');
    expect(plant.applications.some(({ id }) => id.startsWith(gatewayId))).toBe(false);
  });
});
