import { createSocket } from 'node:dgram';
import { readdirSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { join } from 'node:path';
import { Dialogue, pcap } from '../../../core/src/testing/captures.js';
import {
  acknowledge,
  chunk,
  createSession,
  fault,
  hello,
  opening,
  openRequest,
  response,
  signInByPassword,
} from '../../../core/src/testing/ua-messages.js';
import type { CasebookView } from '@loyal-hinge/contract';
import type { Link, Machine, Plant } from '@loyal-hinge/core';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { inPlant } from '../testing/given.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { plug } from '../testing/plug.js';
import { until } from '../testing/until.js';

const own = ownServer('casebook', { HINGE_SYSLOG_SECONDS: '1' });
let engineer: Caller;
let viewer: Caller;
let plant: Plant;
let url: string;
beforeAll(async () => {
  await own.setUp();
  ({ url } = await own.serve());
  [engineer, viewer] = [await signIn('engineer', url, ownPassword), await signIn('viewer', url, ownPassword)];
  plant = await engineer.call('plant');
});
afterAll(() => own.remove());

const night = Date.parse('2026-11-20T02:10:00Z');
const view = (): Promise<CasebookView> => viewer.call('casebook');

/** Sends a file in parts of so many bytes. @returns its id */
async function bring(name: string, bytes: Uint8Array, partBytes = bytes.length, by = engineer): Promise<string> {
  const { evidenceId, received } = await by.call('beginEvidence', {}, { name, bytes: bytes.length });
  for (let from = received; from < bytes.length; from += partBytes) {
    const content = Buffer.from(bytes.subarray(from, from + partBytes)).toString('base64');
    await by.call('sendEvidence', { evidenceId }, { from, content });
  }
  return evidenceId;
}
const isRead =
  (evidenceId: string) =>
  ({ evidence }: CasebookView): boolean =>
    evidence.some(({ id, state }) => id === evidenceId && (state === 'read' || state === 'refused'));
const readOf = async (evidenceId: string): Promise<CasebookView> => until(view, isRead(evidenceId));
const rowOf = ({ evidence }: CasebookView, evidenceId: string) => evidence.find(({ id }) => id === evidenceId);

/** A UA link with a user, and its machines. */
function linkWithUser(): { link: Link; client: Machine; server: Machine; port: number } {
  for (const link of plant.links) {
    if (link.kind !== 'ua' || link.identity.kind !== 'user') continue;
    const machineOf = (applicationId: string): Machine | undefined => {
      const application = plant.applications.find(({ id }) => id === applicationId);
      return plant.machines.find(({ id }) => id === application?.machineId);
    };
    const [client, server] = [machineOf(link.clientId), machineOf(link.serverId)];
    const port = Number(/:(\d+)\/?$/.exec(link.endpointUrl)?.[1]);
    if (client?.addresses[0] && server?.addresses[0] && client.id !== server.id && port)
      return { link, client, server, port };
  }
  throw new Error('The plant has no link with a user.');
}

function refusedCapture(at = night, sourcePort = 50_100): { link: Link; frames: Dialogue['frames'] } {
  const { link, client, server, port } = linkWithUser();
  const user = link.identity.kind === 'user' ? link.identity.userName : '';
  const talk = new Dialogue(
    at * 1000,
    { address: client.addresses[0] ?? '', port: sourcePort },
    { address: server.addresses[0] ?? '', port },
  );
  talk
    .opened()
    .says(0, hello(link.endpointUrl))
    .says(1, acknowledge())
    .says(0, opening(1, 1, openRequest()))
    .says(1, opening(1, 1, response('OpenSecureChannel')))
    .says(0, chunk(2, 2, createSession('urn:marrowby', link.endpointUrl)))
    .says(1, chunk(2, 2, response('CreateSession')))
    .says(0, chunk(3, 3, signInByPassword(user, 'never-told-1', null)))
    .says(1, chunk(3, 3, fault(0x801f0000)))
    .closed();
  return { link, frames: talk.frames };
}

describe('the casebook', () => {
  it('is empty before anything was brought; who only looks can’t bring anything', async () => {
    expect(await view()).toEqual({ cases: [], happened: [], evidence: [], clocks: [], attempts: 0, since: null });
    expect(await viewer.refused('beginEvidence', {}, { name: 'a', bytes: 1 })).toMatchObject({ status: 403 });
    expect(await viewer.refused('case', { caseId: 'none' })).toMatchObject({ status: 404 });
  });

  it('makes a case of a capture, judged as a check of its link would be', async () => {
    const { link, frames } = refusedCapture();
    const id = await bring('night.pcap', pcap(frames), 500);
    const told = await readOf(id);
    expect(rowOf(told, id)).toMatchObject({
      state: 'read',
      form: 'capture',
      items: frames.length,
      attempts: 1,
      notUnderstood: 0,
      fault: null,
      firstAt: '2026-11-20T02:10:00.000Z',
      broughtBy: 'engineer',
    });
    const [one] = told.cases;
    expect(one).toMatchObject({
      kind: 'link',
      linkId: link.id,
      step: 'identity',
      causeId: 'user-refused',
      count: 1,
      remarks: ['A password went over the connection in clear text.'],
    });
    const whole = await viewer.call('case', { caseId: one?.id ?? '' });
    expect(whole.findings[0]).toMatchObject({ causeId: 'user-refused' });
    expect(whole.assessment?.partedAt).toBe('identity');
    expect(whole.recent).toEqual([
      expect.objectContaining({
        at: '2026-11-20T02:10:00.000Z',
        evidence: [expect.objectContaining({ file: 'night.pcap', position: 24 })],
      }),
    ]);
    expect(JSON.stringify([told, whole])).not.toContain('never-told-1');
  });

  it('counts what comes later to the same case, under the same address', async () => {
    const before = (await view()).cases[0];
    const id = await bring('later.pcap', pcap(refusedCapture(night + 3_600_000, 50_200).frames));
    const after = (await readOf(id)).cases[0];
    expect(after).toMatchObject({ id: before?.id, count: 2, last: expect.stringContaining('03:10') as unknown });
  });

  it('takes the same file once, whoever brings it and whatever it is called', async () => {
    const id = await bring('again.pcap', pcap(refusedCapture().frames));
    const told = await readOf(id);
    expect(rowOf(told, id)).toMatchObject({
      state: 'refused',
      fault: 'The same file is here already: “night.pcap”, brought by engineer.',
    });
    expect(told.cases[0]?.count).toBe(2);
  });

  it('keeps one of two that two people bring at the same time', async () => {
    const bytes = pcap(refusedCapture(night + 30_000, 50_600).frames);
    const ids = await Promise.all(['one.pcap', 'two.pcap'].map((name) => bring(name, bytes)));
    const told = await until(view, (seen) => ids.every((id) => isRead(id)(seen)));
    const states = ids.map((id) => rowOf(told, id)?.state);
    expect([...states].sort()).toEqual(['read', 'refused']);
    const refused = rowOf(told, ids[states.indexOf('refused')] ?? '');
    expect(refused).toMatchObject({ fault: expect.stringContaining('The same file is here already') as unknown });
    expect(told.cases[0]?.count).toBe(3);
  });

  it('joins what a firewall wrote down, once its clock is set right', async () => {
    const { client, server, port } = linkWithUser();
    const [from, to] = [client.addresses[0] ?? '', server.addresses[0] ?? ''];
    const line = (time: string, sourcePort: number): string =>
      `${time} door-1 kernel: OPC-DROP IN=a OUT=b SRC=${from} DST=${to} PROTO=TCP SPT=${sourcePort} DPT=${port} SYN\n`;
    const silences = [0, 1].flatMap(
      (index) =>
        new Dialogue(
          (night + 7_200_000 + index * 60_000) * 1000,
          { address: from, port: 50_300 + index },
          { address: to, port },
        )
          .packet(0, { syn: true })
          .again().frames,
    );
    const capture = await bring('silent.pcap', pcap(silences));
    const lines = line('2026-11-20T05:10:09', 50_300) + line('2026-11-20T05:11:09', 50_301);
    const log = await bring('door.log', new TextEncoder().encode(lines));
    await readOf(capture);
    const apart = await readOf(log);
    const ofSilence = ({ cases }: CasebookView) => cases.filter(({ causeId }) => causeId === 'port-silent');
    expect(ofSilence(apart).map(({ count }) => count)).toEqual([4]);
    expect(apart.clocks).toEqual([
      {
        evidenceId: log,
        clock: { zone: 'UTC', aheadSeconds: 3609 },
        aheadMs: 3_609_000,
        against: 'silent.pcap',
        matches: 2,
      },
    ]);
    await engineer.call('setEvidenceReading', { evidenceId: log }, { zone: '+01:00', aheadSeconds: 9 });
    const joined = await until(view, (told) => isRead(log)(told) && ofSilence(told)[0]?.count === 2);
    expect(joined.clocks).toEqual([]);
    const whole = await viewer.call('case', { caseId: ofSilence(joined)[0]?.id ?? '' });
    expect(whole.recent[0]?.evidence.map(({ file }) => file).sort()).toEqual(['door.log', 'silent.pcap']);
    const at = lines.indexOf('\n') + 1;
    const placeIn = (evidenceId: string, position: number) =>
      engineer.query('evidencePlace', { position: String(position) }, { evidenceId });
    expect(await placeIn(log, at)).toEqual({
      name: 'door.log',
      lines: [{ position: at, text: line('2026-11-20T05:11:09', 50_301).trim() }],
    });
    expect(await placeIn(capture, 24)).toEqual({ name: 'silent.pcap', lines: null });
    await expect(viewer.query('evidencePlace', { position: '0' }, { evidenceId: log })).rejects.toThrow('403');
    expect(
      await engineer.refused('setEvidenceReading', { evidenceId: log }, { zone: 'Nowhere', aheadSeconds: 0 }),
    ).toMatchObject({ status: 400 });
  });

  it('tells what was said in a conversation, to engineers, and never a password', async () => {
    const before = refusedCapture(night + 120_000, 50_600).frames;
    const { frames } = refusedCapture(night + 121_000, 50_601);
    const evidenceId = await bring('talk.pcap', pcap([...before, ...frames]));
    await readOf(evidenceId);
    const position = 24 + (pcap(before).length - 24);
    const at = { evidenceId, position: String(position) };
    const story = await engineer.call('conversation', at);
    expect(story).toMatchObject({
      file: 'talk.pcap',
      protocol: 'opc.tcp',
      client: { port: 50_601 },
      linkId: linkWithUser().link.id,
      hasFailed: true,
      leftOut: 0,
    });
    expect(story.client.name).not.toBeNull();
    const titles = story.messages.map(({ what }) => what);
    expect(titles.slice(2, 4)).toEqual(['Hello', 'Acknowledge']);
    const signIn = story.messages.find(({ what }) => what === 'ActivateSession');
    expect(signIn?.withheld).toBe('It may hold a password.');
    const bytesOf = (index: number) => engineer.call('messageBytes', { ...at, index: String(index) });
    expect(await bytesOf(signIn?.index ?? 0)).toEqual({ index: signIn?.index, content: null });
    expect(Buffer.from((await bytesOf(2)).content ?? '', 'base64').toString()).toContain('opc.tcp://');
    expect(JSON.stringify(story)).not.toContain('never-told-1');
    const refused = async (more: object, by = engineer) =>
      (await by.refused('conversation', { ...at, ...more })).status;
    expect(await refused({}, viewer)).toBe(403);
    expect(await refused({ position: '25' })).toBe(404);
    expect(await refused({ position: 'x' })).toBe(404);
    expect(await refused({ evidenceId: '..%2f..%2fsealing-key' })).toBe(404);
    expect(await engineer.refused('messageBytes', { ...at, index: '999' })).toMatchObject({ status: 404 });
  });

  it('reads lines of an unknown form by a rule, which is tried, kept, changed, shared and removed', async () => {
    const { client, link } = linkWithUser();
    const server = plant.applications.find(({ id }) => id === link.serverId);
    const wish = {
      name: 'Door of the furnace',
      pattern: '{time} {} login of {who} from {from} failed: {text}',
      machine: server?.machineId ?? '',
      means: 'failed' as const,
    };
    const lines = [1, 2].map(
      (minute) => `2026-11-19T02:0${minute}:00Z WARN login of visitor from ${client.addresses[0]} failed: no such user`,
    );
    const trial = { pattern: wish.pattern, zone: 'UTC', sample: [...lines, 'something else'].join('\n') };
    const tried = await engineer.call('tryReadingRule', {}, trial);
    expect(tried.fault).toBeNull();
    expect(tried.lines.map(({ parts }) => parts?.['who'] ?? null)).toEqual(['visitor', 'visitor', null]);
    expect(await engineer.call('tryReadingRule', {}, { ...trial, pattern: '{a}{b}' })).toMatchObject({
      fault: { at: 3 },
    });

    const evidenceId = await bring('door.txt', new TextEncoder().encode(`${lines.join('\n')}\n`));
    expect(rowOf(await readOf(evidenceId), evidenceId)).toMatchObject({ items: 2, attempts: 0, ruleId: null });
    const rule = await engineer.call('addReadingRule', {}, wish);
    expect(await engineer.refused('addReadingRule', {}, wish)).toMatchObject({ status: 409 });
    expect(await engineer.refused('addReadingRule', {}, { ...wish, pattern: '{' })).toMatchObject({ status: 400 });
    expect(await viewer.refused('addReadingRule', {}, wish)).toMatchObject({ status: 403 });
    const reading = { zone: 'UTC', aheadSeconds: 0, ruleId: rule.id };
    await engineer.call('setEvidenceReading', { evidenceId }, reading);
    const settled = (attempts: number) =>
      until(view, (told) => isRead(evidenceId)(told) && rowOf(told, evidenceId)?.attempts === attempts);
    const told = await settled(2);
    expect(rowOf(told, evidenceId)?.ruleId).toBe(rule.id);
    const { cases } = await engineer.call('casebook');
    expect(cases.some(({ as, count }) => as === 'visitor' && count === 2)).toBe(true);

    await engineer.call('putReadingRule', { ruleId: rule.id }, { ...wish, pattern: '{time} nothing {who}' });
    await settled(0);
    const file = { format: 'loyal-hinge/reading-rules' as const, version: 1 as const, rules: [wish] };
    expect(await engineer.call('takeReadingRules', {}, file)).toEqual({ added: 0, changed: 1 });
    await settled(2);
    expect((await viewer.call('readingRules')).map(({ name }) => name)).toEqual(['Door of the furnace']);
    await engineer.call('removeReadingRule', { ruleId: rule.id });
    expect(rowOf(await settled(0), evidenceId)?.ruleId).toBeNull();
    expect(await engineer.refused('putReadingRule', { ruleId: rule.id }, wish)).toMatchObject({ status: 404 });
    expect(await engineer.refused('setEvidenceReading', { evidenceId }, reading)).toMatchObject({ status: 404 });
  });

  it('goes on with a file that was cut off, and takes each part once', async () => {
    const bytes = new TextEncoder().encode('2026-11-20T02:10:00Z nothing of interest\n'.repeat(20));
    const wish = { name: 'long.log', bytes: bytes.length };
    const { evidenceId } = await engineer.call('beginEvidence', {}, wish);
    const part = (from: number, to: number) => ({
      from,
      content: Buffer.from(bytes.subarray(from, to)).toString('base64'),
    });
    expect(await engineer.call('sendEvidence', { evidenceId }, part(0, 100))).toEqual({ received: 100 });
    expect(await engineer.refused('sendEvidence', { evidenceId }, part(0, 100))).toMatchObject({ status: 409 });
    expect(await engineer.call('beginEvidence', {}, wish)).toEqual({ evidenceId, received: 100 });
    expect(await bring('long.log', bytes, 300)).toBe(evidenceId);
    expect(rowOf(await readOf(evidenceId), evidenceId)).toMatchObject({
      state: 'read',
      form: 'log',
      items: 20,
      attempts: 0,
    });
    expect(await engineer.refused('sendEvidence', { evidenceId }, part(0, 1))).toMatchObject({ status: 409 });
    expect(await engineer.refused('sendEvidence', { evidenceId: 'none' }, part(0, 1))).toMatchObject({ status: 404 });
  });

  it('refuses what is no capture and no log, with a sentence', async () => {
    const id = await bring('logs.zip', Uint8Array.of(0x50, 0x4b, 3, 4, 20, 0, 0, 0));
    expect(rowOf(await readOf(id), id)).toMatchObject({
      state: 'refused',
      fault: 'This is an archive: unpack it, and bring what is in it.',
    });
    const cut = pcap(refusedCapture(night + 60_000, 50_400).frames);
    const other = await bring('cut.pcap', cut.subarray(0, cut.length - 5));
    expect(rowOf(await readOf(other), other)).toMatchObject({
      state: 'read',
      notUnderstood: 1,
      fault: expect.stringContaining('The file is cut off within a packet.') as unknown,
    });
  });

  describe('while a large file is read', () => {
    const count = 60_000;
    const large = (name: string): Promise<string> => {
      const lines = Array.from({ length: count }, (_, index) => {
        const [second, host] = [String(index % 60).padStart(2, '0'), `10.9.${index % 200}.${index % 250}`];
        return `2026-11-18T02:10:${second}Z ${name} kernel: OPC-DROP IN=a OUT=b SRC=${host} DST=10.9.9.9 PROTO=TCP SPT=${1024 + index} DPT=4840 SYN\n`;
      });
      return bring(name, new TextEncoder().encode(lines.join('')), 3e6);
    };
    const rowsOf = async (evidenceId: string): Promise<number> => {
      const [row] = await own.read<{ rows: number }>(
        `select count(*)::int as rows from attempts where evidence_id = '${evidenceId}'`,
      );
      return row?.rows ?? -1;
    };
    /* Whoever has written to the table in a transaction that goes on. */
    const writing = (): Promise<readonly unknown[]> =>
      own.read(
        `select pid from pg_locks where relation = 'attempts'::regclass and mode = 'RowExclusiveLock' and pid <> pg_backend_pid()`,
      );

    it('it can be stopped: nothing of it is left', async () => {
      const evidenceId = await large('stopped.log');
      await until(writing, (found) => found.length > 0);
      await engineer.call('removeEvidence', { evidenceId });
      expect(rowOf(await view(), evidenceId)).toBeUndefined();
      await until(writing, (found) => found.length === 0);
      expect(await rowsOf(evidenceId)).toBe(0);
      expect(readdirSync(join(own.folder, 'casebook'))).not.toContain(evidenceId);
    });

    it('the database may go away: it is read again, and nothing is there twice', async () => {
      const evidenceId = await large('cut.log');
      await until(writing, (found) => found.length > 0);
      await plug('halt');
      await plug('start');
      const told = await until(
        () => view().catch(() => null),
        (found) => found !== null && isRead(evidenceId)(found),
      );
      expect(told && rowOf(told, evidenceId)).toMatchObject({ state: 'read', attempts: count, fault: null });
      expect(await rowsOf(evidenceId)).toBe(count);
      await engineer.call('removeEvidence', { evidenceId });
    });
  });

  it('throws a file away with all that it told', async () => {
    for (const { id } of (await view()).evidence) await engineer.call('removeEvidence', { evidenceId: id });
    expect(await view()).toEqual({ cases: [], happened: [], evidence: [], clocks: [], attempts: 0, since: null });
    expect(await engineer.refused('removeEvidence', { evidenceId: 'none' })).toMatchObject({ status: 404 });
  });
});

describe('names of people in logs', () => {
  it('are shown to engineers, and to nobody who only looks', async () => {
    const at = new Date(night).toISOString();
    const values = {
      TargetUserName: 'p.harrow',
      TargetDomainName: 'MARROWBY',
      IpAddress: '10.9.8.7',
      SubStatus: '0xc000006a',
    };
    const data = Object.entries(values).map(([name, value]) => `<Data Name="${name}">${value}</Data>`);
    const refusal = `<Event xmlns="http://schemas.microsoft.com/win/2004/08/events/event"><System><Provider Name="Microsoft-Windows-Security-Auditing"/><EventID>4625</EventID><TimeCreated SystemTime="${at}"/><Channel>Security</Channel><Computer>elsewhere</Computer></System><EventData>${data.join('')}</EventData></Event>`;
    const evidenceId = await bring('security.xml', new TextEncoder().encode(`<Events>${refusal}</Events>`));
    await readOf(evidenceId);
    const seenBy = async (caller: Caller) => {
      const one = (await caller.call('casebook')).cases.find(({ from }) => from === '10.9.8.7');
      return JSON.stringify([one, await caller.call('case', { caseId: one?.id ?? '' })]);
    };
    expect(await seenBy(engineer)).toContain('p.harrow');
    const shown = await seenBy(viewer);
    expect(shown).not.toContain('p.harrow');
    expect(shown).toContain('somebody');
    await engineer.call('removeEvidence', { evidenceId });
  });
});

describe('the watched folder', () => {
  const line = `${new Date(night).toISOString()} door-1 kernel: OPC-DROP IN=a OUT=b SRC=10.9.9.1 DST=10.9.9.2 PROTO=TCP SPT=5 DPT=9 SYN\n`;
  const rowNamed = async (name: string) => (await view()).evidence.find((row) => row.name === name);
  const folder = join(own.folder, 'watched');

  it('takes in what is put there, and what it can’t take is put aside', async () => {
    writeFileSync(join(folder, 'door.log'), line);
    writeFileSync(join(folder, 'empty.log'), '');
    const row = await until(
      () => rowNamed('door.log'),
      (found) => found?.state === 'read',
    );
    expect(row).toMatchObject({ broughtBy: 'the watched folder', items: 1, attempts: 1 });
    await until(
      () => Promise.resolve(readdirSync(folder)),
      (names) => names.join() === 'not-taken',
    );
    expect(readdirSync(join(folder, 'not-taken'))).toEqual(['empty.log']);
  });

  it('takes messages of syslog where that is switched on, from the declared ranges alone', async () => {
    const administrator = await signIn('administrator', url, ownPassword);
    const settings = await administrator.call('settings');
    const at = { host: inPlant('98.1'), port: 5140 };
    const send = (text: string, from: string): Promise<void> =>
      new Promise((resolve, reject) => {
        const socket = connect({ ...at, localAddress: from }, () => socket.end(text));
        socket.on('error', reject).on('close', () => resolve());
      });
    expect(await administrator.refused('putSettings', {}, { ...settings, syslogAt: '10.0.0.1' })).toMatchObject({
      status: 400,
    });
    await expect(send('<4>early', inPlant('20.11'))).rejects.toThrow('ECONNREFUSED');
    await administrator.call('putSettings', {}, { ...settings, syslogAt: `${at.host}:${at.port}` });
    const drop = line.trim().replace(/^\S+ \S+ kernel: /, '');
    await until(
      () =>
        send(
          `<4>1 2026-11-20T02:20:00Z door-2 kernel - - - ${drop.replace('SPT=5', 'SPT=7')}\n`,
          inPlant('20.11'),
        ).then(
          () => true,
          () => false,
        ),
      (isHeard) => isHeard,
    );
    await send('<4>1 2026-11-20T02:20:00Z stranger kernel - - - nothing\n', '127.0.0.1').catch(() => undefined);
    const datagram = createSocket('udp4');
    await new Promise<void>((resolve) => datagram.bind(0, inPlant('20.11'), resolve));
    await new Promise((resolve) => datagram.send('<4>Nov 20 02:21:00 door-2 app: hello', at.port, at.host, resolve));
    datagram.close();
    const evidenceOf = async () =>
      (await viewer.call('casebook')).evidence.filter(
        ({ broughtBy, state }) => broughtBy === 'syslog' && state === 'read',
      );
    const brought = await until(evidenceOf, (rows) => rows.reduce((sum, { items }) => sum + items, 0) >= 2);
    expect(brought.reduce((sum, { items }) => sum + items, 0)).toBe(2);
    expect(brought.some(({ attempts }) => attempts === 1)).toBe(true);
    await administrator.call('putSettings', {}, { ...settings, syslogAt: null });
    await until(
      () =>
        send('<4>late\n', inPlant('20.11')).then(
          () => true,
          () => false,
        ),
      (isHeard) => !isHeard,
    );
  });

  it('keeps no file where none is to be kept, and lets old ones go', async () => {
    const administrator = await signIn('administrator', url, ownPassword);
    const settings = await administrator.call('settings');
    await administrator.call('putSettings', {}, { ...settings, recordedFilesKept: false, recordsKeptDays: 30 });
    writeFileSync(join(folder, 'other.log'), line.replace('SPT=5', 'SPT=6'));
    const row = await until(
      () => rowNamed('other.log'),
      (found) => found?.state === 'read',
    );
    const evidenceId = row?.id ?? '';
    await until(
      () => Promise.resolve(readdirSync(join(own.folder, 'casebook'))),
      (files) => !files.includes(evidenceId),
    );
    const clock = { zone: 'UTC', aheadSeconds: 1 };
    expect(await engineer.refused('setEvidenceReading', { evidenceId }, clock)).toMatchObject({ status: 409 });
    /* As if it had been brought in a month that is long over: that goes as a whole. */
    await own.read(`select make_parts('attempts', 'month', '2026-01-01Z', '2026-01-02Z')`);
    await own.read(
      `update attempts set brought_at = '2026-01-15Z' from evidence e where e.id = evidence_id and e.name = 'door.log'`,
    );
    await own.read(`update evidence set brought_at = '2026-01-15Z' where name = 'door.log'`);
    expect(await own.read('select count(*)::int as rows from attempts_2026_01')).toEqual([{ rows: 1 }]);
    const again = await own.serve();
    await until(
      () => rowNamed('door.log'),
      (found) => found === undefined,
    );
    expect(await rowNamed('other.log')).toBeDefined();
    expect(await own.read(`select to_regclass('attempts_2026_01')::text as part`)).toEqual([{ part: null }]);
    await own.kill(again.child);
  });
});
