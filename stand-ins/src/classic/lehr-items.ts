import { swinging } from './process-space.js';
import type { ClassicItem } from './process-space.js';

const zones = [1, 2, 3, 4, 5, 6, 7, 8];

/** What the annealing lehr’s classic server has: a temperature for each zone, set points, and some of each type. */
export const lehrItems: readonly ClassicItem[] = [
  ...zones.flatMap((zone): ClassicItem[] => [
    {
      itemId: `Lehr.Zone${zone}.Temperature`,
      type: 'r8',
      at: swinging(560 - 45 * zone, 4, 7000 + 300 * zone),
      unit: '°C',
      about: `Glass temperature in zone ${zone}`,
    },
    {
      itemId: `Lehr.Zone${zone}.SetPoint`,
      type: 'r4',
      canWrite: true,
      first: 560 - 45 * zone,
      unit: '°C',
      range: [20, 650],
      about: `Wanted temperature in zone ${zone}`,
    },
  ]),
  { itemId: 'Lehr.Belt.Speed', type: 'r4', at: swinging(4.2, 0.1, 11_000), unit: 'm/min' },
  { itemId: 'Lehr.Belt.IsRunning', type: 'bool', first: true },
  { itemId: 'Lehr.Belt.Plates', type: 'i4', at: (now) => Math.floor(now / 1000) % 100_000 },
  { itemId: 'Lehr.Recipe.Name', type: 'text', canWrite: true, first: 'Float 4 mm' },
  { itemId: 'Lehr.Exhaust.Pressure', type: 'r8', at: swinging(-12, 1, 9000), quality: 0x10, unit: 'Pa' },
  { itemId: 'Lehr.Burner.Counter', type: 'i2', first: 17, ageMs: 26 * 3_600_000 },
];
