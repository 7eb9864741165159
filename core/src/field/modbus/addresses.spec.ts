import fc from 'fast-check';
import { addressConventions, readAddress, writeAddress } from './addresses.js';
import { modbusTables } from './tables.js';

describe('addresses in devices’ papers', () => {
  it('lead to their place and back, in every convention', () => {
    fc.assert(
      fc.property(
        fc.nat(0xffff),
        fc.constantFrom(...modbusTables),
        fc.constantFrom(...addressConventions),
        (place, table, convention) => {
          expect(readAddress(writeAddress(place, table, convention), table, convention)).toEqual({ ok: true, place });
        },
      ),
    );
  });

  it.each([
    ['40001', 'holding', 'from-1-with-digit', 0],
    ['40000', 'holding', 'from-0-with-digit', 0],
    ['400108', 'holding', 'from-1-with-digit', 107],
    ['30011', 'input', 'from-1-with-digit', 10],
    ['10005', 'discrete', 'from-1-with-digit', 4],
    ['00017', 'coil', 'from-1-with-digit', 16],
    ['17', 'coil', 'from-1-with-digit', 16],
    ['108', 'holding', 'from-1', 107],
    ['108', 'holding', 'from-0', 108],
    ['65536', 'holding', 'from-1', 65_535],
  ] as const)('%s, a %s %s, is place %i', (written, table, convention, place) => {
    expect(readAddress(written, table, convention)).toEqual({ ok: true, place });
  });

  it.each([
    ['30001', 'holding', 'from-1-with-digit', 'begins with 4'],
    ['4001', 'holding', 'from-1-with-digit', 'five or six digits'],
    ['40000', 'holding', 'from-1-with-digit', 'counts from 1'],
    ['0', 'holding', 'from-1', 'counts from 1'],
    ['65536', 'holding', 'from-0', '65,536 places'],
    ['-1', 'holding', 'from-0', 'digits alone'],
    ['1e3', 'holding', 'from-0', 'digits alone'],
    ['', 'holding', 'from-0', 'digits alone'],
  ] as const)('%j, a %s %s, is refused: %s', (written, table, convention, says) => {
    expect(readAddress(written, table, convention)).toEqual({ ok: false, says: expect.stringContaining(says) });
  });
});
