/** Quality of a value (Data Access 2.05a, 6.8): the server’s own in the upper eight bits, then QQSSSSLL. */
const statuses: Readonly<Record<number, string>> = {
  0x00: 'bad',
  0x04: 'bad: configuration error',
  0x08: 'bad: not connected',
  0x0c: 'bad: device failure',
  0x10: 'bad: sensor failure',
  0x14: 'bad: last known value',
  0x18: 'bad: communication failure',
  0x1c: 'bad: out of service',
  0x20: 'bad: waiting for initial data',
  0x40: 'uncertain',
  0x44: 'uncertain: last usable value',
  0x50: 'uncertain: sensor not accurate',
  0x54: 'uncertain: range of the unit exceeded',
  0x58: 'uncertain: from fewer good sources than are needed',
  0xc0: 'good',
  0xd8: 'good: local override',
};
const limits = ['', 'at its low limit', 'at its high limit', 'constant'] as const;
const groups: Readonly<Record<number, QualityKind>> = { 0x00: 'bad', 0x40: 'uncertain', 0xc0: 'good' };
export type QualityKind = 'bad' | 'uncertain' | 'good';

export const goodQuality = 0xc0;
/** The two bits that matter most; the fourth combination is not used, and counts as bad. */
export const qualityKind = (quality: number): QualityKind => groups[quality & 0xc0] ?? 'bad';

/** A quality in words. Statuses that are not known are told by their kind and number. */
export function qualityWords(quality: number): string {
  const status = quality & 0xfc;
  const words = statuses[status] ?? `${qualityKind(quality)}: status ${(status & 0x3c) >> 2}, which has no meaning`;
  const limit = limits[quality & 3];
  const own = quality >> 8;
  return `${words}${limit ? `, ${limit}` : ''}${own === 0 ? '' : `, ${own} by the server’s own count`}`;
}
