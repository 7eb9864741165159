import { spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { connect, createServer } from 'node:net';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { HeldServer, ItemValue } from '@loyal-hinge/classic';
import { walkClassic } from '@loyal-hinge/classic';
import { gatewayStatus } from '@loyal-hinge/core';
import { readConfiguration, startGateway } from '@loyal-hinge/gateway';
import type { RunningGateway } from '@loyal-hinge/gateway';
import { inPlant, plantGiven } from '../server/src/testing/given.js';
import { until } from '../server/src/testing/until.js';

/** A classic server, a gateway that reads it and shows it by classic OPC again, and a classic client of that. */
const given = plantGiven();
const folder = mkdtempSync(join(tmpdir(), 'hinge-gateway-classic-'));
const serverAt = { address: inPlant('99.3'), port: 51_350 };
const faceAt = { address: inPlant('99.4'), port: 51_351 };
const clsid = '7f1d0c52-3c1e-4f6a-9a70-2b6c1de80a77';
const temperature = 'Cold End.Lehr.Zone1.Temperature';
let server: ChildProcess | null = null;
let running: RunningGateway;
const said: string[] = [];

function file(name: string, text: string): string {
  writeFileSync(join(folder, name), text, { mode: 0o600 });
  return name;
}

async function startServer(): Promise<void> {
  const program = join(process.cwd(), 'stand-ins/dist/classic-server.js');
  const { address, port } = serverAt;
  const args = ['--address', address, '--port', String(port), '--user', 'reader', '--password-env', 'STAND_IN'];
  server = spawn(process.execPath, [program, ...args], { env: { ...process.env, STAND_IN: 'a reader reads' } });
  await new Promise<void>((done, fail) => {
    server?.stdout?.once('data', () => done());
    server?.once('exit', (code) => fail(new Error(`it ended with ${String(code)}`)));
  });
}
async function killServer(): Promise<void> {
  const gone = new Promise((done) => server?.once('exit', done));
  server?.kill('SIGKILL');
  await gone;
}

function configured(differs: object = {}) {
  const own = given.clients.find(({ applicationId }) => applicationId === 'line-display-client');
  const read = readConfiguration(
    JSON.stringify({
      name: 'classic-gateway',
      certificateFile: file('own.pem', own?.certificatePem ?? ''),
      keyFile: file('own.key', own?.privateKeyPem ?? ''),
      trustedFiles: [],
      sources: [
        {
          kind: 'classic',
          name: 'lehr',
          host: serverAt.address,
          mapperPort: serverAt.port,
          program: 'Marrowby.LehrData.1',
          user: { name: 'reader', passwordFile: file('reader.txt', 'a reader reads\n') },
          publishingMs: 200,
          silenceMs: 2_000,
        },
      ],
      places: [{ source: 'lehr', items: 'Lehr/**', domain: 'Cold End', isWritable: true }],
      faces: [
        {
          kind: 'classic',
          address: faceAt.address,
          mapperPort: faceAt.port,
          clsid,
          program: 'Works.Gateway.1',
          users: [
            { name: 'looks', passwordFile: file('looks.txt', 'only looks') },
            { name: 'writes', passwordFile: file('writes.txt', 'writes too'), mayWrite: true },
          ],
        },
      ],
      ...differs,
    }),
  );
  if (!read.ok) throw new Error(read.says);
  return read.value;
}

const passwords: Readonly<Record<string, string>> = { looks: 'only looks', writes: 'writes too' };
/** Does something with the gateway’s classic server, as its client would. @returns what stopped it before; null: nothing */
async function asClient(user: string, use: (held: HeldServer) => Promise<void>, password = passwords[user] ?? '') {
  let stopped: string | null = null;
  let thrown: unknown = null;
  await walkClassic(
    {
      host: faceAt.address,
      mapperPort: faceAt.port,
      identity: { account: { user, domain: '', password }, level: 'integrity', workstation: 'CLIENT' },
      server: { progId: 'Works.Gateway.1' },
      needs: { items: [], browse: false, read: false, watch: null },
      timeoutMs: 5_000,
      resolve: (host) => Promise.resolve([host]),
      mayDial: () => true,
      use: async (held) => {
        await use(held).catch((error: unknown) => (thrown = error));
      },
    },
    (observation) => {
      if ('problem' in observation && observation.problem) stopped = observation.step;
    },
  );
  if (thrown) throw thrown instanceof Error ? thrown : new Error(String(thrown));
  return stopped;
}

async function readAs(user: string, id: string): Promise<ItemValue> {
  let value: ItemValue | undefined;
  await asClient(user, async ({ server: held }) => {
    const group = await held.addGroup('', 500, false);
    const [item] = await group.add([{ itemId: id, clientHandle: 1 }], true);
    if (item?.error === null) [value] = await group.read([item.serverHandle], 'device');
    await group.release();
  });
  if (!value) throw new Error(`${id} is not there`);
  return value;
}

beforeAll(async () => {
  await startServer();
  running = await startGateway(configured(), folder, (says) => said.push(says));
  await until(
    () => Promise.resolve(running.gateway.statistics.sources[0]?.state),
    (state) => state === 'there',
  );
});
afterAll(async () => {
  await running.stop();
  await killServer();
  rmSync(folder, { recursive: true, force: true });
});

describe('a gateway between classic servers and classic clients', () => {
  it('shows what the server has, with its quality and its time, below its own domains', async () => {
    const { items } = await until(
      () => Promise.resolve(running.gateway.itemsShown('', 0, 100)),
      ({ items: found }) => found.length > 0 && found.every(({ shown }) => shown.status !== gatewayStatus.waiting),
    );
    const names: string[] = [];
    await asClient('looks', async ({ server: held }) => {
      expect(await held.nameSpace()).toBe('hierarchical');
      expect((await held.browse([])).branches).toEqual(['Cold End']);
      names.push(...(await held.allItems(100)));
    });
    expect(names).toHaveLength(items.length);
    const read = await readAs('looks', temperature);
    expect(read).toMatchObject({ error: 0, quality: 0xc0 });
    expect(Date.now() - (read.timestamp ?? 0)).toBeLessThan(60_000);
  });

  it('lets nobody in with a wrong password, and writes for those who may alone', async () => {
    expect(await asClient('looks', () => Promise.resolve(), 'another')).toBe('sign-in');
    expect(await asClient('nobody', () => Promise.resolve(), '')).toBe('sign-in');
    const writable = 'Cold End.Lehr.Zone1.SetPoint';
    const write = async (user: string, value: number): Promise<number | undefined> => {
      let code: number | undefined;
      await asClient(user, async ({ server: held }) => {
        const group = await held.addGroup('', 500, false);
        const [item] = await group.add([{ itemId: writable, clientHandle: 1 }], true);
        if (item?.error === null) [code] = await group.write([item.serverHandle], [{ type: 'r4', value }]);
        await group.release();
      });
      return code;
    };
    expect(await write('looks', 500)).not.toBe(0);
    expect(await write('writes', 900)).not.toBe(0);
    expect(await write('writes', 500)).toBe(0);
    await until(
      () => readAs('looks', writable),
      ({ value }) => 'value' in value && value.value === 500,
    );
  });

  it('does not try a wrong password again and again', async () => {
    let dialled = 0;
    const counting = createServer((socket) => {
      dialled += 1;
      const onwards = connect({ host: serverAt.address, port: serverAt.port });
      for (const end of [socket, onwards]) end.on('error', () => undefined);
      socket.pipe(onwards).pipe(socket);
    });
    await new Promise<void>((done) => counting.listen(0, serverAt.address, done));
    const { port: mapperPort } = counting.address() as AddressInfo;
    const source = {
      kind: 'classic',
      name: 'lehr',
      host: serverAt.address,
      mapperPort,
      program: 'Marrowby.LehrData.1',
    };
    const user = { name: 'reader', passwordFile: file('wrong.txt', 'not this one') };
    const wrong = await startGateway(
      configured({ faces: [], sources: [{ ...source, user }] }),
      folder,
      () => undefined,
    );
    const fault = await until(
      () => Promise.resolve(wrong.gateway.statistics.sources[0]?.fault ?? null),
      (says) => says !== null,
    );
    expect(fault).toContain('It stopped at sign-in');
    const before = dialled;
    expect(before).toBeGreaterThan(0);
    // Whoever is only away is dialled again within half a second.
    await new Promise((done) => setTimeout(done, 1_500));
    expect(dialled).toBe(before);
    await wrong.stop();
    counting.close();
  });

  it('has changes told to its client, keeps last values while the server is gone, and goes on by itself', async () => {
    const qualities: number[] = [];
    const times: number[] = [];
    let isOver = false;
    const client = asClient('looks', async (held) => {
      const group = await held.server.addGroup('', 200, true);
      await group.add([{ itemId: temperature, clientHandle: 7 }], true);
      const end = await held.watch(group, ({ qualities: told, timestamps }) => {
        qualities.push(...told);
        times.push(...timestamps.map((time) => time ?? 0));
      });
      await until(
        () => Promise.resolve(isOver),
        (over) => over,
      );
      await end();
      await group.release();
    });
    const seen = (quality: number, from: number) =>
      until(
        () => Promise.resolve(qualities.slice(from).filter((each) => each === quality).length),
        (count) => count >= 1,
      );
    await seen(0xc0, 0);
    await killServer();
    await seen(0x44, 0);
    expect(running.gateway.statistics.sources[0]?.fault).not.toBeNull();
    const from = qualities.length;
    await startServer();
    await seen(0xc0, from);
    isOver = true;
    await client;
    expect(times).toEqual([...times].sort((one, other) => one - other));
    expect(running.gateway.statistics.sources[0]).toMatchObject({ state: 'there', returns: 1 });
  });
});
