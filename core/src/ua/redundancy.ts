/** How servers stand in for one another, in the order of the enumeration RedundancySupport (Part 5), and in words. */
export const redundancySupports = {
  None: 'No other server stands in for it',
  Cold: 'Another server is started when it stops (cold)',
  Warm: 'Another server runs, and reads nothing until it is needed (warm)',
  Hot: 'Another server runs as it does (hot)',
  Transparent: 'Others stand in for it at its own address',
  HotAndMirrored: 'Another server runs as it does, and knows its sessions (hot and mirrored)',
} as const;
export type RedundancySupport = keyof typeof redundancySupports;

/** By its number; null: there is no such. */
export const redundancySupportOf = (value: number): RedundancySupport | null =>
  (Object.keys(redundancySupports) as RedundancySupport[])[value] ?? null;
