import type { FactBody, FactOf, Machine } from '@loyal-hinge/core';
import { compareOrigin } from '@loyal-hinge/core/field';
import type { ItemOrigin } from '@loyal-hinge/core/field';
import { FieldDevice } from '@loyal-hinge/field';
import type { DeviceShape } from '@loyal-hinge/field';
import { subject } from '../../../../core/src/testing/builders.js';
import { usualLimits } from '../means.js';
import type { CheckLog, CheckMeans } from '../means.js';
import { Walk } from '../walk.js';
import { DeviceVisit } from './device-visit';
import type { ReadServed } from './device-visit';
import type { KnownOrigin } from './means.js';

const own: Machine = {
  id: 'scale',
  zoneId: 'hot-end',
  name: 'Cullet scale',
  description: '',
  hostNames: [],
  addresses: ['127.0.0.1'],
};
/** Places 0 to 99 hold a hundred more than their numbers. */
const hundred: DeviceShape['at'] = (table, place) => (table === 'holding' && place < 100 ? 100 + place : null);

interface Wish {
  readonly shape?: Partial<DeviceShape>;
  readonly machine?: Partial<Machine>;
  readonly ranges?: readonly string[];
  readonly origin?: Partial<ItemOrigin>;
  readonly known?: Partial<KnownOrigin>;
  readonly served?: ReadServed;
  readonly staleAfterMs?: number;
  readonly port?: number;
}

/** Visits a device that stands on loopback, and tells what was noted. */
async function visited(wish: Wish = {}) {
  const device = await FieldDevice.start('127.0.0.1', 0, { at: hundred, ...wish.shape });
  const noted: FactBody[] = [];
  const steps: string[] = [];
  const log = {
    begin: (step: string) => steps.push(step),
    note: (body: FactBody, source: string) => void noted.push(Object.assign({ source }, body)),
  } as unknown as CheckLog;
  const means = {
    nameServer: null,
    declaredRanges: wish.ranges ?? ['127.0.0.0/8'],
    dialFromClientAddress: false,
    devicePauseMs: 1,
    limits: { ...usualLimits, helloMs: 300 },
  } as unknown as CheckMeans;
  const known = {
    path: 'Cullet/Weight',
    origin: {
      deviceId: 'scale',
      port: wish.port ?? device.port,
      unit: 1,
      table: 'holding',
      address: '40006',
      convention: 'from-1-with-digit',
      form: { type: 'uint16', order: 'high-first', scale: 1, offset: 0, bits: null },
      within: null,
      ...wish.origin,
    },
    device: own,
    stoppedBy: [],
    before: null,
    ...wish.known,
  } as unknown as KnownOrigin;
  const link = subject({ staleAfterMs: wish.staleAfterMs ?? 60_000 });
  const walk = new Walk(link, means, log, new AbortController().signal, true);
  const served = wish.served ?? ((paths) => Promise.resolve(paths.map(() => 105)));
  try {
    await new DeviceVisit(walk, { ...own, ...wish.machine }, [known], served).make();
  } finally {
    await device.stop();
  }
  const of = <Kind extends FactBody['kind']>(kind: Kind) =>
    noted.filter((body) => body.kind === kind) as FactOf<Kind>[];
  return { noted, steps, of, device };
}

/** The register moves with each request; the server goes on once it was read so often. */
function movingUnder(readsUntilItMoves: number) {
  let [turn, reads] = [0, 0];
  const at: DeviceShape['at'] = (_, place) => (place === 5 ? (turn += 1) : 0);
  const served: ReadServed = () => Promise.resolve([(reads += 1) > readsUntilItMoves ? turn : 1]);
  return { shape: { at }, served, reads: () => reads };
}

/** A register that rises with each request, and a server that gives what it said so many requests before. */
function laggingBy(requests: number) {
  let turn = 0;
  const at: DeviceShape['at'] = (_, place) => (place === 5 ? 100 + 10 * (turn += 1) : 0);
  const served: ReadServed = () => Promise.resolve([100 + 10 * (turn - requests)]);
  return { shape: { at }, served };
}

const held = movingUnder(7);
const slow = movingUnder(Number.MAX_SAFE_INTEGER);
const wishes = {
  well: {},
  again: { known: { before: { words: [105], since: '2026-01-01T00:00:00.000Z', checks: 4 } } },
  changed: { known: { before: { words: [104], since: '2026-01-01T00:00:00.000Z', checks: 4 } } },
  narrow: { shape: { at: (_: string, place: number) => (place >= 4 && place <= 6 ? 100 + place : null) } },
  absent: { origin: { address: '40201' } },
  mute: { shape: { fault: 'mute' } },
  parting: { shape: { fault: 'resets-after' } },
  beyond: { ranges: ['10.0.0.0/8'] },
  nowhere: { machine: { addresses: [] } },
  refused: { port: 1, known: { stoppedBy: [{ id: 'process', name: 'Process firewall', rule: 'drop' }] } },
  lagging: laggingBy(4),
  apart: { served: () => Promise.resolve([999]) },
  held: { ...held, staleAfterMs: 15_000 },
  slow: { ...slow, staleAfterMs: 60_000 },
} as unknown as Readonly<Record<string, Wish>>;

type Visit = Awaited<ReturnType<typeof visited>>;
/** Each takes some seconds of waiting, so they are made side by side. */
let visits: Readonly<Record<string, Visit>> = {};
beforeAll(async () => {
  visits = Object.fromEntries(
    await Promise.all(Object.entries(wishes).map(async ([name, wish]) => [name, await visited(wish)] as const)),
  );
}, 60_000);
const visit = (name: string): Visit => {
  const found = visits[name];
  if (!found) throw new Error(`no visit ${name}`);
  return found;
};

describe('a visit to a device', () => {
  it('tells its name, its port, its answer, and what the server says beside it, five times', () => {
    const { of, steps, device } = visit('well');
    expect(steps).toEqual(['device-name', 'device-reach', 'device-answers', 'origin-value']);
    expect(of('field-name')).toMatchObject([{ device: 'Cullet scale', addresses: ['127.0.0.1'], source: 'reported' }]);
    expect(of('field-reach')).toMatchObject([{ outcome: 'open', stoppedBy: [] }]);
    expect(of('field-answer')).toMatchObject([{ outcome: 'values', first: 2, count: 7, unit: 1 }]);
    const [compared] = of('field-compared');
    expect(compared?.samples).toHaveLength(5);
    expect(compared?.samples[0]).toMatchObject({ value: 105, words: [102, 103, 104, 105, 106, 107, 108] });
    expect(device.connections).toBe(1);
  });

  it('tells since when a register has said the same, from check to check', () => {
    expect(visit('well').of('field-unmoved')).toMatchObject([{ checks: 1, source: 'reckoned' }]);
    expect(visit('again').of('field-unmoved')).toMatchObject([{ checks: 5, since: '2026-01-01T00:00:00.000Z' }]);
    expect(visit('changed').of('field-unmoved')).toMatchObject([{ checks: 1 }]);
    expect(visit('held').of('field-unmoved')).toEqual([]);
  });

  it('reads as many places beside an item’s own as the device has', () => {
    expect(visit('narrow').of('field-answer')).toMatchObject([{ outcome: 'values', first: 4, count: 3 }]);
    expect(visit('narrow').of('field-compared')[0]?.samples[0]?.words).toEqual([104, 105, 106]);
  });

  it('tells the exception of a register that there is none of, and asks for it no more', () => {
    const { of, device } = visit('absent');
    expect(of('field-answer')).toMatchObject([{ outcome: 'exception', code: 2, first: 200, count: 1 }]);
    expect(of('field-compared')).toEqual([]);
    expect(device.requests).toBe(2);
  });

  it('tells of a device that takes the connection and says nothing', () => {
    const { of } = visit('mute');
    expect(of('field-reach')).toMatchObject([{ outcome: 'open' }]);
    expect(of('field-answer')).toMatchObject([{ outcome: 'silent', code: null }]);
    expect(of('field-compared')).toEqual([]);
  });

  it('dials anew where a device ends the connection after each answer', () => {
    const { of, device } = visit('parting');
    expect(of('field-compared')[0]?.samples).toHaveLength(5);
    expect(device.connections).toBe(5);
  });

  it('never dials outside the declared ranges', () => {
    const { of, device } = visit('beyond');
    expect(of('field-reach')).toMatchObject([{ outcome: 'withheld' }]);
    expect([of('field-answer'), device.connections]).toEqual([[], 0]);
  });

  it('ends where there is neither an address nor a name', () => {
    const { of, steps } = visit('nowhere');
    expect(of('field-name')).toMatchObject([{ addresses: [], failure: 'the plant has neither.' }]);
    expect(steps).toEqual(['device-name']);
  });

  it('names the rules that stop the server’s way where nobody answers at the port', () => {
    expect(visit('refused').of('field-reach')).toMatchObject([
      { outcome: 'refused', port: 1, stoppedBy: [{ name: 'Process firewall' }] },
    ]);
  });

  it('looks on where the two differ: what a server gave at first may be older than the first look', () => {
    const samplesOf = (name: string) => visit(name).of('field-compared')[0]?.samples ?? [];
    const compared = (name: string, count: number) =>
      compareOrigin({
        first: 2,
        place: 5,
        form: { type: 'uint16', order: 'high-first', scale: 1, offset: 0, bits: null },
        within: null,
        samples: samplesOf(name).slice(0, count),
      }).outcome;
    expect([compared('lagging', 5), samplesOf('lagging').length, compared('lagging', 10)]).toEqual([
      'differs',
      10,
      'agrees',
    ]);
    expect([samplesOf('apart').length, compared('apart', 12)]).toEqual([12, 'differs']);
  });

  it('looks on until a held value goes on, where the link’s age limit is short', () => {
    const samples = visit('held').of('field-compared')[0]?.samples ?? [];
    expect(samples.length).toBeGreaterThan(5);
    expect(samples.slice(0, 7).every(({ value }) => value === 1)).toBe(true);
    expect(samples.at(-1)?.value).not.toBe(1);
  });

  it('leaves a longer age limit to the value’s own age', () => {
    expect(visit('slow').of('field-compared')[0]?.samples).toHaveLength(5);
  });
});
