import type { LinkState } from '../../links/assess';
import { tellChanges, turnOf } from './told-changes';

const change = (linkName: string, from: LinkState | null, to: LinkState) => ({
  linkName,
  at: '2026-11-20T02:10:00.000Z',
  from,
  to,
  says: 'Nothing answers at port 4840.',
});

describe('what changed', () => {
  it.each<[LinkState | null, LinkState, string | null]>([
    [null, 'Parted', 'fell'],
    ['Sound', 'Parted', 'fell'],
    ['Strained', 'Parted', 'fell'],
    ['Parted', 'Parted', null],
    ['Parted', 'Sound', 'works'],
    ['Parted', 'Strained', 'works'],
    ['Parted', 'Untried', null],
    [null, 'Sound', null],
    ['Sound', 'Strained', null],
  ])('from %s to %s means: %s', (from, to, expected) => {
    expect(turnOf({ from, to })).toBe(expected);
  });

  it('is told in one message, a line each, without what means nothing', () => {
    const told = tellChanges('Works', [
      change('Display to Furnace', 'Sound', 'Parted'),
      change('Display to Lehr', 'Sound', 'Strained'),
      change('Display to Cutter', 'Parted', 'Sound'),
    ]);
    expect(told).toEqual({
      subject: 'Works: 1 link fell, 1 works again',
      text: '2026-11-20 02:10 UTC  Display to Furnace fell: Nothing answers at port 4840.\n2026-11-20 02:10 UTC  Display to Cutter works again.\n',
      fell: 1,
      works: 1,
    });
  });
});
