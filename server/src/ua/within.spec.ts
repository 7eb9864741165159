import { connect, createServer } from 'node:net';
import type { AddressInfo } from 'node:net';
import { within } from './within';

const idle = new AbortController().signal;

describe('a call within its time', () => {
  it('gives what it came to, or why it failed', async () => {
    expect(await within(1000, idle, Promise.resolve(7))).toBe(7);
    await expect(within(1000, idle, Promise.reject(new Error('no such node')))).rejects.toThrow('no such node');
  });

  it('ends when its time is over, or when it is cancelled', async () => {
    const never = new Promise<never>(() => undefined);
    await expect(within(5, idle, never)).rejects.toThrow('timed out after 5 ms');
    const stop = new AbortController();
    const ended = within(60_000, stop.signal, never);
    stop.abort(new Error('the page was left'));
    await expect(ended).rejects.toThrow('the page was left');
    await expect(within(60_000, stop.signal, never)).rejects.toThrow('the page was left');
  });

  it('hears what had come while this process stood still', async () => {
    const server = createServer().listen(0, '127.0.0.1');
    await new Promise((listening) => server.once('listening', listening));
    await new Promise((turn) => setImmediate(turn));
    const socket = connect((server.address() as AddressInfo).port, '127.0.0.1');
    const answer = within(50, idle, new Promise((open) => socket.once('connect', () => open('open'))));
    Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 200);
    expect(await answer).toBe('open');
    socket.destroy();
    server.close();
  });
});
