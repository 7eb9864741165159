import { give, renew, take } from '../testing/changes.js';
import type { TrustChange } from '../trust/plant-trust/trust-change.js';
import { partnersOf, whatItWaitsFor } from './waits-for.js';

const links = [
  { clientId: 'display', serverId: 'furnace' },
  { clientId: 'display', serverId: 'lehr' },
];
const everything = ['display', 'furnace', 'lehr'].flatMap((id) => [give(id), renew(id), take(id)]);
const waits = (change: TrustChange): readonly TrustChange[] => everything.filter(whatItWaitsFor(change, links));

describe('a change', () => {
  it('that gives trust waits for nothing', () => {
    expect(waits(give('furnace'))).toEqual([]);
  });

  it('that gives a certificate waits for the trust of those to whom it is shown', () => {
    expect(waits(renew('furnace'))).toEqual([give('display')]);
    expect(waits(renew('display'))).toEqual([give('furnace'), give('lehr')]);
  });

  it('that takes trust away waits for what the same application is given, and for what its partners will show', () => {
    expect(waits(take('display'))).toEqual([give('display'), renew('furnace'), renew('lehr')]);
    expect(waits(take('lehr'))).toEqual([renew('display'), give('lehr')]);
  });

  it('never waits for one that comes after it, so that no two wait for each other', () => {
    for (const one of everything)
      for (const other of everything)
        expect(whatItWaitsFor(one, links)(other) && whatItWaitsFor(other, links)(one)).toBe(false);
  });
});

it('partners are met in either direction', () => {
  expect([...partnersOf('lehr', links)]).toEqual(['display']);
  expect([...partnersOf('display', links)]).toEqual(['furnace', 'lehr']);
});
