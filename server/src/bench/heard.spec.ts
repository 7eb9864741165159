import type { BenchChange } from '@loyal-hinge/contract';
import { Heard, HeardEvents, PageHeard } from './heard.js';

const change = (slot: number, value: number): BenchChange => [slot, value, null, null];
const event = (message: string) => ({ at: null, severity: 500, sourceName: 'Lehr', message });
const lost = { isLost: true, at: '2026-03-01T12:00:00.000Z', says: 'The server is away.' };

describe('what a page hears of its bench', () => {
  it('is each change, in the order in which they came, and told once', () => {
    const heard = new Heard('b1');
    expect(heard.isEmpty).toBe(true);
    heard.slots([{ slot: 0, nodeId: 'a' }]);
    heard.change(change(0, 1), false);
    heard.change(change(1, 5), true);
    heard.change(change(0, 2), false);
    expect(heard.isEmpty).toBe(false);
    expect(heard.take()).toEqual({
      benchId: 'b1',
      slots: [{ slot: 0, nodeId: 'a' }],
      watching: [],
      changes: [change(0, 1), change(1, 5), change(0, 2)],
      came: 3,
      thinned: 0,
      overflown: 1,
      session: null,
    });
    expect(heard.isEmpty).toBe(true);
    expect(heard.take()).toMatchObject({ slots: [], changes: [], came: 3, overflown: 1 });
  });

  it('is the newest of each node where too many wait, and says how many are left out', () => {
    const heard = new Heard('b1');
    const turns = 60_000;
    for (let turn = 0; turn < turns; turn += 1) heard.change(change(turn % 3, turn), false);
    const { changes, came, thinned } = heard.take();
    expect([came, changes.length + thinned]).toEqual([turns, turns]);
    expect(thinned).toBeGreaterThan(0);
    expect(changes.slice(-3).map(([, value]) => value)).toEqual([turns - 3, turns - 2, turns - 1]);
  });

  it('is how the session stands last, and the intervals that count now', () => {
    const heard = new Heard('b1');
    const intervals = (ms: number) => [
      { slot: 0, revisedSamplingIntervalMs: ms, revisedPublishingIntervalMs: ms, isTold: true },
    ];
    heard.turn(lost);
    heard.turn({ isLost: false, at: '2026-03-01T12:00:05.000Z', says: '' });
    heard.watching(intervals(100));
    heard.watching(intervals(1000));
    expect(heard.isEmpty).toBe(false);
    expect(heard.take()).toMatchObject({ watching: intervals(1000), session: { isLost: false } });
  });

  it('of several sessions comes in one message, which says at first which are there, and later which ended', () => {
    const heard = new PageHeard();
    const one = heard.begin('one');
    heard.begin('other');
    expect(heard.take()).toEqual({ here: ['one', 'other'], ended: [], unused: [], heard: [] });
    expect(heard.isEmpty).toBe(true);
    one.change(change(0, 1), false);
    heard.begin('third');
    heard.end('other', false);
    heard.end('other', false);
    heard.end('third', true);
    expect(heard.isEmpty).toBe(false);
    expect(heard.take()).toMatchObject({
      here: null,
      ended: ['other'],
      unused: ['third'],
      heard: [{ benchId: 'one', came: 1 }],
    });
    expect(heard.isEmpty).toBe(true);
  });

  it('of a flood of events is the newest 200, in their order', () => {
    const heard = new HeardEvents();
    for (let at = 0; at < 450; at += 1) heard.event(event(`no. ${at}`));
    const { events, skipped, says } = heard.take();
    expect([events.length, skipped]).toEqual([200, 250]);
    expect([events[0]?.message, events.at(-1)?.message]).toEqual(['no. 250', 'no. 449']);
    expect(says).toBeNull();
    expect(heard.isEmpty).toBe(true);
  });

  it('says that the session is lost, and nothing where it is there again: the new one says how it listens', () => {
    const heard = new HeardEvents();
    heard.turn(lost);
    expect(heard.take()).toEqual({ events: [], skipped: 0, says: 'The session is lost. The server is away.' });
    heard.turn({ ...lost, isLost: false, says: '' });
    expect(heard.isEmpty).toBe(true);
    heard.says('Listening.');
    expect(heard.take().says).toBe('Listening.');
  });
});
