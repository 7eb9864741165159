import { spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Fact } from '@loyal-hinge/core';
import type { FromServer } from '@loyal-hinge/contract/line';
import { OutpostFolder, Post, beginWith, ticketFor } from '@loyal-hinge/outpost';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { passphraseGiven } from '../testing/given.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('probes');
const folder = mkdtempSync(join(tmpdir(), 'hinge-probe-'));
const linkId = 'energy--furnace';
const running: ChildProcess[] = [];
const posts: Post[] = [];
let engineer: Caller;
beforeAll(async () => {
  await own.setUp();
  engineer = await signIn('engineer', (await own.serve()).url, ownPassword);
});
afterAll(async () => {
  for (const child of running) child.kill('SIGKILL');
  for (const post of posts) post.stop();
  await own.remove();
  rmSync(folder, { recursive: true, force: true });
});

const said = new Map<string, string>();
function run(name: string, ...args: readonly string[]): ChildProcess {
  const child = spawn(process.execPath, [
    join(process.cwd(), 'cli/bin/hinge.mjs'),
    'probe',
    join(folder, name),
    ...args,
  ]);
  said.set(name, '');
  for (const stream of [child.stdout, child.stderr])
    stream.on('data', (part) => said.set(name, `${said.get(name) ?? ''}${String(part)}`));
  running.push(child);
  return child;
}
const ended = (child: ChildProcess): Promise<number | null> =>
  child.exitCode !== null ? Promise.resolve(child.exitCode) : new Promise((done) => child.once('exit', done));
async function probeOf(probeId: string) {
  const { probes } = await engineer.call('probes');
  const found = probes.find(({ outpost }) => outpost.id === probeId);
  if (!found) throw new Error(`no probe ${probeId}`);
  return found;
}
const inState = (probeId: string, state: string) =>
  until(
    () => probeOf(probeId),
    ({ outpost }) => outpost.state === state,
  );
async function ticketOf(outpostId: string): Promise<string> {
  return (await engineer.call('makeOutpostTicket', { outpostId }, { address: '127.0.0.1', validHours: 1 })).ticket;
}
async function sign(outpostId: string): Promise<void> {
  const { authorities } = await engineer.call('authorities');
  const authority = authorities.find(({ isCurrent }) => isCurrent)?.thumbprint ?? '';
  await engineer.call('signOutpost', { outpostId }, { authority, validDays: 30, passphrase: passphraseGiven() });
}
async function checkedAs(id: string, link: string) {
  const { check } = await until(
    () => engineer.call('check', { checkId: id }),
    (seen) => ['done', 'failed'].includes(seen.check.state),
  );
  const { facts } = await engineer.call('check', { checkId: id });
  const { assessment, checks } = await engineer.call('link', { linkId: link });
  const causes = assessment.steps.flatMap(({ findings }) => findings.map(({ causeId }) => causeId));
  return { check, facts, assessment, causes, checks };
}
async function checked(link = linkId) {
  return checkedAs((await engineer.call('checkLink', { linkId: link }, {})).id, link);
}

/** What was seen; what is told of earlier checks differs from one check to the next. */
const kindsIn = (facts: readonly Fact[]): readonly string[] =>
  facts.map(({ kind }) => kind).filter((kind) => !kind.startsWith('earlier'));

describe('a probe', () => {
  let probeId: string;
  let alone: Awaited<ReturnType<typeof checked>>;
  let classicAlone: Awaited<ReturnType<typeof checked>>;
  let fieldAlone: Awaited<ReturnType<typeof checked>>;

  it('is added for the machines from which it is to look, each of which has one', async () => {
    [alone, classicAlone, fieldAlone] = await Promise.all([
      checked(),
      checked('trend--lehr-data'),
      checked('history--field-data'),
    ]);
    const machineIds = ['energy', 'trend-station', 'history'];
    const wish = { name: 'Office probe', machineId: 'energy', machineIds };
    probeId = (await engineer.call('addProbe', {}, wish)).id;
    expect(await probeOf(probeId)).toMatchObject({ outpost: { state: 'new' }, ranges: null });
    expect(await engineer.refused('addProbe', {}, { ...wish, name: 'Another' })).toMatchObject({
      detail: '“Office probe” stands for Energy board already.',
    });
    expect(await engineer.refused('addProbe', {}, { ...wish, machineIds: ['nowhere'] })).toMatchObject({ status: 400 });
  });

  it('says what it wants when it is started without', async () => {
    const ticket = join(folder, 'ticket');
    writeFileSync(ticket, await ticketOf(probeId), { mode: 0o600 });
    expect(await ended(run('empty'))).toBe(2);
    expect(said.get('empty')).toContain('Say what it may dial');
    expect(await ended(run('odd', '--may-dial', '10.0.0.0'))).toBe(2);
    expect(said.get('odd')).toContain('is no range');
    expect(await ended(run('odd', '--may-dial', '10.0.0.0/8', '--ticket', join(folder, 'nothing')))).toBe(2);
    expect(said.get('odd')).toContain('can’t be read');
  });

  it('comes in with its ticket, and tells what it may dial', async () => {
    run('office', '--ticket', join(folder, 'ticket'), '--may-dial', '127.0.0.0/8');
    await inState(probeId, 'asks');
    await sign(probeId);
    await inState(probeId, 'here');
    await until(
      () => probeOf(probeId),
      ({ ranges }) => ranges?.[0] === '127.0.0.0/8',
    );
  });

  it('sees over UA what the server itself saw, and is named by what it saw', async () => {
    const { check, facts, assessment, causes } = await checked();
    expect([check.state, assessment.state, causes]).toEqual(['done', alone.assessment.state, alone.causes]);
    expect(kindsIn(facts)).toEqual(kindsIn(alone.facts));
    expect(new Set(facts.map(({ seenBy }) => seenBy))).toEqual(new Set(['Office probe']));
    expect(assessment.steps[2]?.evidence[0]?.seenBy).toBe('Office probe');
    expect(alone.facts.every(({ seenBy }) => seenBy === undefined)).toBe(true);
  });

  it('sees over classic OPC what the server itself saw', async () => {
    const { check, facts, assessment } = await checked('trend--lehr-data');
    expect([check.state, assessment.state]).toEqual(['done', classicAlone.assessment.state]);
    expect(new Set(kindsIn(facts))).toEqual(new Set(kindsIn(classicAlone.facts)));
  });

  it('goes behind the server as the server itself does', async () => {
    const { check, facts, assessment } = await checked('history--field-data');
    expect([check.state, assessment.state]).toEqual(['done', fieldAlone.assessment.state]);
    const compared = facts.filter(({ kind }) => kind === 'field-compared');
    expect(compared.map(({ seenBy }) => seenBy)).toEqual(['Office probe', 'Office probe']);
    expect(new Set(kindsIn(facts))).toEqual(new Set(kindsIn(fieldAlone.facts)));
  });

  it('reads a device by hand and in a search, and is the nearest where it runs at the server', async () => {
    const deviceId = 'batch-weigher';
    const { probes, nearest } = await engineer.call('deviceReaders', { deviceId });
    expect(probes).toEqual([{ id: probeId, name: 'Office probe', machine: 'Energy board', isConnected: true }]);
    // What the field server reads is asked by its clients from there, and the probe stands at none of its machines.
    expect(nearest).toBeNull();
    const reading = { port: 5020, unit: 1, table: 'holding' as const, first: 96, count: 12 };
    const [here, there] = await Promise.all([
      engineer.call('readDevice', { deviceId }, reading),
      engineer.call('readDevice', { deviceId }, { ...reading, reader: probeId }),
    ]);
    expect(there.places.map((place) => place === null)).toEqual(here.places.map((place) => place === null));
    expect(there.places.filter((place) => place !== null).length).toBeGreaterThan(4);
    const units = { port: 5020, from: 1, to: 2, reader: probeId };
    expect(await engineer.call('askUnits', { deviceId }, units)).toMatchObject({ answering: [1], asked: 2 });
    expect(
      await engineer.refused('readDevice', { deviceId }, { ...reading, port: 5021, reader: probeId }),
    ).toMatchObject({
      status: 409,
      detail: expect.stringContaining('from the probe Office probe: refused.') as string,
    });
    await checked('energy--field-data');
    const search = { path: 'Lehr drive/Speed', deviceId: 'lehr-drive', ...reading, first: 10, count: 2, samples: 5 };
    const begun = await engineer.call(
      'searchRegister',
      { linkId: 'energy--field-data' },
      { ...search, everyMs: 250, reader: probeId },
    );
    const done = await until(
      () => engineer.call('registerSearch', { searchId: begun.id }),
      ({ state }) => state !== 'running',
    );
    expect([done.state, done.taken, done.says]).toEqual(['done', 5, expect.any(String)]);
    expect(done.values.length).toBeGreaterThan(1);
  });

  it('has no key or password in what it says', () => {
    expect(said.get('office')).not.toMatch(/PRIVATE|password/i);
  });

  it('lets a check wait while it is away, and goes on with it when it comes back', async () => {
    const { id } = await engineer.call('checkLink', { linkId }, {});
    await checkedAs(id, linkId);
    running.find((child) => child.exitCode === null && child.signalCode === null)?.kill('SIGKILL');
    await inState(probeId, 'away');
    const waiting = await engineer.call('checkLink', { linkId }, {});
    await new Promise((done) => setTimeout(done, 1500));
    expect((await engineer.call('check', { checkId: waiting.id })).check.state).toBe('queued');
    run('office');
    expect((await checkedAs(waiting.id, linkId)).check.state).toBe('done');
  });

  it('dials nothing that its own ranges leave out, whatever the server declares', async () => {
    const reading = { port: 5020, unit: 1, table: 'holding' as const, first: 0, count: 1 };
    running.find((child) => child.exitCode === null && child.signalCode === null)?.kill('SIGTERM');
    await inState(probeId, 'away');
    run('office', '--may-dial', '10.0.0.0/8');
    await inState(probeId, 'here');
    const { facts, assessment } = await checked();
    expect(facts.filter(({ kind }) => kind === 'tcp-connect')).toEqual([]);
    expect(facts).toContainEqual(expect.objectContaining({ kind: 'not-tried', reason: 'outside the declared ranges' }));
    expect(assessment.state).not.toBe('Sound');
    expect(
      await engineer.refused('readDevice', { deviceId: 'batch-weigher' }, { ...reading, reader: probeId }),
    ).toMatchObject({ status: 409, detail: expect.stringContaining('Office probe may not dial') as string });
  });

  it('is not needed any more when it is removed: the server looks itself', async () => {
    await engineer.call('removeProbe', { probeId });
    const { facts, assessment } = await checked();
    expect(assessment.state).toBe(alone.assessment.state);
    expect(facts.every(({ seenBy }) => seenBy === undefined)).toBe(true);
    await until(
      () => Promise.resolve(said.get('office') ?? ''),
      (text) => text.includes('was removed'),
    );
  });
});

describe('a probe that does not do what it should', () => {
  const heard: FromServer[] = [];
  let probeId: string;
  let post: Post;
  let hear: (message: FromServer) => void = () => undefined;
  beforeAll(async () => {
    const wish = { name: 'Odd probe', machineId: 'energy', machineIds: ['energy', 'history'] };
    probeId = (await engineer.call('addProbe', {}, wish)).id;
    const place = new OutpostFolder(join(folder, 'odd-one'));
    const ticket = ticketFor('probe', await ticketOf(probeId));
    const begun = beginWith(place, ticket, () => undefined, new AbortController().signal);
    await inState(probeId, 'asks');
    await sign(probeId);
    await begun;
    const at = await place.place();
    if (!at) throw new Error('no place');
    post = new Post(place, at, {
      welcomed: () => undefined,
      heard: (message) => {
        heard.push(message);
        hear(message);
      },
      tell: () => undefined,
    });
    posts.push(post);
    post.start();
    await inState(probeId, 'here');
  });

  it('can’t tell facts of links that are not its own', async () => {
    const other = await engineer.call('checkLink', { linkId: 'line-display--lehr' }, {});
    for (let turn = 0; turn < 20; turn += 1)
      post.say({ kind: 'fact', checkId: other.id, source: 'tried', body: { kind: 'channel', outcome: 'open' } });
    const { check, facts } = await checkedAs(other.id, 'line-display--lehr');
    expect(check.state).toBe('done');
    expect(facts.every(({ seenBy }) => seenBy === undefined)).toBe(true);
  });

  it('has a device for as long as its walk lasts, and none from which the server has nothing', async () => {
    const deviceId = 'batch-weigher';
    const reading = { port: 5020, unit: 1, table: 'holding' as const, first: 100, count: 2 };
    const answers = new Map<number, { readonly value: unknown; readonly says: string | null }>();
    let checkId = '';
    const ask = async (askId: number, about: string) => {
      post.say({ kind: 'ask', checkId, askId, what: 'at-device', about });
      return until(
        () => Promise.resolve(answers.get(askId)),
        (answer) => answer !== undefined,
      );
    };
    hear = (message) => {
      if (message.kind === 'walk') checkId = message.checkId;
      if (message.kind === 'answer') answers.set(message.askId, message);
    };
    const asked = await engineer.call('checkLink', { linkId: 'history--field-data' }, {});
    await until(
      () => Promise.resolve(checkId),
      (id) => id === asked.id,
    );
    expect(await ask(1, 'furnace')).toMatchObject({ says: 'No item of this server comes from there.' });
    expect(await ask(2, deviceId)).toMatchObject({ says: null });
    expect(await engineer.refused('readDevice', { deviceId }, reading)).toMatchObject({
      detail: expect.stringContaining('in use by the check of') as string,
    });
    // It never says that it has left.
    post.say({ kind: 'walked', checkId, says: null });
    await checkedAs(asked.id, 'history--field-data');
    expect((await engineer.call('readDevice', { deviceId }, reading)).places).toHaveLength(2);
  });

  it('of an older version reads no devices, and one that tells nothing is not waited for without end', async () => {
    const deviceId = 'batch-weigher';
    const reading = { port: 5020, unit: 1, table: 'holding' as const, first: 100, count: 2, reader: probeId };
    expect((await engineer.call('deviceReaders', { deviceId })).nearest).toBeNull();
    expect(await engineer.refused('readDevice', { deviceId }, reading)).toMatchObject({
      detail: 'The probe Odd probe is of an older version, which reads no devices.',
    });
    hear = () => undefined;
    post.say({ kind: 'probe', ranges: ['127.0.0.0/8'], readsDevices: true });
    await until(
      () => engineer.call('deviceReaders', { deviceId }),
      ({ probes }) => probes[0]?.isConnected === true,
    );
    expect(await engineer.refused('readDevice', { deviceId }, reading)).toMatchObject({
      status: 409,
      detail: 'The probe Odd probe said nothing more in the midst of it.',
    });
  });

  it('fails the check where it tells what is no fact, and no page breaks', async () => {
    hear = (message) => {
      if (message.kind !== 'walk') return;
      const body = { kind: 'name-resolution', purpose: 'link', host: 7, addresses: 'everywhere' };
      post.say({ kind: 'fact', checkId: message.checkId, source: 'tried', body });
    };
    const { check, assessment } = await checked();
    expect(check.state).toBe('failed');
    expect(check.reason).toContain('The probe told what can’t be');
    expect(assessment.steps.length).toBeGreaterThan(10);
    const links = await engineer.query('links', {});
    expect(links.rows.length).toBeGreaterThan(0);
    // It is asked for again, and not for ever.
    await until(
      () => engineer.call('link', { linkId }),
      ({ checks }) =>
        checks.filter(({ state }) => state === 'failed').length >= 3 &&
        checks.every(({ state }) => state !== 'queued' && state !== 'running'),
    );
  });

  it('gives its check back where it vanishes in the middle of it', async () => {
    hear = (message) => {
      if (message.kind === 'walk') post.stop();
    };
    const { check } = await checked();
    expect(check).toMatchObject({ state: 'failed' });
    expect(check.reason).toContain('vanished in the middle of the check. It is checked again.');
    await engineer.call('removeProbe', { probeId });
    await until(
      () => engineer.call('link', { linkId }),
      ({ checks }) => checks[0]?.state === 'done',
    );
    // Its key and the means of the walk went over the line, and nowhere else.
    expect(heard.some(({ kind }) => kind === 'walk')).toBe(true);
  });
});

describe('a probe that is connected to a process which carries no checks out', () => {
  const web = ownServer('probes_split', { HINGE_ROLE: 'web' });
  const worker = ownServer('probes_split', { HINGE_ROLE: 'worker', HINGE_DATA: web.folder });
  afterAll(() => web.remove());

  it('has its checks all the same, and the worker has the others', async () => {
    await web.setUp();
    const { url } = await web.serve();
    const { child } = await worker.serve();
    running.push(child);
    engineer = await signIn('engineer', url, ownPassword);
    const wish = { name: 'Split probe', machineId: 'energy', machineIds: ['energy'] };
    const { id } = await engineer.call('addProbe', {}, wish);
    writeFileSync(join(folder, 'split-ticket'), await ticketOf(id), { mode: 0o600 });
    run('split', '--ticket', join(folder, 'split-ticket'), '--may-dial', '127.0.0.0/8');
    await inState(id, 'asks');
    await sign(id);
    await inState(id, 'here');
    const [byProbe, byWorker] = await Promise.all([checked(), checked('line-display--lehr')]);
    expect([byProbe, byWorker].map(({ check }) => [check.state, check.reason])).toEqual([
      ['done', null],
      ['done', null],
    ]);
    expect(byProbe.facts.every(({ seenBy }) => seenBy === 'Split probe')).toBe(true);
    expect(byWorker.facts.every(({ seenBy }) => seenBy === undefined)).toBe(true);
  });
});
