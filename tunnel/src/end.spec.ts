import { connect, createServer } from 'node:net';
import type { AddressInfo, Server, Socket } from 'node:net';
import { connect as connectTls, createServer as createTlsServer } from 'node:tls';
import { copyFileSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { readTunnelConfiguration as readConfiguration } from '@loyal-hinge/contract/line';
import type { TunnelConfiguration } from '@loyal-hinge/contract/line';
import { TunnelEnd } from './end';
import { TestAuthority } from './testing/authority';

let authority: TestAuthority;
let echo: Server;
const fingerprints: Record<string, string> = {};
const running: TunnelEnd[] = [];
const held = new Set<Socket>();

beforeAll(async () => {
  authority = await TestAuthority.make();
  for (const name of ['inside', 'outside', 'stranger']) fingerprints[name] = await authority.issue(name);
  fingerprints['former'] = await authority.issue('former', Date.now() - 10 * 86_400_000, Date.now() - 86_400_000);
  fingerprints['revoked'] = await authority.issue('revoked');
  await authority.revoke('revoked');
  echo = createServer({ allowHalfOpen: true }, (socket) => {
    held.add(socket);
    socket.on('error', () => undefined);
    socket.pipe(socket);
  });
  await new Promise<void>((done) => echo.listen(0, '127.0.0.1', done));
});
afterEach(async () => {
  await Promise.all(running.splice(0).map((end) => end.stop()));
});
afterAll(() => {
  for (const socket of held) socket.destroy();
  echo.close();
});

function configured(differs: object): TunnelConfiguration {
  const name = String((differs as { name?: string }).name ?? 'inside');
  const read = readConfiguration(
    JSON.stringify({
      name,
      meets: { by: 'listening', address: '127.0.0.1', port: 0 },
      certificateFile: `${name}.pem`,
      keyFile: `${name}.key`,
      authorityFile: 'authority.pem',
      revokedFile: 'revocations.pem',
      peers: [{ name: 'outside', fingerprint: fingerprints['outside'] }],
      limits: { silenceMs: 30_000, drainMs: 500 },
      ...differs,
    }),
  );
  if (!read.ok) throw new Error(read.says);
  return read.value;
}
async function start(differs: object): Promise<TunnelEnd> {
  const end = await TunnelEnd.start(configured(differs), authority.folder, () => undefined);
  running.push(end);
  return end;
}
const echoTarget = () => ({ name: 'echo', address: '127.0.0.1', port: (echo.address() as AddressInfo).port });
const entrance = (target = 'echo') => ({ name: `to-${target}`, address: '127.0.0.1', port: 0, target });
const outside = (port: number | null, differs: object = {}) =>
  start({
    name: 'outside',
    meets: { by: 'dialling', address: '127.0.0.1', port: port ?? 0 },
    peers: [{ name: 'inside', fingerprint: fingerprints['inside'] }],
    ...differs,
  });

async function until(isSo: () => boolean): Promise<void> {
  for (const end = Date.now() + 20_000; !isSo();) {
    if (Date.now() > end) throw new Error('it never came to this');
    await new Promise((done) => setTimeout(done, 20));
  }
}
const isJoined = (end: TunnelEnd) => () => end.statistics.state === 'joined';

/** Sends bytes into an entrance, and answers with all that come back until the far side has ended. */
function through(port: number | null | undefined, bytes: Buffer): Promise<Buffer> {
  return new Promise((resolve, reject) => {
    const socket = connect({ port: port ?? 0, host: '127.0.0.1', allowHalfOpen: true });
    const parts: Buffer[] = [];
    socket.on('data', (part: Buffer) => parts.push(part));
    socket.on('end', () => resolve(Buffer.concat(parts)));
    socket.on('error', reject);
    socket.on('close', () => resolve(Buffer.concat(parts)));
    socket.end(bytes);
  });
}

describe('a tunnel', () => {
  it('leads streams both ways, whichever end dials', async () => {
    const inside = await start({
      targets: [echoTarget()],
      entrances: [{ ...entrance('echo'), name: 'back', target: 'echo' }].map((each) => ({
        ...each,
        target: 'far-echo',
      })),
    });
    const dialling = await outside(inside.port, {
      entrances: [entrance()],
      targets: [{ ...echoTarget(), name: 'far-echo' }],
    });
    await until(() => isJoined(inside)() && isJoined(dialling)());
    expect(await through(dialling.entrancePorts[0], Buffer.from('from outside'))).toEqual(Buffer.from('from outside'));
    expect(await through(inside.entrancePorts[0], Buffer.from('from inside'))).toEqual(Buffer.from('from inside'));
    expect(inside.statistics).toMatchObject({ peer: 'outside', joins: 1 });
    await until(() => dialling.statistics.streams.open === 0);
    expect(dialling.statistics).toMatchObject({ streams: { total: 2 } });
  });

  it('carries large amounts in many streams at once, none torn', async () => {
    const inside = await start({ targets: [echoTarget()] });
    const dialling = await outside(inside.port, { entrances: [entrance()] });
    await until(isJoined(dialling));
    const sent = Array.from({ length: 40 }, (_, index) => Buffer.alloc(200_000, index));
    const back = await Promise.all(sent.map((bytes) => through(dialling.entrancePorts[0], bytes)));
    expect(back.every((bytes, index) => bytes.equals(sent[index] ?? Buffer.alloc(0)))).toBe(true);
  });

  it('connects to targets that its configuration names, and to nothing else', async () => {
    const inside = await start({ targets: [echoTarget(), { name: 'nobody', address: '127.0.0.1', port: 1 }] });
    const dialling = await outside(inside.port, { entrances: [entrance('elsewhere'), entrance('nobody')] });
    await until(isJoined(dialling));
    expect(await through(dialling.entrancePorts[0], Buffer.from('x'))).toHaveLength(0);
    expect(await through(dialling.entrancePorts[1], Buffer.from('x'))).toHaveLength(0);
    await until(() => dialling.statistics.refused['target does not answer'] === 1);
    expect(dialling.statistics.refused).toMatchObject({ 'unknown target': 1, 'target does not answer': 1 });
    expect(inside.statistics.refused['unknown target']).toBe(1);
  });

  it('takes no more streams than it may, and goes on with those it has', async () => {
    const inside = await start({ targets: [echoTarget()] });
    const dialling = await outside(inside.port, {
      entrances: [entrance()],
      limits: { streams: 2, silenceMs: 30_000, drainMs: 100 },
    });
    await until(isJoined(dialling));
    const open = await Promise.all([1, 2].map(() => opened(dialling.entrancePorts[0])));
    await until(() => dialling.statistics.streams.open === 2);
    expect(await through(dialling.entrancePorts[0], Buffer.from('x'))).toHaveLength(0);
    expect(dialling.statistics.refused['too many streams']).toBe(1);
    for (const socket of open) socket.destroy();
  });

  it.each([
    ['stranger', 'peer not named'],
    ['former', 'certificate not valid'],
    ['revoked', 'certificate not valid'],
  ] as const)('lets %s not in: %s', async (name, refusal) => {
    const inside = await start({
      targets: [echoTarget()],
      peers: [{ name: 'outside', fingerprint: fingerprints[name === 'stranger' ? 'outside' : name] }],
    });
    const dialling = await outside(inside.port, {
      certificateFile: `${name}.pem`,
      keyFile: `${name}.key`,
      entrances: [entrance()],
    });
    await until(() => inside.statistics.refused[refusal] > 0);
    expect(inside.statistics.state).toBe('waiting');
    expect(await through(dialling.entrancePorts[0], Buffer.from('x'))).toHaveLength(0);
  });

  it('refuses whoever answers with another certificate than the one that is named', async () => {
    const inside = await start({ targets: [echoTarget()] });
    const dialling = await outside(inside.port, { peers: [{ name: 'inside', fingerprint: fingerprints['stranger'] }] });
    await until(() => dialling.statistics.refused['peer not named'] > 0);
    expect(dialling.statistics.state).toBe('waiting');
  });

  it('refuses whoever comes without a certificate', async () => {
    const inside = await start({ targets: [echoTarget()] });
    const bare = connectTls({
      port: inside.port ?? 0,
      host: '127.0.0.1',
      rejectUnauthorized: false,
      ALPNProtocols: ['loyal-hinge-tunnel-3'],
    });
    bare.on('error', () => undefined);
    await until(() => inside.statistics.refused['no certificate'] > 0);
    bare.destroy();
  });

  it('says that the other end is of another version, whichever dials, and takes it for nothing worse', async () => {
    const told: string[] = [];
    const inside = await TunnelEnd.start(configured({}), authority.folder, (says) => told.push(says));
    running.push(inside);
    const former = connectTls({
      port: inside.port ?? 0,
      host: '127.0.0.1',
      rejectUnauthorized: false,
      ALPNProtocols: ['loyal-hinge-tunnel-1'],
    });
    former.on('error', () => undefined);
    await until(() => told.some((says) => says.includes('speaks another version')));
    expect(inside.statistics.refused['certificate not valid']).toBe(0);

    const file = (name: string) => readFileSync(join(authority.folder, name));
    const formerEnd = createTlsServer({
      cert: file('inside.pem'),
      key: file('inside.key'),
      ALPNProtocols: ['loyal-hinge-tunnel-1'],
    });
    formerEnd.on('tlsClientError', () => undefined);
    await new Promise<void>((done) => formerEnd.listen(0, '127.0.0.1', done));
    const dialling = configured({
      name: 'outside',
      meets: { by: 'dialling', address: '127.0.0.1', port: (formerEnd.address() as AddressInfo).port },
      peers: [{ name: 'inside', fingerprint: fingerprints['inside'] }],
    });
    running.push(await TunnelEnd.start(dialling, authority.folder, (says) => told.push(says)));
    await until(() => told.some((says) => says.startsWith('Whoever answers') && says.includes('another version')));
    formerEnd.close();
  });

  it('joins again by itself when the far end comes back', async () => {
    const inside = await start({ targets: [echoTarget()] });
    const dialling = await outside(inside.port, { entrances: [entrance()] });
    await until(isJoined(dialling));
    const { port } = inside;
    await inside.stop();
    running.splice(running.indexOf(inside), 1);
    await until(() => dialling.statistics.state === 'waiting');
    expect(await through(dialling.entrancePorts[0], Buffer.from('x'))).toHaveLength(0);
    expect(dialling.statistics.refused['no line']).toBe(1);
    await start({ targets: [echoTarget()], meets: { by: 'listening', address: '127.0.0.1', port } });
    await until(isJoined(dialling));
    expect(await through(dialling.entrancePorts[0], Buffer.from('again'))).toEqual(Buffer.from('again'));
    expect(dialling.statistics.joins).toBe(2);
  });

  it('goes over to new certificates while streams are open, and tears none', async () => {
    const inside = await start({
      targets: [echoTarget()],
      peers: ['outside', 'renewed'].map((name) => ({
        name,
        fingerprint: fingerprints[name] ?? fingerprints['stranger'],
      })),
    });
    for (const ending of ['pem', 'key'])
      copyFileSync(join(authority.folder, `outside.${ending}`), join(authority.folder, `own.${ending}`));
    const dialling = await outside(inside.port, {
      certificateFile: 'own.pem',
      keyFile: 'own.key',
      entrances: [entrance()],
    });
    await until(isJoined(dialling));
    const before = await opened(dialling.entrancePorts[0]);
    for (const ending of ['key', 'pem'])
      copyFileSync(join(authority.folder, `stranger.${ending}`), join(authority.folder, `own.${ending}`));
    await until(() => dialling.statistics.joins === 2);
    expect(await said(before, 'still here')).toBe('still here');
    expect(await through(dialling.entrancePorts[0], Buffer.from('new'))).toEqual(Buffer.from('new'));
    before.destroy();
  });

  it('lets others in while somebody floods it with connections that say nothing', async () => {
    const inside = await start({ targets: [echoTarget()] });
    const flood = Array.from({ length: 100 }, () => {
      const socket = connect({ port: inside.port ?? 0, host: '127.0.0.1', localAddress: '127.0.0.9' });
      socket.on('error', () => undefined);
      held.add(socket);
      return socket;
    });
    await until(() => inside.statistics.refused['too many connections'] > 50);
    const dialling = await outside(inside.port, { entrances: [entrance()] });
    await until(isJoined(dialling));
    expect(await through(dialling.entrancePorts[0], Buffer.from('still'))).toEqual(Buffer.from('still'));
    for (const socket of flood) socket.destroy();
  });

  it('lets other streams go on while somebody does not read', async () => {
    const inside = await start({ targets: [echoTarget()] });
    const dialling = await outside(inside.port, { entrances: [entrance()] });
    await until(isJoined(dialling));
    const stalled = await opened(dialling.entrancePorts[0]);
    stalled.pause();
    let sent = 0;
    const fill = (): void => {
      while (sent < 64 && stalled.write(Buffer.alloc(1 << 20, 1))) sent += 1;
      sent += 1;
      if (sent < 64) stalled.once('drain', fill);
    };
    fill();
    const bytes = Buffer.alloc(3_000_000, 7);
    expect((await through(dialling.entrancePorts[0], bytes)).equals(bytes)).toBe(true);
    stalled.destroy();
    await until(() => dialling.statistics.streams.open === 0 && inside.statistics.streams.open === 0);
  });

  it('keeps all streams, and opens others, while many hold back what nobody reads', async () => {
    const inside = await start({ targets: [echoTarget()] });
    const dialling = await outside(inside.port, { entrances: [entrance()] });
    await until(isJoined(dialling));
    const amount = 2_000_000;
    const many = await Promise.all(Array.from({ length: 60 }, () => opened(dialling.entrancePorts[0])));
    const closed: string[] = [];
    for (const socket of many) {
      socket.pause();
      socket.on('close', () => closed.push('closed'));
      socket.end(Buffer.alloc(amount, 7));
    }
    let before = -1;
    const isStill = () => {
      const isSame = inside.statistics.bytes.sent === before;
      before = inside.statistics.bytes.sent;
      return isSame && before > 10_000_000;
    };
    await until(isStill);
    expect(await through(dialling.entrancePorts[0], Buffer.from('another'))).toEqual(Buffer.from('another'));
    expect(closed).toEqual([]);
    const read = await Promise.all(
      many.map(
        (socket) =>
          new Promise<number>((resolve) => {
            let sum = 0;
            socket.on('data', (part: Buffer) => (sum += part.length));
            socket.on('close', () => resolve(sum));
            socket.resume();
          }),
      ),
    );
    expect(new Set(read)).toEqual(new Set([amount]));
  });

  it('ends a stream over which nothing goes', async () => {
    const inside = await start({ targets: [echoTarget()] });
    const dialling = await outside(inside.port, {
      entrances: [entrance()],
      limits: { silenceMs: 30_000, drainMs: 100, idleMs: 1000 },
    });
    await until(isJoined(dialling));
    const idle = (await opened(dialling.entrancePorts[0])).resume();
    await new Promise<void>((done) => idle.once('close', () => done()));
    await until(() => inside.statistics.streams.open === 0);
  });

  it('takes over other entrances and targets while streams go on, and cuts who is no longer named', async () => {
    const inside = await start({ targets: [echoTarget()] });
    const dialling = await outside(inside.port, { entrances: [entrance()] });
    await until(isJoined(dialling));
    const before = await opened(dialling.entrancePorts[0]);
    const peers = [{ name: 'inside', fingerprint: fingerprints['inside'] }];
    const meets = { by: 'dialling', address: '127.0.0.1', port: inside.port };
    const other = { ...entrance(), name: 'second', port: 0, address: '127.0.0.2' };
    const differs = { name: 'outside', meets, peers, entrances: [entrance(), other] };
    expect(await dialling.change(configured(differs))).toBe(true);
    const second = connect({ host: '127.0.0.2', port: dialling.entrancePorts[1] ?? 0 });
    expect(await said(second, 'by the second')).toBe('by the second');
    expect(await said(before, 'still here')).toBe('still here');
    expect(
      await inside.change(
        configured({
          targets: [echoTarget()],
          peers: [{ name: 'x', fingerprint: fingerprints['stranger'] }],
          meets: { by: 'listening', address: '127.0.0.1', port: 0 },
        }),
      ),
    ).toBe(true);
    await until(() => inside.statistics.state === 'waiting');
    for (const socket of [before, second]) socket.destroy();
  });

  it('keeps streams while the other end gets a new certificate, whichever of both changes first', async () => {
    const inside = await start({ targets: [echoTarget()] });
    const dialling = await outside(inside.port, { entrances: [entrance()] });
    await until(isJoined(dialling));
    const before = await opened(dialling.entrancePorts[0]);
    const meets = { by: 'dialling', address: '127.0.0.1', port: inside.port };
    const peers = [{ name: 'inside', fingerprint: fingerprints['stranger'] }];
    await dialling.change(
      configured({ name: 'outside', meets, peers, entrances: dialling.entrancePorts.map(() => entrance()) }),
    );
    await until(() => dialling.statistics.refused['peer not named'] > 0);
    expect(await said(before, 'still here')).toBe('still here');
    before.destroy();
  });

  it('cuts the former line, too, where who made it is no longer let in, and keeps the one that stands', async () => {
    const peers = ['outside', 'renewed'].map((name) => ({
      name,
      fingerprint: fingerprints[name] ?? fingerprints['stranger'],
    }));
    const inside = await start({ targets: [echoTarget()], peers });
    const put = (name: string): void => {
      for (const ending of ['key', 'pem'])
        copyFileSync(join(authority.folder, `${name}.${ending}`), join(authority.folder, `two.${ending}`));
    };
    put('outside');
    const own = { certificateFile: 'two.pem', keyFile: 'two.key', entrances: [entrance()] };
    const dialling = await outside(inside.port, own);
    await until(isJoined(dialling));
    const former = (await opened(dialling.entrancePorts[0])).resume();
    const isClosed = new Promise<boolean>((done) => former.once('close', () => done(true)));
    put('stranger');
    await until(() => dialling.statistics.joins === 2 && inside.statistics.joins === 2);
    expect(await said(former, 'still here')).toBe('still here');
    await inside.change(configured({ targets: [echoTarget()], peers: peers.slice(1) }));
    expect(await isClosed).toBe(true);
    expect(await through(dialling.entrancePorts[0], Buffer.from('new'))).toEqual(Buffer.from('new'));
    expect(inside.statistics.joins).toBe(2);
  });

  it('leaves nothing open when it is stopped, a line that it has replaced neither', async () => {
    const inside = await start({ targets: [echoTarget()], limits: { silenceMs: 30_000, drainMs: 100 } });
    const dialling = await outside(inside.port, { entrances: [entrance()] });
    await until(isJoined(dialling));
    const open = (await opened(dialling.entrancePorts[0])).resume();
    const isClosed = new Promise<boolean>((done) => open.once('close', () => done(true)));
    await inside.stop();
    expect(await isClosed).toBe(true);
  });

  it('says whose port is taken', async () => {
    const { port } = echo.address() as AddressInfo;
    await expect(start({ meets: { by: 'listening', address: '127.0.0.1', port } })).rejects.toThrow(/is taken/);
  });
});

/** A connection into an entrance that has answered once. */
async function opened(port: number | null | undefined): Promise<Socket> {
  const socket = connect({ port: port ?? 0, host: '127.0.0.1' });
  socket.on('error', () => undefined);
  await said(socket, 'hello');
  return socket;
}
function said(socket: Socket, words: string): Promise<string> {
  return new Promise((resolve) => {
    socket.once('data', (bytes: Buffer) => resolve(bytes.toString()));
    socket.write(words);
  });
}

describe('the configuration of an end', () => {
  it.each([
    ['{', 'cut off'],
    ['{"name": "A"}', 'name'],
    [JSON.stringify({ name: 'a', meets: { by: 'calling' } }), 'meets'],
    [JSON.stringify({ ...base(), peers: [] }), 'at least one peer'],
    [JSON.stringify({ ...base(), peers: [{ name: 'b', fingerprint: 'AB' }] }), 'fingerprint'],
    [JSON.stringify({ ...base(), entrance: [] }), 'entrance'],
    [
      JSON.stringify({
        ...base(),
        targets: [
          { name: 'x', address: 'h', port: 1 },
          { name: 'x', address: 'h', port: 2 },
        ],
      }),
      'twice',
    ],
  ])('%s is refused by what is wrong with it', (text, says) => {
    const read = readConfiguration(text);
    expect(read.ok ? '' : read.says).toContain(says);
  });
});

function base(): object {
  return {
    name: 'a',
    meets: { by: 'dialling', address: '127.0.0.1', port: 1 },
    certificateFile: 'a',
    keyFile: 'b',
    authorityFile: 'c',
    peers: [{ name: 'b', fingerprint: 'A'.repeat(64) }],
  };
}
