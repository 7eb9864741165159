import fc from 'fast-check';
import type { LinkState } from '../../links/assess';
import { askNow, isQuietAt, nextRound, roundIntervals } from './schedule';
import type { RoundTimes } from './schedule';
import { availabilityOf, sharesOf, holdOf, provedAfter, stretchesOf } from './timeline';
import type { SeenSpan } from './timeline';

const at = (text: string): number => Date.parse(text);
const next = (times: Partial<RoundTimes>, after: string): string | null => {
  const found = nextRound({ everyMinutes: 60, at: '00:00', quiet: null, zone: 'UTC', ...times }, at(after));
  return found === null ? null : new Date(found).toISOString().slice(0, 16);
};
const weekdays = [1, 2, 3, 4, 5];

describe('rounds begin', () => {
  it.each<[string, Partial<RoundTimes>, string, string | null]>([
    ['on the hour', {}, '2026-11-20T02:10:00Z', '2026-11-20T03:00'],
    ['not at the same moment twice', {}, '2026-11-20T03:00:00Z', '2026-11-20T04:00'],
    ['from their own time of day', { everyMinutes: 360, at: '07:30' }, '2026-11-20T02:10:00Z', '2026-11-20T07:30'],
    [
      'by the clock of their zone',
      { everyMinutes: 1440, at: '06:00', zone: 'Europe/Berlin' },
      '2026-11-20T02:10:00Z',
      '2026-11-20T05:00',
    ],
    ['by an offset', { everyMinutes: 1440, at: '06:00', zone: '+05:30' }, '2026-11-20T02:10:00Z', '2026-11-21T00:30'],
    // Clocks were put forward at 02:00 on 29 March 2026: the round of 06:00 comes an hour earlier in UTC.
    [
      'at the same time of day when clocks change',
      { everyMinutes: 1440, at: '06:00', zone: 'Europe/Berlin' },
      '2026-03-28T12:00:00Z',
      '2026-03-29T04:00',
    ],
    [
      'after quiet hours',
      { quiet: { days: weekdays, from: '06:00', to: '14:00' } },
      '2026-11-20T05:10:00Z',
      '2026-11-20T14:00',
    ],
    [
      'on days that are not quiet',
      { quiet: { days: weekdays, from: '06:00', to: '14:00' } },
      '2026-11-21T05:10:00Z',
      '2026-11-21T06:00',
    ],
    [
      'after quiet hours that go over midnight',
      { quiet: { days: [5], from: '22:00', to: '06:00' } },
      '2026-11-20T21:30:00Z',
      '2026-11-21T06:00',
    ],
    [
      'never, where every time is quiet',
      { quiet: { days: [...weekdays, 6, 7], from: '00:00', to: '00:00' } },
      '2026-11-20T21:30:00Z',
      null,
    ],
    ['never by the clock of a zone that there isn’t', { zone: 'Marrowby' }, '2026-11-20T21:30:00Z', null],
  ])('%s', (_what, times, after, expected) => {
    expect(next(times, after)).toBe(expected);
  });

  it('later than now and never in quiet hours, whenever it is', () => {
    const quiet = { days: [1, 3, 6], from: '21:00', to: '05:30' };
    fc.assert(
      fc.property(
        fc.integer({ min: at('2026-01-01T00:00:00Z'), max: at('2027-01-01T00:00:00Z') }),
        fc.constantFrom(...roundIntervals),
        fc.constantFrom('UTC', 'Europe/Berlin', '-03:00'),
        (now, everyMinutes, zone) => {
          const begins = nextRound({ everyMinutes, at: '06:00', quiet, zone }, now) ?? 0;
          expect(begins).toBeGreaterThan(now);
          expect(isQuietAt(begins, quiet, zone)).toBe(false);
          // An hour more, where clocks are put back, or quiet hours are passed over.
          expect(begins - now).toBeLessThanOrEqual((everyMinutes + 60) * 60_000 + 8.5 * 3_600_000 + 86_400_000);
        },
      ),
    );
  });
});

describe('a round that is under way', () => {
  const after = (seconds: number, perMinute: number, asked: number): number =>
    askNow({ perMinute, begunAt: 0, asked }, seconds * 1000, 5000);

  it.each([
    [60, 0, 0, 1],
    [60, 5, 1, 5],
    [1, 5, 1, 0],
    [1, 60, 1, 1],
    [7, 5, 1, 0],
    [7, 10, 1, 1],
    // It was held up for an hour.
    [60, 3600, 1, 5],
    [60, 5, 60, 0],
  ])('of %i links a minute, after %i s with %i asked for, asks for %i', (perMinute, seconds, asked, expected) => {
    expect(after(seconds, perMinute, asked)).toBe(expected);
  });

  it('never asks for more in a minute than it may, however often it is looked at', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 600 }), fc.integer({ min: 500, max: 20_000 }), (perMinute, everyMs) => {
        let asked = 0;
        for (let now = 0; now < 60_000; now += everyMs) asked += askNow({ perMinute, begunAt: 0, asked }, now, everyMs);
        expect(asked).toBeLessThanOrEqual(perMinute);
      }),
    );
  });
});

const hour = 3_600_000;
const seen = (state: LinkState, from: number, to: number, causeId: string | null = null): SeenSpan => ({
  linkId: 'a',
  state,
  causeId,
  from: from * hour,
  to: to * hour,
  checks: 2,
});
const period = { from: 0, to: 24 * hour };

describe('how a link was', () => {
  const spans = [seen('Sound', 2, 4), seen('Parted', 5, 6, 'port-refused'), seen('Strained', 7, 8)];
  const shown = stretchesOf(spans, period, 3 * hour).map(({ state, from, to }) => [state, from / hour, to / hour]);

  it('holds until the next check, and is unknown where none comes', () => {
    expect(shown).toEqual([
      ['Untried', 0, 2],
      ['Sound', 2, 5],
      ['Parted', 5, 7],
      ['Strained', 7, 11],
      ['Untried', 11, 24],
    ]);
  });

  it('gives the share of the known time in which it could be used', () => {
    expect(availabilityOf([stretchesOf(spans, period, 3 * hour)])).toEqual({
      knownMs: 9 * hour,
      soundMs: 3 * hour,
      strainedMs: 4 * hour,
      partedMs: 2 * hour,
      usable: 7 / 9,
      known: 9 / 24,
      falls: 1,
    });
    expect(availabilityOf([stretchesOf([], period)])).toMatchObject({ usable: null, known: 0, falls: 0 });
  });

  it('counts no fall of a link that was never seen to work', () => {
    expect(availabilityOf([stretchesOf([seen('Parted', 2, 3, 'a'), seen('Parted', 3, 4, 'b')], period)]).falls).toBe(0);
  });

  it('is proved by the first check behind a moment that sees it work', () => {
    expect(provedAfter(spans, 6 * hour)).toBe(7 * hour);
    expect(provedAfter(spans, 7.5 * hour)).toBe(8 * hour);
    expect(provedAfter(spans, 8 * hour)).toBeNull();
    expect(provedAfter(spans, 0)).toBe(2 * hour);
  });

  it('is known twice as long as rounds take to come, and a little', () => {
    expect(holdOf(60)).toBe(130 * 60_000);
  });

  it('covers the whole period once, whatever was seen', () => {
    const spansOf = fc
      .array(fc.tuple(fc.constantFrom<LinkState>('Sound', 'Strained', 'Parted', 'Untried'), fc.nat(10), fc.nat(30)), {
        maxLength: 12,
      })
      .map((parts) => {
        let reached = -20;
        return parts.map(([state, gap, length]) => {
          const span = seen(state, reached + gap, reached + gap + length);
          reached += gap + length + 1;
          return span;
        });
      });
    fc.assert(
      fc.property(spansOf, fc.integer({ min: 1, max: 50 }), (all, hold) => {
        const stretches = stretchesOf(all, period, hold * hour);
        expect(stretches[0]?.from).toBe(period.from);
        expect(stretches.at(-1)?.to).toBe(period.to);
        stretches.slice(1).forEach(({ from }, index) => expect(from).toBe(stretches[index]?.to));
        const { known } = availabilityOf([stretches]);
        const [day] = sharesOf([stretches], [0, 24 * hour]);
        expect((day?.ms.Untried ?? 0) / (24 * hour)).toBeCloseTo(1 - known);
        const halves = sharesOf([stretches, stretches], [0, 12 * hour, 24 * hour]);
        const total = halves.flatMap(({ ms }) => Object.values(ms)).reduce((sum, ms) => sum + ms, 0);
        expect(total).toBeCloseTo(48 * hour);
      }),
    );
  });
});
