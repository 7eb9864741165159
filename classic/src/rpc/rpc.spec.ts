import { connect } from 'node:net';
import type { Socket } from 'node:net';
import { ntlmClient } from '../ntlm/client.js';
import { passwordHash } from '../ntlm/keys.js';
import { ntlmServer } from '../ntlm/server.js';
import { RpcClient } from './client.js';
import { readPdu, writePdu } from './pdu.js';
import type { Syntax } from './pdu.js';
import { RpcFault, faults } from './problems.js';
import { services } from './security.js';
import type { Level } from './security.js';
import { RpcServer } from './server.js';
import type { RpcCall } from './server.js';

const echo: Syntax = { uuid: '0c4ad9b0-6f2f-4a3e-9d6b-5b3f0a6c1e01', major: 1, minor: 0 };
const other: Syntax = { uuid: '0c4ad9b0-6f2f-4a3e-9d6b-5b3f0a6c1e02', major: 1, minor: 0 };
const account = { user: 'opc-reader', domain: '', password: 'made up for this test' };
const within = { timeoutMs: 60_000 };

const calls: RpcCall[] = [];
let server: RpcServer;
/** It waits for the other half of something for no time at all. */
let impatient: RpcServer;
const served = (limits: { readonly stub: number; readonly halfMs?: number }): Promise<RpcServer> =>
  RpcServer.listen({
    address: '127.0.0.1',
    port: 0,
    limits,
    agreeing: {
      [services.ntlm]: ntlmServer({
        computer: 'FURNACE-3',
        domain: 'FURNACE-3',
        dnsComputer: 'furnace-3.marrowby.example',
        now: Date.now,
        hashOf: (user) => (user === account.user ? passwordHash(account.password) : null),
      }),
    },
    find: (syntax) =>
      syntax.uuid === echo.uuid
        ? {
            syntax: echo,
            call: (call) => {
              calls.push(call);
              if (call.operation === 0) return Promise.resolve(call.stub.slice());
              if (call.operation === 1) return new Promise(() => undefined);
              return Promise.reject(new RpcFault(faults.operationUnknown));
            },
          }
        : null,
  });
beforeAll(async () => {
  [server, impatient] = [await served({ stub: 200_000 }), await served({ stub: 200_000, halfMs: 300 })];
});
afterAll(() => Promise.all([server.close(), impatient.close()]));

const dial = () => RpcClient.connect({ host: '127.0.0.1', port: server.port, ...within });
const agreement = (level: Level, password = account.password) =>
  ntlmClient({
    account: { ...account, password },
    level,
    targetName: 'RPCSS/furnace-3',
    workstation: 'CONTROL-1',
    now: Date.now,
  });
const stubOf = (length: number): Uint8Array => Uint8Array.from({ length }, (_, index) => (index * 7) % 251);

async function raw(octets: readonly Uint8Array[], pauseMs = 0, to = server): Promise<Buffer> {
  const socket: Socket = connect(to.port, '127.0.0.1');
  const parts: Buffer[] = [];
  const over = new Promise<void>((resolve) => {
    socket.on('data', (part) => parts.push(part));
    socket.on('error', () => undefined);
    socket.on('close', () => resolve());
  });
  for (const part of octets) {
    socket.write(part);
    if (pauseMs > 0) await new Promise((resolve) => setTimeout(resolve, pauseMs));
  }
  await over;
  return Buffer.concat(parts);
}

describe('RPC over a connection', () => {
  it.each<[Level, number]>([
    ['none', 10],
    ['connect', 1500],
    ['packet', 33],
    ['integrity', 0],
    ['integrity', 20_000],
    ['privacy', 7],
    ['privacy', 100_001],
  ])('calls at level %s with %d octets, in fragments both ways', async (level, length) => {
    const client = await dial();
    expect(await client.bind([other, echo], level === 'none' ? null : agreement(level), within)).toEqual([false, true]);
    for (const object of [null, '0c4ad9b0-6f2f-4a3e-9d6b-5b3f0a6c1eff']) {
      const { stub } = await client.call(echo, 0, stubOf(length), { ...within, object });
      expect(Buffer.from(stub).equals(stubOf(length))).toBe(true);
      expect(calls.at(-1)).toMatchObject({
        object,
        caller: { level, account: level === 'none' ? null : { user: 'opc-reader' }, address: '127.0.0.1' },
      });
    }
    client.close();
  });

  it('lets a wrong password go until the first call, and tries it once', async () => {
    const client = await dial();
    await client.bind([echo], agreement('integrity', 'another'), within);
    await expect(client.call(echo, 0, stubOf(5), within)).rejects.toMatchObject({ status: faults.accessDenied });
    client.close();
  });

  it('says what it does not have', async () => {
    const client = await dial();
    await client.bind([echo], null, within);
    await expect(client.call(echo, 9, stubOf(5), within)).rejects.toMatchObject({ status: 0x1c010002 });
    await expect(client.alter(other, within)).rejects.toMatchObject({ kind: 'interface-unknown' });
    await expect(client.call(other, 0, stubOf(1), within)).rejects.toMatchObject({ kind: 'interface-unknown' });
    expect((await client.call(echo, 0, stubOf(3), within)).stub).toHaveLength(3);
    client.close();
  });

  it('refuses a security service that it does not speak', async () => {
    const client = await dial();
    await expect(
      client.bind([echo], { ...agreement('integrity'), service: services.kerberos }, within),
    ).rejects.toMatchObject({
      kind: 'bind-refused',
      message: 'The peer refuses to bind (this kind of authentication is not spoken there).',
    });
  });

  it('gives up a call in time, and when somebody says so', async () => {
    const slow = await dial();
    await slow.bind([echo], null, within);
    await expect(slow.call(echo, 1, stubOf(1), { timeoutMs: 50 })).rejects.toMatchObject({ kind: 'silent' });
    const given = await dial();
    await given.bind([echo], null, within);
    const abort = new AbortController();
    const call = given.call(echo, 1, stubOf(1), { timeoutMs: 5000, signal: abort.signal });
    setTimeout(() => abort.abort(), 20);
    await expect(call).rejects.toMatchObject({ kind: 'cancelled' });
    await expect(given.call(echo, 0, stubOf(1), within)).rejects.toMatchObject({ kind: 'cancelled' });
  });

  it('says whether a port is closed', async () => {
    const gone = await RpcServer.listen({ address: '127.0.0.1', port: 0, find: () => null });
    const { port } = gone;
    await gone.close();
    await expect(RpcClient.connect({ host: '127.0.0.1', port, ...within })).rejects.toMatchObject({ kind: 'refused' });
  });

  const bind = writePdu({
    kind: 'bind',
    flags: 3,
    callId: 1,
    mostSent: 5840,
    mostReceived: 5840,
    group: 0,
    contexts: [
      { id: 0, abstract: echo, transfers: [{ uuid: '8a885d04-1ceb-11c9-9fe8-08002b104860', major: 2, minor: 0 }] },
    ],
  });
  const request = (flags: number, callId: number, length: number) =>
    writePdu({ kind: 'request', flags, callId, hint: 0, context: 0, operation: 0, object: null, stub: stubOf(length) });

  it.each<[string, readonly Uint8Array[]]>([
    ['what is no RPC', [Buffer.from('GET / HTTP/1.1\r\n\r\n')]],
    ['a PDU shorter than its header', [Uint8Array.of(5, 0, 11, 3, 16, 0, 0, 0, 8, 0, 0, 0, 1, 0, 0, 0)]],
    ['a call before the bind', [request(3, 1, 4)]],
    ['a second bind', [bind, bind]],
    ['mixed parts of calls', [bind, request(1, 2, 64), request(0, 3, 64)]],
    [
      'a call longer than is taken',
      [bind, request(1, 2, 5000), ...Array.from({ length: 60 }, () => request(0, 2, 5000))],
    ],
    ['an answer', [bind, writePdu({ kind: 'response', flags: 3, callId: 2, hint: 0, context: 0, stub: stubOf(4) })]],
  ])('ends the connection of whoever sends %s, and no other', async (_case, octets) => {
    const client = await dial();
    await client.bind([echo], null, within);
    await raw(octets);
    expect((await client.call(echo, 0, stubOf(3), within)).stub).toHaveLength(3);
    client.close();
  });

  it('ends the connection of whoever sends half of something, an octet at a time', async () => {
    // It would be whole after 72.
    await raw(
      [...bind.subarray(0, 40)].map((octet) => Uint8Array.of(octet)),
      20,
      impatient,
    );
    expect((await dial()).isOpen).toBe(true);
  });

  it('reads numbers in the other order of octets', async () => {
    const turned = bigEndianBind();
    expect(turned).toHaveLength(bind.length);
    // What follows is a second bind, and ends the connection.
    const answer = readPdu(await raw([turned, bind]));
    expect(answer).toMatchObject({ kind: 'bind-ack', results: [{ result: 0 }] });
  });
});

function bigEndianBind(): Uint8Array {
  const octets = Buffer.alloc(72);
  octets.set([5, 0, 11, 3, 0x00, 0, 0, 0]);
  octets.writeUInt16BE(72, 8);
  octets.writeUInt32BE(1, 12);
  octets.writeUInt16BE(5840, 16);
  octets.writeUInt16BE(5840, 18);
  octets[24] = 1;
  octets[30] = 1;
  octets.set(Buffer.from('0c4ad9b06f2f4a3e9d6b5b3f0a6c1e01', 'hex'), 32);
  octets.writeUInt16BE(1, 48);
  octets.set(Buffer.from('8a885d041ceb11c99fe808002b104860', 'hex'), 52);
  octets.writeUInt16BE(2, 68);
  return octets;
}
