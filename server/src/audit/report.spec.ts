import { Sealing } from '../secrets/sealing.js';
import { trailReport } from './report.js';
import { SealMaker } from './seals.js';
import type { ChainReport } from './trail.js';

const maker = new SealMaker(new Sealing(Buffer.alloc(32, 1)));
const at = '2026-03-01T12:00:00.000Z';
const chain = (differs: Partial<ChainReport> = {}): ChainReport => ({
  rows: 9,
  lastSequence: 9,
  breaks: [],
  hashes: { 4: 'four', 9: 'nine' },
  ...differs,
});
const sealed = [maker.make({ sequence: 4, hash: 'four' }, at), maker.make({ sequence: 9, hash: 'nine' }, at)];

describe('what is said of the trail', () => {
  it('is that it is whole where chain and seals match', () => {
    expect(trailReport(chain(), sealed, maker)).toEqual({
      rows: 9,
      isWhole: true,
      faults: [],
      sealed: { upTo: 9, at },
      seals: 2,
    });
  });

  it.each<[string, ChainReport, readonly (typeof sealed)[number][], RegExp]>([
    ['a row was changed', chain({ breaks: [3, 5] }), sealed, /broken at 3, 5/],
    [
      'the end was taken away',
      chain({ rows: 7, lastSequence: 7, hashes: { 4: 'four' } }),
      sealed,
      /up to row 9, and ends at 7/,
    ],
    [
      'all was written again, with a chain that fits',
      chain({ hashes: { 4: 'other', 9: 'another' } }),
      sealed,
      /rewritten: at 4, 9/,
    ],
    ['a sealed row was taken away', chain({ hashes: { 9: 'nine' } }), sealed, /rewritten: at 4/],
    [
      'a seal was made by somebody else',
      chain(),
      [...sealed, { ...maker.make({ sequence: 9, hash: 'another' }, at), hash: 'nine' }],
      /1 seal was not made by Loyal Hinge/,
    ],
    [
      'seals were made with another key',
      chain(),
      [...sealed, new SealMaker(new Sealing(Buffer.alloc(32, 2))).make({ sequence: 9, hash: 'nine' }, at)],
      /1 seal can’t be checked/,
    ],
  ])('tells where %s', (_, found, heads, why) => {
    const report = trailReport(found, heads, maker);
    expect(report.isWhole).toBe(false);
    expect(report.faults).toEqual([expect.stringMatching(why)]);
  });

  it('is of the chain alone where there is no key', () => {
    expect(trailReport(chain(), [], null)).toMatchObject({ isWhole: true, sealed: null, seals: 0 });
  });
});
