import type { RegisterSearchWish } from '@loyal-hinge/contract';
import type { FieldSample } from '@loyal-hinge/core/field';
import { FieldDevice } from '@loyal-hinge/field';
import { reachDevice } from '../../probe/field/reach.js';
import type { DeviceShape } from '@loyal-hinge/field';
import type { BenchSession } from '../../bench/sessions/bench-session.js';
import { sampleSideBySide } from './side-by-side';

type Reading = Awaited<ReturnType<BenchSession['read']>>;
const reading = (differs: Partial<Reading>): Reading =>
  ({ code: 'Good', number: null, value: '', dataType: 'Double', ...differs }) as Reading;

interface Given {
  readonly shape?: Partial<DeviceShape>;
  readonly wish?: Partial<RegisterSearchWish>;
  readonly values?: (turn: number) => Partial<Reading>;
  /** What happens before a round is read at the server. */
  readonly amid?: (turn: number, device: FieldDevice) => void | Promise<void>;
  readonly signal?: AbortSignal;
}

/** Samples an item beside places 0 to 5 of a device on loopback, as quickly as it goes. */
async function sampled({ shape, wish, values, amid, signal }: Given = {}) {
  const at: DeviceShape['at'] = (_, place) => (place < 6 ? 10 + place : null);
  const device = await FieldDevice.start('127.0.0.1', 0, { at, ...shape });
  const rounds: (FieldSample | null)[] = [];
  let turn = 0;
  const session = {
    read: async () => {
      turn += 1;
      await amid?.(turn, device);
      return reading(values?.(turn) ?? { number: 40 + turn });
    },
  } as unknown as BenchSession;
  const whole: RegisterSearchWish = {
    path: 'Cullet/Weight',
    deviceId: 'scale',
    port: device.port,
    unit: 1,
    table: 'holding',
    first: 0,
    count: 6,
    samples: 5,
    everyMs: 1,
    ...wish,
  };
  const nobody = { open: () => Promise.resolve('Nobody else reads it.') };
  const dial = (ms: number) => {
    const to = { name: 'Cullet scale', address: '127.0.0.1', port: whole.port, connectMs: ms, answerMs: ms };
    return reachDevice(nobody, null, to, signal ?? new AbortController().signal);
  };
  try {
    const why = await sampleSideBySide(
      whole,
      { session, nodeId: 'ns=1;i=1', device: { name: 'Cullet scale', pauseMs: 1, dial } },
      (taken, sample) => {
        expect(taken).toBe(rounds.length + 1);
        rounds.push(sample);
        return Promise.resolve();
      },
      signal ?? new AbortController().signal,
    );
    return { why, rounds, device };
  } finally {
    await device.stop();
  }
}

describe('a value beside the registers of a device', () => {
  it('is read round after round, over one connection', async () => {
    const { why, rounds, device } = await sampled();
    expect(why).toBeNull();
    expect(rounds).toEqual([41, 42, 43, 44, 45].map((value) => ({ value, places: [10, 11, 12, 13, 14, 15] })));
    expect(device.connections).toBe(1);
  });

  it('asks no more for places that the device does not have, be they at an end or between', async () => {
    const asked = new Set<string>();
    let isFirst = true;
    const { rounds } = await sampled({
      shape: {
        at: (_, place) => {
          if (!isFirst) asked.add(String(place));
          return place === 1 || place === 4 || place === 5 ? place : null;
        },
      },
      amid: () => void (isFirst = false),
    });
    expect(rounds.map((sample) => sample?.places)).toEqual(
      Array.from({ length: 5 }, () => [null, 1, null, null, 4, 5]),
    );
    expect([...asked].sort()).toEqual(['1', '4', '5']);
  });

  it('learns what the device has at the first round that it answers', async () => {
    let requests = 0;
    const { rounds } = await sampled({
      shape: { fault: 'cut-off', at: (_, place) => (place < 3 ? place : null) },
      amid: (turn, device) => {
        if (turn === 1) device.shape = { at: device.shape.at };
        if (turn === 4) requests = device.requests;
        if (turn === 5) requests = device.requests - requests;
      },
    });
    expect(rounds[0]).toBeNull();
    expect(rounds[1]?.places).toEqual([0, 1, 2, null, null, null]);
    expect(requests).toBe(1);
  });

  it('is left out of a round in which the server has no good value, or none that can be compared', async () => {
    const { rounds } = await sampled({
      values: (turn) =>
        [
          { code: 'BadNoCommunication', number: 7 },
          { number: null, value: 'on', dataType: 'String' },
          { value: 'true', dataType: 'Boolean' },
          { value: 'false', dataType: 'BOOL' },
          { code: 'UncertainLastUsableValue', number: 3 },
        ][turn - 1] ?? {},
    });
    expect(rounds.map((sample) => sample?.value ?? null)).toEqual([null, null, true, false, 3]);
  });

  it('says where the device has none of the places', async () => {
    const { why, rounds } = await sampled({ shape: { at: () => null } });
    expect([why, rounds]).toEqual(['Cullet scale has none of these places: it refused all of them.', []]);
  });

  it('goes on after a failure, and dials anew', async () => {
    const { why, rounds, device } = await sampled({
      amid: (turn, it) => {
        if (turn === 2) it.shape = { ...it.shape, fault: 'cut-off' };
        if (turn === 3) it.shape = { at: it.shape.at };
      },
    });
    expect(why).toBeNull();
    expect(rounds.map((sample) => sample !== null)).toEqual([true, true, false, true, true]);
    expect(device.connections).toBeGreaterThan(1);
  });

  it('gives up a device that fails three times in a row, and says how', async () => {
    const { why, rounds } = await sampled({ shape: { fault: 'cut-off' } });
    expect(rounds).toEqual([null, null]);
    expect(why).toMatch(/\w.*\.$/);
    const closed = await sampled({ wish: { port: 1 } });
    expect([closed.why, closed.rounds.length]).toEqual(['Cullet scale, 127.0.0.1 port 1: refused.', 2]);
  });

  it('ends when it is told to', async () => {
    const stop = new AbortController();
    const ended = sampled({ amid: (turn) => (turn === 2 ? stop.abort() : undefined), signal: stop.signal });
    await expect(ended).rejects.toThrow(/abort/i);
  });
});
