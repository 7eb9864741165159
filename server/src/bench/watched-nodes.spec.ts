import type { BenchChange } from '@loyal-hinge/contract';
import type { ReadValue } from '../ua/read-value.js';
import type { ItemToWatch } from '../ua/subscription.js';
import { changeOf } from './answers.js';
import { Heard } from './heard.js';
import { LiveSession } from './live-session.js';
import type { BenchSession, WatchedHearer } from './sessions/bench-session.js';
import { WatchedNodes } from './watched-nodes.js';

const read = (number: number, differs: Partial<ReadValue> = {}): ReadValue => ({
  code: 'Good',
  value: String(number),
  number,
  dataType: 'Double',
  sourceTimestamp: null,
  serverTimestamp: null,
  ...differs,
});

/** A session that keeps its subscriptions, and what was done to them. */
function madeUpSession() {
  const subscriptions: { everyMs: number; hearer: WatchedHearer; items: Map<number, string>; isEnded: boolean }[] = [];
  let lose: () => void = () => undefined;
  const session = {
    ended: new Promise<void>((resolve) => (lose = resolve)),
    serverTime: () => Promise.resolve(null),
    subscribe: (everyMs: number, hearer: WatchedHearer) => {
      const one = { everyMs, hearer, items: new Map<number, string>(), isEnded: false };
      subscriptions.push(one);
      return Promise.resolve({
        add: (wished: readonly ItemToWatch[], samplingIntervalMs: number) => {
          for (const { key, nodeId } of wished) one.items.set(key, nodeId);
          return Promise.resolve(
            wished.map((wish) => ({
              ...wish,
              code: wish.nodeId === 'none' ? 'BadNodeIdUnknown' : 'Good',
              revisedSamplingIntervalMs: samplingIntervalMs,
              revisedPublishingIntervalMs: everyMs,
              isTold: true,
            })),
          );
        },
        remove: (keys: readonly number[]) => {
          for (const key of keys) one.items.delete(key);
          return Promise.resolve();
        },
        end: () => {
          one.isEnded = true;
          return Promise.resolve();
        },
      });
    },
  };
  return { session: session as unknown as BenchSession, subscriptions, lose };
}

/** Watched nodes of a bench whose sessions are these, one after the other. */
async function watchedIn(...sessions: readonly BenchSession[]) {
  const ended = new AbortController();
  const live = new LiveSession(ended.signal, { pingMs: 60_000, firstWaitMs: 1, longestWaitMs: 1, patienceMs: 60_000 });
  const left = [...sessions];
  void live.hold(async (use) => {
    const session = left.shift();
    if (!session) return 'There is none.';
    await use(session);
    return null;
  });
  await live.first;
  const watched = new WatchedNodes(live, () => undefined);
  await watched.begin();
  const heard = new Heard('b1');
  watched.hear(heard);
  return { watched, heard, end: () => ended.abort() };
}

describe('nodes that are watched', () => {
  it('are told by their slots before anything comes of them, with what the server made of the intervals', async () => {
    const { session, subscriptions } = madeUpSession();
    const { watched, heard, end } = await watchedIn(session);
    heard.take();
    await watched.watch({ nodeIds: ['a', 'none'], everyMs: 250 });
    subscriptions[0]?.hearer.changed(0, read(7), true);
    expect(heard.take()).toMatchObject({
      slots: [
        { slot: 0, nodeId: 'a' },
        { slot: 1, nodeId: 'none' },
      ],
      watching: [
        { slot: 0, revisedSamplingIntervalMs: 250, revisedPublishingIntervalMs: 250 },
        { slot: 1, revisedSamplingIntervalMs: 250, revisedPublishingIntervalMs: 250 },
      ],
      changes: [
        [1, null, null, null, 'BadNodeIdUnknown'],
        [0, 7, null, null],
      ],
      came: 2,
      overflown: 1,
    });
    end();
  });

  it('come and go without the others being begun anew; another interval begins all of them', async () => {
    const { session, subscriptions } = madeUpSession();
    const { watched, heard, end } = await watchedIn(session);
    await watched.watch({ nodeIds: ['a', 'b'], everyMs: 250 });
    await watched.watch({ nodeIds: ['b', 'c'], everyMs: 250 });
    expect(subscriptions.map(({ items }) => [...items])).toEqual([
      [
        [1, 'b'],
        [2, 'c'],
      ],
    ]);
    heard.take();
    // What is still on its way of a node that was let go is heard by nobody.
    subscriptions[0]?.hearer.changed(0, read(1), false);
    expect(heard.take().changes).toEqual([]);
    await watched.watch({ nodeIds: ['b', 'c'], everyMs: 1000 });
    expect(subscriptions.map(({ everyMs, isEnded, items }) => [everyMs, isEnded, items.size])).toEqual([
      [250, true, 2],
      [1000, false, 2],
    ]);
    await watched.watch({ nodeIds: [], everyMs: 1000 });
    expect(subscriptions[1]?.items.size).toBe(0);
    end();
  });

  it('that are chosen just as another session takes the place are begun there, with all others', async () => {
    const [one, other] = [madeUpSession(), madeUpSession()];
    const live = {
      session: one.session,
      state: { isLost: false, at: '', says: '' },
      inEach: () => Promise.resolve(() => undefined),
    };
    const watched = new WatchedNodes(live, () => undefined);
    await watched.watch({ nodeIds: ['a'], everyMs: 250 });
    live.session = other.session;
    await watched.watch({ nodeIds: ['a', 'b'], everyMs: 250 });
    expect([...(other.subscriptions[0]?.items.values() ?? [])]).toEqual(['a', 'b']);
    expect([...(one.subscriptions[0]?.items.values() ?? [])]).toEqual(['a']);
  });

  it('are watched in the next session, too, and who listens later hears their newest values', async () => {
    const [one, other] = [madeUpSession(), madeUpSession()];
    const { watched, end } = await watchedIn(one.session, other.session);
    await watched.watch({ nodeIds: ['a', 'b'], everyMs: 500 });
    one.subscriptions[0]?.hearer.changed(1, read(3), false);
    one.lose();
    while (other.subscriptions.length === 0) await new Promise((resolve) => setImmediate(resolve));
    expect([...(other.subscriptions[0]?.items.values() ?? [])]).toEqual(['a', 'b']);
    const late = new Heard('b1');
    const stop = watched.hear(late);
    expect(late.take()).toMatchObject({
      slots: [
        { slot: 0, nodeId: 'a' },
        { slot: 1, nodeId: 'b' },
      ],
      changes: [[1, 3, null, null]],
      session: { isLost: false },
    });
    stop();
    other.subscriptions[0]?.hearer.changed(1, read(4), false);
    expect(late.isEmpty).toBe(true);
    end();
  });
});

describe('a change', () => {
  it.each<[ReadValue, BenchChange]>([
    [read(0.1), [4, 0.1, null, null]],
    [read(1, { sourceTimestamp: '1970-01-01T00:00:01.000Z' }), [4, 1, 1000, null]],
    [read(1, { code: 'UncertainLastUsableValue' }), [4, 1, null, null, 'UncertainLastUsableValue']],
    [read(1, { value: 'true', number: null }), [4, 'true', null, null]],
    [read(NaN), [4, 'NaN', null, null]],
    // A number of 64 bits that a double can’t hold.
    [read(9007199254740992, { value: '9007199254740993' }), [4, '9007199254740993', null, null, '', 9007199254740992]],
    [read(0, { value: null, number: null, code: 'BadNoData' }), [4, null, null, null, 'BadNoData']],
  ])('%j is told as %j', (value, told) => {
    expect(changeOf(4, value)).toEqual(told);
  });
});
