import type { BenchValue } from '@loyal-hinge/contract';
import { Heard, HeardEvents } from './heard.js';

const value = (nodeId: string, text: string): BenchValue => ({
  nodeId,
  code: 'Good',
  status: 'Good',
  value: text,
  number: Number(text),
  dataType: 'Double',
  sourceTimestamp: null,
  serverTimestamp: null,
});
const event = (message: string) => ({ at: null, severity: 500, sourceName: 'Lehr', message });
const lost = { isLost: true, at: '2026-03-01T12:00:00.000Z', says: 'The server is away.' };

describe('what a page hears of its bench', () => {
  it('is the newest value of each node, and told once', () => {
    const heard = new Heard();
    expect(heard.isEmpty).toBe(true);
    heard.value(value('a', '1'));
    heard.value(value('b', '5'));
    heard.value(value('a', '2'));
    expect(heard.isEmpty).toBe(false);
    expect(heard.take().values.map(({ nodeId, value: text }) => [nodeId, text])).toEqual([
      ['a', '2'],
      ['b', '5'],
    ]);
    expect(heard.isEmpty).toBe(true);
    expect(heard.take()).toEqual({ values: [], watching: [], session: null });
  });

  it('is how the session stands last, and the intervals that count now', () => {
    const heard = new Heard();
    const intervals = (ms: number) => [{ nodeId: 'a', revisedSamplingIntervalMs: ms, revisedPublishingIntervalMs: ms }];
    heard.turn(lost);
    heard.turn({ isLost: false, at: '2026-03-01T12:00:05.000Z', says: '' });
    heard.watching(intervals(100));
    heard.watching(intervals(1000));
    expect(heard.isEmpty).toBe(false);
    expect(heard.take()).toMatchObject({ watching: intervals(1000), session: { isLost: false } });
  });

  it('of a flood of events is the newest 200, in their order', () => {
    const heard = new HeardEvents();
    for (let at = 0; at < 450; at += 1) heard.event(event(`no. ${at}`));
    const { events, says } = heard.take();
    expect(events).toHaveLength(200);
    expect([events[0]?.message, events.at(-1)?.message]).toEqual(['no. 250', 'no. 449']);
    expect(says).toBeNull();
    expect(heard.isEmpty).toBe(true);
  });

  it('says that the session is lost, and nothing where it is there again: the new one says how it listens', () => {
    const heard = new HeardEvents();
    heard.turn(lost);
    expect(heard.take()).toEqual({ events: [], says: 'The session is lost. The server is away.' });
    heard.turn({ ...lost, isLost: false, says: '' });
    expect(heard.isEmpty).toBe(true);
    heard.says('Listening.');
    expect(heard.take().says).toBe('Listening.');
  });
});
