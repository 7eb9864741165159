import fc from 'fast-check';
import { qualityOfStatus, statusOfQuality } from './classic-quality';
import { gatewayStatus, isBadStatus, isGoodStatus } from './shown-item';

describe('a classic quality and a status code', () => {
  it.each([
    [0xc0, 0],
    [0xc1, 0], // at its low limit
    [0x0ac0, 0], // with bits of the server’s own
    [0xd8, 0x0096_0000],
    [0x44, gatewayStatus.lastUsable],
    [0x20, gatewayStatus.waiting],
    [0x14, 0x808d_0000],
    [0x5c, 0x4000_0000], // no such status
    [0x80, 0x8000_0000], // no such kind
  ])('%i is %i', (quality, status) => {
    expect(statusOfQuality(quality)).toBe(status);
  });

  it.each([
    [0, 0xc0],
    [0x0000_0480, 0xc0], // with bits of information
    [0x80ab_0000, 0x00],
    [0x4092_0000, 0x40],
    [gatewayStatus.lastUsable, 0x44],
  ])('%i is %i the other way round', (status, quality) => {
    expect(qualityOfStatus(status)).toBe(quality);
  });

  it('are good, uncertain or bad together, whichever way', () => {
    const kind = (status: number): string =>
      isGoodStatus(status) ? 'good' : isBadStatus(status) ? 'bad' : 'uncertain';
    const kindOfQuality = (quality: number): string =>
      (quality & 0xc0) === 0xc0 ? 'good' : (quality & 0xc0) === 0x40 ? 'uncertain' : 'bad';
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 0xffff }), (quality) => {
        expect(kind(statusOfQuality(quality))).toBe(kindOfQuality(quality));
      }),
    );
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 0xffff_ffff }), (status) => {
        expect(kindOfQuality(qualityOfStatus(status))).toBe(kind(status));
      }),
    );
  });
});
