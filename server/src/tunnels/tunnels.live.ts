import { spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { TunnelSide } from '@loyal-hinge/core';
import type { AnswerOf } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { inPlant, passphraseGiven } from '../testing/given.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('tunnels');
const folder = mkdtempSync(join(tmpdir(), 'hinge-tunnel-'));
const linkId = 'energy--furnace';
const sides = ['listens', 'dials'] as const;
const processes = new Map<string, ChildProcess>();
let engineer: Caller;
let approver: Caller;
beforeAll(async () => {
  await own.setUp();
  const { url } = await own.serve();
  engineer = await signIn('engineer', url, ownPassword);
  approver = await signIn('administrator', url, ownPassword);
});
afterAll(async () => {
  for (const child of processes.values()) child.kill('SIGKILL');
  await own.remove();
  rmSync(folder, { recursive: true, force: true });
});

const said = new Map<string, string>();
/** Starts an end as somebody at its machine would; what it says is kept. */
function run(name: string, ...args: readonly string[]): ChildProcess {
  const child = spawn(process.execPath, [join(process.cwd(), 'tunnel/bin/tunnel.mjs'), join(folder, name), ...args]);
  said.set(name, '');
  for (const stream of [child.stdout, child.stderr])
    stream.on('data', (part) => said.set(name, `${said.get(name) ?? ''}${String(part)}`));
  processes.set(name, child);
  return child;
}
const ended = (child: ChildProcess): Promise<number | null> =>
  child.exitCode !== null ? Promise.resolve(child.exitCode) : new Promise((done) => child.once('exit', done));
function fileOf(name: string, text: string): string {
  const file = join(folder, name);
  writeFileSync(file, text, { mode: 0o600 });
  return file;
}

const wish = (name: string, port: number) => ({
  name,
  listeningMachineId: 'furnace',
  diallingMachineId: 'energy',
  address: inPlant('20.11'),
  port,
  limits: { streams: 64, streamBytesPerSecond: null, bytesPerSecond: null, idleMs: null },
});
const tunnelOf = async (tunnelId: string) => (await engineer.call('tunnel', { tunnelId })).tunnel;
async function endOf(tunnelId: string, side: TunnelSide) {
  const end = (await tunnelOf(tunnelId)).ends.find((each) => each.side === side);
  if (!end) throw new Error('no such end');
  return end;
}
async function ticketFor(outpostId: string): Promise<string> {
  const made = await engineer.call('makeOutpostTicket', { outpostId }, { address: '127.0.0.1', validHours: 1 });
  return made.ticket;
}
async function sign(outpostId: string) {
  const { authorities } = await engineer.call('authorities');
  const authority = authorities.find(({ isCurrent }) => isCurrent)?.thumbprint ?? '';
  return engineer.call('signOutpost', { outpostId }, { authority, validDays: 30, passphrase: passphraseGiven() });
}
async function checked() {
  const { id } = await engineer.call('checkLink', { linkId }, {});
  await until(
    () => engineer.call('check', { checkId: id }),
    ({ check }) => check.state === 'done',
  );
  return engineer.call('link', { linkId });
}

const causesIn = (assessment: AnswerOf<'link'>['assessment']): readonly string[] =>
  assessment?.steps.flatMap(({ findings }) => findings.map(({ causeId }) => causeId)) ?? [];

describe('a tunnel that is set up from the product', () => {
  let tunnelId: string;

  it('is added, and says what is missing', async () => {
    tunnelId = (await engineer.call('addTunnel', {}, wish('Furnace tunnel', 48_501))).id;
    expect(tunnelId).toBe('furnace-tunnel');
    const tunnel = await tunnelOf(tunnelId);
    expect(tunnel).toMatchObject({ state: 'unset', says: 'The end on Furnace control was never heard.' });
    expect(tunnel.ends.map(({ side, outpost }) => [side, outpost.machine, outpost.state])).toEqual([
      ['listens', 'Furnace control', 'new'],
      ['dials', 'Energy board', 'new'],
    ]);
    expect(await engineer.refused('addTunnel', {}, wish('Another', 48_501))).toMatchObject({ status: 400 });
    expect(
      await engineer.refused('addTunnel', {}, { ...wish('Third', 1), diallingMachineId: 'furnace' }),
    ).toMatchObject({
      status: 400,
    });
  });

  it('takes links whose ends stand on its machines, and no classic ones', async () => {
    const { otherLinks } = await engineer.call('tunnelChoices', { tunnelId });
    const found = otherLinks.find((each) => each.linkId === linkId);
    expect(found).toMatchObject({ entranceAddress: inPlant('60.21'), entrancePort: 4840, openPorts: 1 });
    const lead = { linkId, entranceAddress: inPlant('60.21'), entrancePort: 48_400 };
    expect(
      await engineer.refused('leadThroughTunnel', { tunnelId }, { ...lead, entranceAddress: '10.1.2.3' }),
    ).toMatchObject({ detail: 'Energy board has no address 10.1.2.3.' });
    expect(
      await engineer.refused('leadThroughTunnel', { tunnelId }, { ...lead, linkId: 'trend--silo-data' }),
    ).toMatchObject({ status: 400 });
    expect(
      await engineer.refused('leadThroughTunnel', { tunnelId }, { ...lead, linkId: 'line-display--cutter' }),
    ).toMatchObject({ status: 400 });
    await engineer.call('leadThroughTunnel', { tunnelId }, lead);
    expect((await tunnelOf(tunnelId)).links).toMatchObject([
      { linkId, side: 'dials', targetAddress: inPlant('20.11'), targetPort: 4840 },
    ]);
  });

  it('needs one port at the firewalls, and its work order says what to do at every place', async () => {
    const { links } = await engineer.call('passage');
    const openings = links.find((link) => link.linkId === linkId)?.openings;
    expect(openings).toMatchObject([
      {
        purpose: 'tunnel',
        verdict: 'drop',
        ports: ['48501'],
        between: { from: 'Energy board', to: 'Furnace control' },
      },
    ]);
    const order = await engineer.call('tunnelOrder', { tunnelId });
    expect(order.lines.map(({ change }) => change.kind)).toEqual([
      'add-rules',
      'add-rules',
      'set-up-tunnel-end',
      'set-up-tunnel-end',
      'lead-through-tunnel',
    ]);
    expect(order.lines[0]?.after).toContain('48501');
    expect(order.lines[1]?.after).toContain('48501');
    expect(order.lines[4]?.after).toContain('48400');
  });

  it('does not let a link through before it stands, and says so', async () => {
    const { assessment } = await checked();
    expect(assessment?.state).toBe('Parted');
    expect(causesIn(assessment)).toContain('tunnel-down');
  });

  it('comes up when both ends have asked with their tickets and somebody has signed', async () => {
    for (const side of sides) {
      const { outpost } = await endOf(tunnelId, side);
      run(side, '--ticket', fileOf(`${side}.ticket`, await ticketFor(outpost.id)));
      const asks = await until(
        () => endOf(tunnelId, side),
        (end) => end.outpost.state === 'asks',
      );
      const key = asks.outpost.asksWithKey ?? '';
      await until(
        () => Promise.resolve(said.get(side) ?? ''),
        (text) => text.replaceAll(' ', '').includes(key),
      );
      expect(key).toMatch(/^[0-9A-F]{64}$/);
      await sign(outpost.id);
    }
    const up = await until(
      () => tunnelOf(tunnelId),
      ({ state }) => state === 'up',
    );
    expect(up.ends).toMatchObject([
      { holds: 'it', fault: null, outpost: { state: 'here', ticketUntil: null }, statistics: { state: 'joined' } },
      { holds: 'it', fault: null, outpost: { state: 'here' } },
    ]);
    expect(readFileSync(join(folder, 'dials', 'tunnel.json'), 'utf8')).toContain('48400');
    for (const side of sides) expect(said.get(side)).not.toContain('PRIVATE KEY');
  });

  it('lets its link through, UA security untouched', async () => {
    // On loopback nothing really stops it: that is what the check says of the rules, and nothing else.
    expect(causesIn((await checked()).assessment)).toEqual(['rules-out-of-date']);
    const tunnel = await until(
      () => tunnelOf(tunnelId),
      ({ ends }) => (ends[1]?.statistics?.streams.total ?? 0) > 0,
    );
    expect(tunnel.ends[1]?.statistics?.bytes.received).toBeGreaterThan(1000);
    const { history } = await engineer.call('tunnel', { tunnelId });
    expect(history.every(({ samples }) => samples.length > 0)).toBe(true);
  });

  it('proves its work order by what the ends and the check told', async () => {
    const { orders } = await engineer.call('orders');
    const id = orders.find(({ title }) => title === 'Set up Furnace tunnel')?.id ?? '';
    await approver.call('approveOrder', { id });
    await engineer.call('carryOutOrder', { id }, {});
    const before = await until(
      () => engineer.call('order', { id }),
      ({ lines }) => lines.every(({ state }) => state === 'by hand'),
    );
    for (const { position } of before.lines.slice(2)) {
      const { lines } = await engineer.call('order', { id });
      // Lines of one end or one client are marked together.
      if (lines[position - 1]?.state === 'by hand')
        await engineer.call('lineDoneByHand', { id, position: String(position) });
    }
    await checked();
    const proved = await until(
      () => engineer.call('order', { id }),
      ({ lines }) => lines.slice(2).every(({ state }) => state === 'proved'),
    );
    expect(proved.lines.slice(0, 2).map(({ state }) => state)).toEqual(['by hand', 'by hand']);
  });

  it('is cut when an end is killed, tells which, and comes back by itself', async () => {
    // One stream is open, and nobody says anything on it.
    const open = connect({ host: inPlant('60.21'), port: 48_400 });
    const closed = new Promise<void>((done) => open.once('close', () => done()));
    open.on('error', () => undefined);
    await until(
      () => endOf(tunnelId, 'dials'),
      ({ statistics }) => (statistics?.streams.open ?? 0) > 0,
    );
    const child = processes.get('listens');
    child?.kill('SIGKILL');
    await closed;
    const down = await until(
      () => tunnelOf(tunnelId),
      ({ state }) => state === 'down',
    );
    expect(down.says).toContain('The end on');
    expect(causesIn((await checked()).assessment)).toContain('tunnel-down');
    run('listens');
    await until(
      () => tunnelOf(tunnelId),
      ({ state }) => state === 'up',
    );
    expect(causesIn((await checked()).assessment)).toEqual(['rules-out-of-date']);
  });

  it('is taken down by a work order: its link goes straight, and rules go that nobody else needs', async () => {
    const named = 'process-firewall';
    const { rules } = await engineer.call('firewall', { firewallId: named });
    const texts = rules.map(({ text }) => text);
    const own = `ip saddr ${inPlant('60.21')} ip daddr ${inPlant('20.11')} tcp dport 48501 accept`;
    const bring = (more: readonly string[]) => {
      const chain = `chain forward {\n type filter hook forward priority filter; policy drop;\n ${[...more, ...texts].join('\n ')}\n }`;
      const text = `table inet process {\n set collectors {\n type ipv4_addr\n }\n ${chain}\n}\n`;
      return engineer.call('importRules', { firewallId: named }, { name: 'process.nft', text });
    };
    const open = '*filter\n:FORWARD ACCEPT [0:0]\nCOMMIT\n';
    await engineer.call('importRules', { firewallId: 'office-firewall' }, { name: 'office.rules', text: open });
    await bring([own]);
    const { id, lines } = await engineer.call('takeDownTunnel', { tunnelId });
    expect(lines.map(({ change }) => change.kind)).toEqual([
      'lead-straight',
      'take-down-tunnel-end',
      'take-down-tunnel-end',
      'replace-rules',
    ]);
    expect(lines.at(-1)).toMatchObject({ before: own, change: { firewallId: named, by: [] } });
    await approver.call('approveOrder', { id });
    await engineer.call('carryOutOrder', { id }, {});
    await until(
      () => engineer.call('order', { id }),
      (order) => order.lines.every(({ state }) => state === 'by hand'),
    );
    const marked = await engineer.call('lineDoneByHand', { id, position: '1' });
    expect(marked.lines.map(({ state }) => state === 'by hand')).toEqual([false, true, true, true]);
    expect((await tunnelOf(tunnelId)).links).toEqual([]);
    await until(
      () => engineer.call('order', { id }),
      (order) => order.lines[0]?.state === 'proved',
    );
    // Undone, it goes through the tunnel again, by another order.
    const back = await engineer.call('undoLine', { id, position: '1' });
    expect(back.lines).toMatchObject([{ change: { kind: 'lead-through-tunnel' } }]);
    await approver.call('approveOrder', { id: back.id });
    await engineer.call('carryOutOrder', { id: back.id }, {});
    await until(
      () => engineer.call('order', { id: back.id }),
      (order) => order.lines[0]?.state === 'by hand',
    );
    await engineer.call('lineDoneByHand', { id: back.id, position: '1' });
    expect((await tunnelOf(tunnelId)).links).toMatchObject([{ linkId }]);
    await until(
      () => engineer.call('order', { id: back.id }),
      (order) => order.lines[0]?.state === 'proved',
    );
    await bring([]);
  });

  it('lets an end in no more that was revoked', async () => {
    const { outpost } = await endOf(tunnelId, 'dials');
    const { authorities } = await engineer.call('authorities');
    const authority = authorities.find(({ isCurrent }) => isCurrent);
    const issued = authority?.issued.find(({ thumbprint }) => thumbprint === outpost.thumbprint);
    await approver.call(
      'revokeCertificate',
      { thumbprint: authority?.thumbprint ?? '' },
      { serialNumber: issued?.serialNumber ?? '', reason: 'keyCompromise', passphrase: passphraseGiven() },
    );
    await until(
      () => tunnelOf(tunnelId),
      ({ state }) => state === 'down',
    );
    await until(
      () => Promise.resolve(said.get('listens') ?? ''),
      (text) => text.includes('is no longer let in'),
    );
  });

  it('leads its link straight again, and goes with both ends', async () => {
    await engineer.call('leadStraight', { tunnelId, linkId });
    expect((await checked()).assessment?.state).toBe('Sound');
    await engineer.call('removeTunnel', { tunnelId });
    expect((await engineer.call('tunnels')).tunnels).toEqual([]);
    await until(
      () => Promise.resolve(said.get('listens') ?? ''),
      (text) => text.includes('was removed') && text.includes('Nothing is to be held any more'),
    );
    expect(readFileSync(join(folder, 'listens', 'tunnel.json'), 'utf8')).toBe('');
  });
});

describe('a ticket', () => {
  let tunnelId: string;
  let outpostId: string;
  beforeAll(async () => {
    tunnelId = (await engineer.call('addTunnel', {}, wish('Second tunnel', 48_502))).id;
    outpostId = (await endOf(tunnelId, 'dials')).outpost.id;
  });

  it('is good for one key: whoever comes with it and another one is refused, and the first goes on', async () => {
    const file = fileOf('one.ticket', await ticketFor(outpostId));
    run('one', '--ticket', file);
    await until(
      () => endOf(tunnelId, 'dials'),
      (end) => end.outpost.state === 'asks',
    );
    expect(await ended(run('thief', '--ticket', file))).toBe(2);
    expect(said.get('thief')).toContain('Somebody else has used this ticket already');
    await sign(outpostId);
    await until(
      () => endOf(tunnelId, 'dials'),
      (end) => end.outpost.state === 'here',
    );
    expect(await ended(run('late', '--ticket', file))).toBe(2);
    expect(said.get('late')).toContain('was used, has expired, or never was one');
  });

  it('is refused where somebody says so, and where it is cut off', async () => {
    const { outpost } = await endOf(tunnelId, 'listens');
    const ticket = await ticketFor(outpost.id);
    const child = run('refused', '--ticket', fileOf('refused.ticket', ticket));
    await until(
      () => endOf(tunnelId, 'listens'),
      (end) => end.outpost.state === 'asks',
    );
    await engineer.call('refuseOutpost', { outpostId: outpost.id });
    expect(await ended(child)).toBe(2);
    expect(said.get('refused')).toContain('The request was refused');
    expect(await ended(run('cut', '--ticket', fileOf('cut.ticket', ticket.slice(0, 60))))).toBe(2);
    expect(said.get('cut')).toContain('This is no ticket');
  });

  it('is not needed where files are taken along', async () => {
    const { outpost } = await endOf(tunnelId, 'listens');
    const file = fileOf('by-hand.ticket', await ticketFor(outpost.id));
    expect(await ended(run('by-hand', '--ticket', file, '--by-hand'))).toBe(0);
    const requestPem = readFileSync(join(folder, 'by-hand', 'request.pem'), 'utf8');
    const other = await engineer.refused('bringOutpostRequest', { outpostId }, { requestPem });
    expect(other).toMatchObject({ detail: 'This request was created for another outpost.' });
    await engineer.call('bringOutpostRequest', { outpostId: outpost.id }, { requestPem });
    expect(await engineer.refused('tunnelEndBundle', { outpostId: outpost.id })).toMatchObject({ status: 409 });
    await sign(outpost.id);
    const bundle = await engineer.call('tunnelEndBundle', { outpostId: outpost.id });
    expect(JSON.stringify(bundle)).not.toContain('PRIVATE KEY');
    run('by-hand', '--bundle', fileOf('end.json', JSON.stringify(bundle)));
    await until(
      () => Promise.resolve(said.get('by-hand') ?? ''),
      (text) => text.includes('Joined with'),
    );
    expect(existsSync(join(folder, 'by-hand', 'outpost.json'))).toBe(false);
  });
});
