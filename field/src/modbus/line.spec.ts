import { once } from 'node:events';
import { connect, createServer } from 'node:net';
import type { AddressInfo, Server } from 'node:net';
import { Worker } from 'node:worker_threads';
import { client as independentClient, server as independentServer } from 'jsmodbus';
import { FieldDevice } from './device';
import type { DeviceFault, DeviceShape } from './device';
import { DeviceLine } from './line';
import { readPlaces } from './read-places';

const host = '127.0.0.1';
const ends: (() => unknown)[] = [];
afterEach(async () => {
  for (const end of ends.splice(0).reverse()) await end();
});

async function device(shape: Partial<DeviceShape> = {}): Promise<FieldDevice> {
  const one = await FieldDevice.start(host, 0, { at: (_, place) => (place < 300 ? place * 3 : null), ...shape });
  ends.push(() => one.stop());
  return one;
}

async function lineTo(port: number, timeoutMs = 3000): Promise<DeviceLine> {
  const socket = connect({ host, port });
  await once(socket, 'connect');
  const line = new DeviceLine(socket, timeoutMs);
  ends.push(() => line.close());
  return line;
}

const never = new AbortController().signal;
const ask = { unit: 1, table: 'holding', first: 10, count: 3 } as const;

/** A device that answers while this thread stands still: the request, with what a register says behind its head. */
const deviceBeside = `
  const { parentPort } = require('node:worker_threads');
  const server = require('node:net').createServer((socket) => {
    socket.on('error', () => undefined);
    socket.on('data', (asked) => {
      const answer = Buffer.from([asked[0], asked[1], 0, 0, 0, 5, asked[6], asked[7], 2, 0x12, 0x67]);
      setTimeout(() => socket.write(answer), 30);
    });
  });
  server.listen(0, '127.0.0.1', () => parentPort.postMessage(server.address().port));
`;

describe('a connection to a device', () => {
  it('reads what had come in time, though this process stood still meanwhile', async () => {
    const beside = new Worker(deviceBeside, { eval: true });
    ends.push(() => beside.terminate());
    const [port] = (await once(beside, 'message')) as [number];
    const line = await lineTo(port, 100);
    const answer = line.read({ ...ask, count: 1 }, never);
    await new Promise((sent) => setImmediate(sent));
    Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 400);
    expect(await answer).toMatchObject({ outcome: 'values', values: [4711] });
  });

  it('reads from somebody else’s device, words and bits', async () => {
    const server: Server = createServer();
    const holding = Buffer.alloc(200);
    [4711, 65_535, 1].forEach((word, index) => holding.writeUInt16BE(word, 20 + index * 2));
    new independentServer.TCP(server, { holding, coils: Buffer.from([0b00000101, 0b10]) });
    server.listen(0, host);
    await once(server, 'listening');
    ends.push(() => server.close());
    const line = await lineTo((server.address() as AddressInfo).port);
    expect(await line.read(ask, never)).toMatchObject({ outcome: 'values', values: [4711, 65_535, 1] });
    expect(await line.read({ unit: 1, table: 'coil', first: 0, count: 10 }, never)).toMatchObject({
      outcome: 'values',
      values: [1, 0, 1, 0, 0, 0, 0, 0, 0, 1],
    });
  });

  it('is answered by ours as somebody else’s client expects', async () => {
    const { port } = await device();
    const socket = connect({ host, port });
    const client = new independentClient.TCP(socket, 1);
    await once(socket, 'connect');
    ends.push(() => socket.destroy());
    const { response } = await client.readHoldingRegisters(10, 3);
    expect(response.body.valuesAsArray).toEqual([30, 33, 36]);
    await expect(client.readInputRegisters(299, 2)).rejects.toMatchObject({ err: 'ModbusException' });
    await expect(client.writeSingleRegister(1, 5)).rejects.toMatchObject({ err: 'ModbusException' });
  });

  it.each<[DeviceFault, object]>([
    ['cut-off', { outcome: 'closed', received: 7 }],
    ['too-long', { outcome: 'malformed', why: expect.stringContaining('where 6 belong') }],
    ['other-transaction', { outcome: 'other-transaction' }],
    ['other-protocol', { outcome: 'foreign', firstBytesHex: '5353482d322e302d70616e656c0d0a' }],
    ['dripping', { outcome: 'silent', received: 1 }],
    ['mute', { outcome: 'silent', received: 0 }],
  ])('to one that is %s says so, in time, and is ended', async (fault, told) => {
    const line = await lineTo((await device({ fault })).port, 1500);
    const asked = await line.read(ask, never);
    expect(asked).toMatchObject(told);
    expect(line.isOpen).toBe(false);
    expect(await line.read(ask, never)).toMatchObject({ outcome: 'closed' });
  });

  it('that is broken off after an answer has its answer, and then none', async () => {
    const line = await lineTo((await device({ fault: 'resets-after' })).port);
    expect(await line.read(ask, never)).toMatchObject({ outcome: 'values' });
    await new Promise((resolve) => setTimeout(resolve, 100));
    expect(await line.read(ask, never)).toMatchObject({ outcome: 'reset' });
  });

  it('tells every exception by its number', async () => {
    const line = await lineTo((await device({ fault: 'exceptions' })).port);
    const codes = [];
    for (let count = 0; count < 9; count += 1) {
      const asked = await line.read(ask, never);
      codes.push(asked.outcome === 'exception' ? asked.code : asked.outcome);
    }
    expect(codes).toEqual([1, 2, 3, 4, 5, 6, 8, 10, 11]);
  });

  it('to a device that takes one is broken off where there is one', async () => {
    const { port } = await device({ mostConnections: 1 });
    const first = await lineTo(port);
    expect(await first.read(ask, never)).toMatchObject({ outcome: 'values' });
    // It may be broken off before we know that it was open.
    const second = await lineTo(port).then(
      (line) => line.read(ask, never).then(({ outcome }) => outcome),
      ({ code }: NodeJS.ErrnoException) => code,
    );
    expect(second).toMatch(/^(reset|closed|ECONNRESET)$/);
    expect(await first.read(ask, never)).toMatchObject({ outcome: 'values' });
  });

  it('to another unit is silent, or a gateway says that nobody is there', async () => {
    const one = await device({ units: [3] });
    expect(await (await lineTo(one.port, 300)).read(ask, never)).toMatchObject({ outcome: 'silent' });
    one.shape = { ...one.shape, otherUnits: 'exception' };
    const line = await lineTo(one.port);
    expect(await line.read(ask, never)).toMatchObject({ outcome: 'exception', code: 11 });
    expect(await line.read({ ...ask, unit: 3 }, never)).toMatchObject({ outcome: 'values' });
  });

  it('stops when it is told to', async () => {
    const line = await lineTo((await device({ fault: 'mute' })).port, 60_000);
    const stop = new AbortController();
    const asked = line.read(ask, stop.signal);
    stop.abort();
    expect(await asked).toMatchObject({ outcome: 'cancelled' });
  });

  it('does not listen to one that sends on and on', async () => {
    const server = createServer((socket) => {
      const flood = (): void => {
        while (socket.write(Buffer.alloc(65_536)));
      };
      socket.on('drain', flood).on('error', () => undefined);
      flood();
    });
    server.listen(0, host);
    await once(server, 'listening');
    ends.push(() => server.close());
    const asked = await (await lineTo((server.address() as AddressInfo).port, 500)).read(ask, never);
    // Noughts only: a frame of no length.
    expect(asked).toMatchObject({ outcome: 'foreign' });
  });
});

describe('a run of places', () => {
  const wish = { unit: 1, table: 'holding', first: 0, count: 300, pauseMs: 0 } as const;

  it('is read in parts that the protocol allows', async () => {
    const one = await device();
    const told = await readPlaces(await lineTo(one.port), wish, never);
    expect(told).toMatchObject({ stopped: null, refused: [], requests: 3 });
    expect(told.places).toEqual(Array.from({ length: 300 }, (_, place) => place * 3));
    const small = await readPlaces(await lineTo(one.port), { ...wish, count: 20, atOnce: 8 }, never);
    expect(small.requests).toBe(3);
  });

  it('is found in what the device has of it', async () => {
    const has = (place: number): boolean => (place >= 40 && place < 60) || place === 200;
    const one = await device({ at: (_, place) => (has(place) ? place : null) });
    const { places, refused, requests } = await readPlaces(await lineTo(one.port), wish, never);
    expect(places.flatMap((word, place) => (word === null ? [] : [place]))).toEqual(
      Array.from({ length: 300 }, (_, place) => place).filter(has),
    );
    expect(refused.every(({ code }) => code === 2)).toBe(true);
    expect(requests).toBe(one.requests);
  });

  it('never asks a device more than four hundred times', async () => {
    const one = await device({ at: (_, place) => (place % 2 === 0 ? place : null) });
    const { requests } = await readPlaces(await lineTo(one.port), { ...wish, count: 2000 }, never);
    expect(requests).toBe(400);
    expect(one.requests).toBe(400);
  });

  it('ends where the device does not answer, and says what was read', async () => {
    const one = await device({ fault: 'resets-after' });
    const { places, stopped } = await readPlaces(await lineTo(one.port), { ...wish, pauseMs: 60 }, never);
    expect(stopped).toMatchObject({ outcome: 'reset' });
    expect(places.slice(0, 125)).not.toContain(null);
    expect(places.slice(125)).toEqual(new Array(175).fill(null));
  });
});
