import { parse } from 'csv-parse/sync';
import fc from 'fast-check';
import { relayTypes } from './conversion';
import type { Relay } from './relay';
import { relayColumns, relayInRow, relaysToCsv } from './relays-csv';

const rows = (csv: string): Record<string, string>[] => parse(csv, { columns: true, trim: true });
const row = (cells: Readonly<Record<string, string>>) =>
  relayInRow({ id: 'r', to: 'lehr', toItem: 'B', from: 'furnace', fromItem: 'A', ...cells });

const number = fc.double({ noNaN: true, noDefaultInfinity: true }).map((value) => (value === 0 ? 0 : value));
const path = fc.stringMatching(/^[=+@-]?[A-Za-z][A-Za-z0-9 ",/]{0,12}[a-z]$/);
const relays: fc.Arbitrary<Relay> = fc.record({
  id: fc.stringMatching(/^[a-z0-9]{1,8}$/),
  from: fc.record({ source: fc.constant('furnace'), path }),
  to: fc.record({ source: fc.constant('lehr'), path }),
  as: fc.option(fc.constantFrom(...relayTypes)),
  scale: fc.option(
    fc.oneof(
      fc.record({ kind: fc.constant('linear' as const), factor: number, offset: number }),
      fc.record({
        kind: fc.constant('ranges' as const),
        from: fc.tuple(number, number),
        to: fc.tuple(number, number),
        clamps: fc.boolean(),
      }),
    ),
  ),
  deadBand: fc.option(
    fc.record({ kind: fc.constantFrom('absolute' as const, 'percent' as const), by: number.map(Math.abs) }),
  ),
  onBad: fc.oneof(
    fc.constant({ kind: 'hold' as const }),
    fc.record({
      kind: fc.constant('value' as const),
      value: fc.oneof(number, fc.boolean(), fc.stringMatching(/^[a-z0-9]{0,8}$/)),
    }),
  ),
});

describe('relays as CSV', () => {
  it('come back as they were', () => {
    fc.assert(
      fc.property(fc.array(relays, { maxLength: 4 }), (all) => {
        const read = rows(relaysToCsv(all)).map((each) => relayInRow(each));
        expect(read.map((each) => (each.ok ? each.relay : each))).toEqual(all);
      }),
    );
  });

  it('have one line of names above', () => {
    expect(relaysToCsv([])).toBe(`${relayColumns.join(',')}\r\n`);
  });

  it('take what is missing as usual', () => {
    expect(row({})).toEqual({
      ok: true,
      relay: {
        id: 'r',
        to: { source: 'lehr', path: 'B' },
        from: { source: 'furnace', path: 'A' },
        as: null,
        scale: null,
        deadBand: null,
        onBad: { kind: 'hold' },
      },
    });
    expect(row({ factor: '2' })).toMatchObject({ relay: { scale: { kind: 'linear', factor: 2, offset: 0 } } });
  });

  it.each([
    [{ factor: 'two' }, 'factor', 'no number'],
    [{ factor: '2', fromLow: '1' }, 'factor', 'not by both'],
    [{ clamps: 'perhaps' }, 'clamps', 'yes or no'],
    [{ deadBand: 'much' }, 'deadBand', 'a number'],
  ])('say what can’t be read: %j', (cells, column, says) => {
    const read = row(cells as Record<string, string>);
    expect(read.ok ? null : [read.column, read.says]).toEqual([column, expect.stringContaining(says)]);
  });
});
