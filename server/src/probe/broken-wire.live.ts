import { readFileSync } from 'node:fs';
import { connect, createServer } from 'node:net';
import type { Server, Socket } from 'node:net';
import { join } from 'node:path';
import type { Link } from '@loyal-hinge/core';
import type { Check } from '@loyal-hinge/contract';
import type { Caller } from '../testing/calls.js';
import { signIn } from '../testing/calls.js';
import { given, inPlant, plantGiven } from '../testing/given.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

/** Numbers that are told, so that what failed once can be sent again. */
const seed = Date.now() % 1_000_000;
const rounds = Number(process.env['HINGE_FUZZ_ROUNDS'] ?? 5);
const linkIds = [
  'history--lehr',
  'energy--furnace',
  'quality--glass-lab',
  'maintenance--furnace',
  'history--inspection',
];

const own = ownServer('broken_wire');
const { plant } = plantGiven();
let engineer: Caller;
let isRunning: () => boolean;
beforeAll(async () => {
  await own.setUp();
  const { url, child } = await own.serve();
  isRunning = () => child.exitCode === null && child.signalCode === null;
  engineer = await signIn('engineer', url, ownPassword);
});
afterAll(() => own.remove());

/** A small generator of numbers below 2^32 (xorshift32). */
function numbers(from: number): (below: number) => number {
  let state = (from * 2_654_435_761 + 1) >>> 0 || 1;
  return (below) => {
    state ^= state << 13;
    state >>>= 0;
    state ^= state >>> 17;
    state ^= state << 5;
    state >>>= 0;
    return state % below;
  };
}

/** What becomes of the bytes that a server sends: as many kinds as a broken or hostile machine has. */
const breakings = ['flips', 'cut off', 'endless length', 'noise first', 'noise in between', 'silence'] as const;
type Breaking = (typeof breakings)[number] | 'evil words';

/** In the place of an application URI, as many bytes: a formula, a line break, what steers a terminal, markup, a NUL. */
const evilWords = '=1+1\r\nforged\u001b[2J<img src=x>\u0000';
const evilFor = (text: string): string => evilWords.padEnd(text.length, '!').slice(0, text.length);

/** Passes a connection on to a real server, and breaks what comes back from it. */
function relay(
  address: string,
  port: number,
  to: string,
  breaking: Breaking,
  next: (below: number) => number,
  said = '',
) {
  const sockets = new Set<Socket>();
  const server = createServer((near) => {
    const far = connect({ host: to, port });
    const end = (): void => void [near, far].forEach((socket) => socket.destroy());
    for (const socket of [near, far]) {
      sockets.add(socket);
      socket.on('error', end).on('close', end);
    }
    near.on('data', (bytes) => far.write(bytes));
    const begin = next(2) === 0 ? 0 : next(1500);
    let passed = 0;
    if (breaking === 'noise first') near.write(noise(next));
    far.on('data', (bytes) => {
      const broken = breaking === 'evil words' || passed + bytes.length > begin;
      passed += bytes.length;
      if (!broken) near.write(bytes);
      else if (breaking === 'silence') return;
      else if (breaking === 'cut off') near.end(bytes.subarray(0, next(bytes.length)));
      else if (breaking === 'evil words')
        near.write(Buffer.from(bytes.toString('latin1').replaceAll(said, evilFor(said)), 'latin1'));
      else near.write(changed(bytes, breaking, next));
    });
  });
  server.listen(port, address);
  return { server, sockets };
}

const noise = (next: (below: number) => number): Buffer =>
  Buffer.from(Array.from({ length: 1 + next(400) }, () => next(256)));

function changed(bytes: Buffer, breaking: Breaking, next: (below: number) => number): Buffer {
  const copy = Buffer.from(bytes);
  if (breaking === 'flips') for (let left = 1 + next(6); left > 0; left -= 1) copy[next(copy.length)] = next(256);
  if (breaking === 'endless length' && copy.length >= 8) copy.writeUInt32LE(0xffffffff - next(1000), 4);
  if (breaking === 'noise in between') return Buffer.concat([copy, noise(next)]);
  return copy;
}

const close = ({ server, sockets }: { server: Server; sockets: Set<Socket> }): Promise<void> =>
  new Promise((resolve) => {
    for (const socket of sockets) socket.destroy();
    server.close(() => resolve());
  });

async function checked(linkId: string): Promise<Check> {
  const { id } = await engineer.call('checkLink', { linkId }, {});
  const { check } = await until(
    () => engineer.call('check', { checkId: id }),
    ({ check: { endedAt } }) => endedAt !== null,
  );
  return check;
}

/** Points a link at a relay that breaks what comes back, and checks it. */
async function brokenly(
  linkId: string,
  index: number,
  round: number,
  breaking: Breaking = breakings[(index + round) % breakings.length] ?? 'flips',
): Promise<readonly [string, Check]> {
  const link = plant.links.find(({ id }) => id === linkId) as Link;
  const server = plant.applications.find(({ id }) => id === link.serverId);
  const port = server?.kind === 'server' ? (server.ports[0] ?? 4840) : 4840;
  const machine = plant.machines.find(({ id }) => id === server?.machineId);
  const next = numbers(seed + round * 100 + index);
  const address = inPlant(`97.${index + 1}`);
  const way = relay(address, port, machine?.addresses[0] ?? '', breaking, next, server?.applicationUri);
  try {
    await engineer.call('putLink', { id: linkId }, { ...link, pinnedAddress: address } as never);
    return [`seed ${seed}, round ${round}, ${linkId}: ${breaking}`, await checked(linkId)];
  } finally {
    await close(way);
    await engineer.call('putLink', { id: linkId }, link as never);
  }
}

describe('a wire that breaks what a server says', () => {
  it('ends each check with a finding, and leaves the server running', async () => {
    for (let round = 0; round < rounds; round += 1) {
      const found = await Promise.all(linkIds.map((linkId, index) => brokenly(linkId, index, round)));
      for (const [what, { state, reason }] of found) expect([what, state, reason]).toEqual([what, 'done', null]);
    }
    expect(isRunning()).toBe(true);
    const after = await Promise.all(linkIds.map((linkId) => checked(linkId)));
    expect(after.every(({ state, found }) => state === 'done' && found !== null)).toBe(true);
  });

  it('makes nothing of its words but words', async () => {
    const [, { id, state }] = await brokenly('energy--furnace', 1, rounds, 'evil words');
    expect(state).toBe('done');
    const told = JSON.stringify(await engineer.call('check', { checkId: id }));
    expect(told).toContain('=1+1\\r\\nforged\\u001b[2J<img src=x>');
    expect(told).not.toContain('\\u0000');
    const log = readFileSync(join(given('HINGE_TEST_DATA'), 'broken_wire.log'), 'utf8');
    expect(log).not.toMatch(/^forged|\u001b\[2J/m);
  });
});
