import fc from 'fast-check';
import { relayTypes } from '@loyal-hinge/core';
import { relayWish } from '@loyal-hinge/contract';
import type { RelayWish } from '@loyal-hinge/contract';
import { beginning, wishIn, writtenOf } from './relay-written';

const number = fc.double({ noNaN: true, noDefaultInfinity: true }).map((value) => (value === 0 ? 0 : value));
const end = fc.record({ linkId: fc.constantFrom('one', 'two'), path: fc.stringMatching(/^[A-Z][a-z]{1,8}$/) });
const relays: fc.Arbitrary<RelayWish> = fc.record({
  from: end,
  to: end,
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
      value: fc.oneof(number, fc.boolean(), fc.stringMatching(/^[a-z]{1,8}$/)),
    }),
  ),
});

describe('a relay in its form', () => {
  it('comes back as it was', () => {
    fc.assert(
      fc.property(relays, (relay) => {
        fc.pre(
          relay.onBad.kind === 'hold' ||
            !['true', 'false'].includes(String(relay.onBad.value)) ||
            typeof relay.onBad.value === 'boolean',
        );
        const wish = wishIn(writtenOf(relay));
        expect(wish).toEqual(relay);
        expect(relayWish.safeParse(wish).success).toBe(true);
      }),
    );
  });

  it.each([[{ scale: 'linear', factor: 'two' }], [{ scale: 'ranges', toHigh: '' }], [{ bandBy: 'much' }]])(
    'is nothing while a number that counts can’t be read: %j',
    (differs) => {
      expect(wishIn({ ...beginning, ...differs })).toBeNull();
    },
  );

  it('does not mind what is not chosen', () => {
    expect(wishIn({ ...beginning, scale: 'none', factor: 'two', toHigh: '' })).toMatchObject({ scale: null });
    expect(wishIn({ ...beginning, scale: 'linear', factor: '1e-3', toHigh: '' })).toMatchObject({
      scale: { kind: 'linear', factor: 0.001, offset: 0 },
    });
  });
});
