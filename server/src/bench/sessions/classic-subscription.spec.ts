import { ComFailure, RpcProblem } from '@loyal-hinge/classic';
import type { DataChange, HeldServer, ItemValue } from '@loyal-hinge/classic';
import type { ReadValue } from '../../ua/read-value.js';
import type { BenchItem } from './bench-session.js';
import { ClassicSubscription } from './classic-subscription.js';

const value = (number: number): ItemValue => ({
  value: { type: 'r8', value: number },
  quality: 0xc0,
  error: 0,
  timestamp: 0,
});
const change = (...told: readonly (readonly [key: number, value: number])[]) =>
  ({
    clientHandles: told.map(([key]) => key),
    values: told.map(([, number]) => ({ type: 'r8', value: number })),
    qualities: told.map(() => 0xc0),
    timestamps: told.map(() => 0),
    errors: told.map(() => 0),
  }) as unknown as DataChange;

/** A server whose group keeps a rate of 1 s at least, and knows all items but `none`. */
function madeUp({ advise = null, group: failure = null }: { advise?: Error | null; group?: Error | null } = {}) {
  const done: string[] = [];
  const now = new Map<number, number>();
  let call: (change: DataChange) => void = () => undefined;
  const group = {
    revisedUpdateRateMs: 1000,
    add: (items: readonly { itemId: string; clientHandle: number }[]) =>
      Promise.resolve(
        items.map(({ itemId, clientHandle }) =>
          itemId === 'none'
            ? { itemId, error: 0xc0040007 }
            : { itemId, error: null, serverHandle: 100 + clientHandle, type: 5, accessRights: 1 },
        ),
      ),
    remove: (handles: readonly number[]) => Promise.resolve(void done.push(`removed ${handles.join()}`)),
    read: (handles: readonly number[]) => Promise.resolve(handles.map((handle) => value(now.get(handle - 100) ?? 0))),
    release: () => Promise.resolve(void done.push('released')),
  };
  const held = {
    server: {
      addGroup: (_: string, rateMs: number) => {
        done.push(`group of ${rateMs}`);
        return failure ? Promise.reject(failure) : Promise.resolve(group);
      },
    },
    watch: (_: unknown, changed: typeof call) => {
      call = changed;
      return advise ? Promise.reject(advise) : Promise.resolve(() => Promise.resolve(void done.push('unadvised')));
    },
  };
  const heard: (readonly [key: number, value: string | null])[] = [];
  const revised: boolean[] = [];
  const subscription = new ClassicSubscription(held as unknown as HeldServer, 1000, {
    changed: (key: number, read: ReadValue) => void heard.push([key, read.value]),
    revised: (items: readonly BenchItem[]) => void revised.push(...items.map(({ isTold }) => isTold)),
  });
  return { subscription, done, now, heard, revised, call: (told: DataChange) => call(told) };
}
const wish = (key: number, nodeId = `Item${key}`) => ({ key, nodeId });

describe('a classic group on the bench', () => {
  beforeEach(() => void jest.useFakeTimers());
  afterEach(() => void jest.useRealTimers());

  it('is added once at the quicker of both rates, and tells each item how it stands', async () => {
    const { subscription, done } = madeUp();
    expect(await subscription.add([wish(1), wish(2, 'none')], 250)).toMatchObject([
      { key: 1, code: 'Good', revisedSamplingIntervalMs: 1000, isTold: true },
      { key: 2, code: 'Bad: 0xc0040007, there is no such item' },
    ]);
    await subscription.add([wish(3)], 250);
    expect(done).toEqual(['group of 250']);
    await subscription.remove([3, 2, 9]);
    await subscription.remove([]);
    await subscription.end();
    expect(done).toEqual(['group of 250', 'removed 103', 'unadvised', 'released']);
  });

  it('hears what the server tells of items that are watched, and asks for nothing', async () => {
    const { subscription, heard, revised, call } = madeUp();
    await subscription.add([wish(1)], 1000);
    call(change([1, 4], [7, 9]));
    await jest.advanceTimersByTimeAsync(20_000);
    expect(heard).toEqual([[1, '4']]);
    expect(revised).toEqual([]);
  });

  it('is asked where no call comes in three periods, tells only what is new, and stops once a call comes', async () => {
    const { subscription, now, heard, revised, call } = madeUp();
    await subscription.add([wish(1)], 1000);
    await jest.advanceTimersByTimeAsync(2900);
    expect([heard, revised]).toEqual([[], []]);
    await jest.advanceTimersByTimeAsync(2200);
    now.set(1, 5);
    await jest.advanceTimersByTimeAsync(2000);
    expect(heard).toEqual([
      [1, '0'],
      [1, '5'],
    ]);
    call(change([1, 6]));
    now.set(1, 8);
    await jest.advanceTimersByTimeAsync(10_000);
    expect(heard.at(-1)).toEqual([1, '6']);
    expect(revised).toEqual([false, true]);
  });

  it('is asked at once where the server says that it can’t come back', async () => {
    const { subscription, heard } = madeUp({ advise: new ComFailure(0x80040202) });
    expect(await subscription.add([wish(1)], 1000)).toMatchObject([{ isTold: false }]);
    await jest.advanceTimersByTimeAsync(0);
    expect(heard).toEqual([[1, '0']]);
    await subscription.end();
    await jest.advanceTimersByTimeAsync(5000);
    expect(heard).toHaveLength(1);
  });

  it('waits for no call as long as none of its items can be told', async () => {
    const { subscription, revised } = madeUp();
    await subscription.add([wish(1, 'none')], 1000);
    await jest.advanceTimersByTimeAsync(10_000);
    expect(revised).toEqual([]);
    await subscription.add([wish(2)], 1000);
    await jest.advanceTimersByTimeAsync(3100);
    expect(revised).toEqual([false]);
  });

  it('says in words why it could not be had, and lets a mistake of ours be one', async () => {
    const why = (group: Error) => madeUp({ group }).subscription.add([wish(1)], 1000);
    await expect(why(new ComFailure(0x80070005))).rejects.toThrow('The server answered: 0x80070005, access is denied.');
    await expect(why(new RpcProblem('silent', 'Nothing answers.'))).rejects.toThrow('Nothing answers.');
    await expect(why(new TypeError('ours'))).rejects.toThrow(TypeError);
  });
});
