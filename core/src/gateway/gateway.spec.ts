import fc from 'fast-check';
import { convertTo, numberIn, relayTypes } from './conversion';
import { collisionsAmong, placesBy } from './places';
import type { PlaceRule } from './places';
import { faultsOfRelays, relayed } from './relay';
import type { Relay } from './relay';
import { gatewayStatus, isSameValue, ShownItem } from './shown-item';
import type { GatewayValue } from './shown-item';

const value = (differs: Partial<GatewayValue> = {}): GatewayValue => ({
  value: 1,
  type: 'Double',
  status: 0,
  sourceTime: 1000,
  ...differs,
});

describe('What is shown of an item', () => {
  it('waits for a first value, and shows changes alone', () => {
    const item = new ShownItem();
    expect(item.now.status).toBe(gatewayStatus.waiting);
    expect(item.lose()).toBeNull();
    expect(item.take(value())).toEqual(value());
    expect(item.take(value())).toBeNull();
    expect(item.take(value({ sourceTime: 1001 }))).not.toBeNull();
  });

  it('keeps the last value with its old time while the source is gone, and its status comes back', () => {
    const item = new ShownItem();
    item.take(value());
    expect(item.lose()).toEqual(value({ status: gatewayStatus.lastUsable }));
    expect(item.lose()).toBeNull();
    expect(item.take(value())).toEqual(value());
  });

  it('leaves bad what was bad', () => {
    const item = new ShownItem();
    item.take(value({ status: 0x8000_0000, value: null }));
    expect(item.lose()).toBeNull();
    expect(item.now.status).toBe(0x8000_0000);
  });

  const steps = fc.array(
    fc.oneof(
      fc.record({
        does: fc.constant('take' as const),
        value: fc.integer({ min: 0, max: 3 }),
        at: fc.option(fc.integer({ min: 0, max: 20 })),
        status: fc.constantFrom(0, 0x4000_0000, 0x8000_0000),
      }),
      fc.constant({ does: 'lose' as const }),
    ),
  );

  it('is never older than what was shown before, never torn, and never told twice', () => {
    fc.assert(
      fc.property(steps, (all) => {
        const item = new ShownItem();
        const given: GatewayValue[] = [];
        let before = item.now;
        for (const step of all) {
          const shown =
            step.does === 'lose'
              ? item.lose()
              : item.take(
                  given[given.push(value({ value: step.value, sourceTime: step.at, status: step.status })) - 1] ??
                    value(),
                );
          if (shown === null) expect(item.now).toBe(before);
          else {
            expect(isSameValue(shown, before)).toBe(false);
            if (shown.sourceTime !== null && before.sourceTime !== null)
              expect(shown.sourceTime).toBeGreaterThanOrEqual(before.sourceTime);
            // Value, type and time come from one and the same value of the source.
            expect(
              given.some(
                (one) =>
                  one.value === shown.value &&
                  one.sourceTime === shown.sourceTime &&
                  (one.status === shown.status || shown.status === gatewayStatus.lastUsable),
              ),
            ).toBe(true);
            before = shown;
          }
        }
      }),
    );
  });

  it.each([
    [[1, 2], [1, 2], true],
    [[1, 2], [2, 1], false],
    [new Float64Array([1]), new Float64Array([1]), true],
    [{ a: 1 }, { a: 1 }, true],
    [{ a: 1 }, { b: 1 }, false],
    [NaN, NaN, true],
    [new Date(5), new Date(5), true],
    [null, 0, false],
  ])('tells whether %j and %j are the same', (one, other, same) => {
    expect(isSameValue(value({ value: one }), value({ value: other }))).toBe(same);
  });
});

describe('The place of an item', () => {
  const rules: readonly PlaceRule[] = [
    { source: 'furnace', items: 'Furnace/Gas *', domain: 'Hot End', withoutFirst: 1, isWritable: false },
    { source: 'furnace', items: 'Furnace/**', domain: 'Hot End', withoutFirst: 0, isWritable: true },
    { source: 'furnace', items: '[', domain: 'Nowhere', withoutFirst: 0, isWritable: true },
  ];
  const placeOf = placesBy(rules);

  it('is the first rule’s that fits, of its own source', () => {
    expect(placeOf('furnace', ['Furnace', 'Gas flow'])).toEqual({
      domain: 'Hot End',
      path: 'Gas flow',
      isWritable: false,
    });
    expect(placeOf('furnace', ['Furnace', 'Crown', 'Wanted'])?.isWritable).toBe(true);
    expect(placeOf('lehr', ['Furnace', 'Gas flow'])).toBeNull();
    expect(placeOf('furnace', ['Stacker'])).toBeNull();
  });

  it('keeps the last part, however many are left out', () => {
    const deep = placesBy([{ source: 'furnace', items: '**', domain: 'D', withoutFirst: 9, isWritable: false }]);
    expect(deep('furnace', ['A', 'B'])?.path).toBe('B');
  });

  it('is not had by two', () => {
    const flat = placesBy([{ source: 'a', items: '**', domain: 'D', withoutFirst: 1, isWritable: false }]);
    const items = [
      ['x', 'T'],
      ['y', 'T'],
      ['y', 'U'],
    ].map((path) => ({ path, place: flat('a', path) }));
    const found = collisionsAmong(items);
    expect([...found.keys()]).toEqual(['D/T']);
    expect(found.get('D/T')?.map(({ path }) => path.join('/'))).toEqual(['x/T', 'y/T']);
    expect(collisionsAmong([{ place: null }, { place: null }]).size).toBe(0);
  });
});

describe('A conversion', () => {
  it.each([
    ['Int16', 2.5, 2],
    ['Int16', 3.5, 4],
    ['Int16', -0.4, 0],
    ['Byte', 255.4, 255],
    ['UInt32', '4294967295', 4_294_967_295],
    ['Boolean', 1, true],
    ['Boolean', '0', false],
    ['Double', true, 1],
    ['String', 12.5, '12.5'],
    ['Float', 0.1, Math.fround(0.1)],
  ] as const)('to %s of %p gives %p', (as, from, to) => {
    expect(convertTo(as, from, null)).toEqual({ ok: true, value: to, type: as });
  });

  it.each([
    ['Byte', 256, '256 does not fit'],
    ['Byte', -1, 'does not fit'],
    ['UInt16', Infinity, 'does not fit'],
    ['Boolean', 2, 'neither 0 nor 1'],
    ['Int32', 'twelve', 'is no number'],
    ['Int32', '1e400', 'is no number'],
    ['Float', 1e39, 'too large'],
    ['Int32', NaN, 'is no number'],
    ['String', { a: 1 }, 'can’t be written as text'],
  ] as const)('to %s of %p is refused', (as, from, says) => {
    const converted = convertTo(as, from, null);
    expect(converted.ok ? '' : converted.says).toContain(says);
  });

  it('gives what fits into its type, or nothing', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...relayTypes),
        fc.oneof(fc.double(), fc.integer(), fc.string(), fc.boolean()),
        (as, from) => {
          const converted = convertTo(as, from, null);
          if (!converted.ok) return;
          expect(converted.type).toBe(as);
          if (as.includes('Int') || as.includes('Byte')) {
            expect(Number.isInteger(converted.value)).toBe(true);
            expect(Math.abs(Number(converted.value) - (numberIn(from) ?? NaN))).toBeLessThanOrEqual(0.5);
          }
        },
      ),
    );
  });
});

const relay = (differs: Partial<Relay> = {}): Relay => ({
  id: 'r',
  from: { source: 'a', path: 'In' },
  to: { source: 'b', path: 'Out' },
  scale: null,
  deadBand: null,
  as: null,
  onBad: { kind: 'hold' },
  ...differs,
});

describe('A relay', () => {
  it('writes what changes, and nothing twice', () => {
    expect(relayed(relay(), value({ value: 5 }), null)).toEqual({ does: 'write', value: 5, type: 'Double' });
    expect(relayed(relay(), value({ value: 5 }), { value: 5, type: 'Double' })).toMatchObject({ why: 'same' });
  });

  it.each([
    [{ kind: 'linear', factor: 1.8, offset: 32 } as const, 100, 212],
    [{ kind: 'ranges', from: [4, 20], to: [0, 100], clamps: true } as const, 12, 50],
    [{ kind: 'ranges', from: [4, 20], to: [0, 100], clamps: true } as const, 3, 0],
    [{ kind: 'ranges', from: [4, 20], to: [0, 100], clamps: true } as const, 25, 100],
    [{ kind: 'ranges', from: [4, 20], to: [0, 100], clamps: false } as const, 24, 125],
    [{ kind: 'ranges', from: [0, 10], to: [10, 0], clamps: true } as const, 2, 8],
  ])('scales by %j', (scale, from, to) => {
    expect(relayed(relay({ scale }), value({ value: from }), null)).toMatchObject({ does: 'write', value: to });
  });

  it('stays within the range that it clamps to', () => {
    fc.assert(
      fc.property(
        fc.double({ noNaN: true }),
        fc.double({ noNaN: true, min: -1e6, max: 1e6 }),
        fc.integer(),
        (input, low, high) => {
          fc.pre(low !== high);
          const made = relayed(
            relay({ scale: { kind: 'ranges', from: [low, high], to: [3, 7], clamps: true } }),
            value({ value: input }),
            null,
          );
          if (made.does === 'write') {
            expect(made.value).toBeGreaterThanOrEqual(3);
            expect(made.value).toBeLessThanOrEqual(7);
          }
        },
      ),
    );
  });

  it('holds or writes a fixed value while the source is bad, and goes on with its last when it is gone', () => {
    const bad = value({ status: 0x8000_0000 });
    expect(relayed(relay(), bad, null)).toEqual({ does: 'nothing', why: 'hold' });
    expect(relayed(relay({ onBad: { kind: 'value', value: -1 }, as: 'Int16' }), bad, null)).toEqual({
      does: 'write',
      value: -1,
      type: 'Int16',
    });
    expect(relayed(relay(), value({ status: gatewayStatus.lastUsable, value: 4 }), null)).toMatchObject({ value: 4 });
  });

  it('passes over changes within its dead band, of what was written last', () => {
    const last = { value: 100, type: 'Double' };
    const by = (kind: 'absolute' | 'percent', now: number) =>
      relayed(relay({ deadBand: { kind, by: 2 } }), value({ value: now }), last);
    expect(by('absolute', 101.9)).toMatchObject({ why: 'dead band' });
    expect(by('absolute', 102)).toMatchObject({ does: 'write' });
    expect(by('percent', 98.1)).toMatchObject({ why: 'dead band' });
  });

  it('refuses what can’t be written, and says why', () => {
    const made = relayed(relay({ as: 'Byte' }), value({ value: 300 }), null);
    expect(made.does === 'refuse' ? made.says : '').toContain('300 does not fit into Byte');
    expect(
      relayed(relay({ scale: { kind: 'linear', factor: 2, offset: 0 } }), value({ value: 'x' }), null),
    ).toMatchObject({
      does: 'refuse',
    });
  });
});

describe('What is wrong with relays', () => {
  const from = (id: string, one: string, other: string): Relay =>
    relay({ id, from: { source: 's', path: one }, to: { source: 's', path: other } });

  it('is nothing in a chain, however long', () => {
    const chain = Array.from({ length: 20_000 }, (_, index) => from(String(index), `i${index}`, `i${index + 1}`));
    expect(faultsOfRelays(chain)).toEqual([]);
  });

  it('is a circle, an item onto itself, two writers, a range without width', () => {
    const circle = faultsOfRelays([from('a', 'x', 'y'), from('b', 'y', 'z'), from('c', 'z', 'x'), from('d', 'z', 'w')]);
    expect(circle).toHaveLength(1);
    expect(new Set(circle[0]?.relayIds)).toEqual(new Set(['a', 'b', 'c']));
    expect(faultsOfRelays([from('a', 'x', 'x')])[0]?.says).toContain('writes the item that it reads');
    expect(faultsOfRelays([from('a', 'x', 'z'), from('b', 'y', 'z')])[0]?.says).toContain('2 relays write z');
    const narrow = relay({ scale: { kind: 'ranges', from: [1, 1], to: [0, 1], clamps: true } });
    expect(faultsOfRelays([narrow])[0]?.says).toContain('no width');
  });

  it('finds a circle wherever one can be walked', () => {
    const item = fc.integer({ min: 0, max: 6 });
    fc.assert(
      fc.property(fc.array(fc.tuple(item, item), { maxLength: 9 }), (pairs) => {
        const relays = pairs.map(([one, other], index) => from(String(index), `i${one}`, `i${other}`));
        const reaches = (start: number, seen = new Set<number>()): Set<number> => {
          for (const [one, other] of pairs)
            if (one === start && !seen.has(other)) {
              seen.add(other);
              reaches(other, seen);
            }
          return seen;
        };
        const isRound = pairs.some(([one]) => reaches(one).has(one));
        const found = faultsOfRelays(relays).some(
          ({ says }) => says.includes('circle') || says.includes('that it reads'),
        );
        expect(found).toBe(isRound);
      }),
    );
  });
});
