import type { Fact, FactBody } from '@loyal-hinge/core';
import { wordsFor } from '@loyal-hinge/core/field';
import type { ValueForm } from '@loyal-hinge/core/field';
import { LatestValues } from './latest-values.js';

const form: ValueForm = { type: 'uint16', order: 'high-first', scale: 1, offset: 0, bits: null };
const path = 'Lehr/Speed';
let count = 0;
const fact = (at: string, body: FactBody): Fact => ({ id: String((count += 1)), source: 'tried', at, ...body });

/** What a check at a time saw of the item: the server’s value, and the device’s. */
const seen = (at: string, served: number, own: number): readonly Fact[] => [
  fact(at, {
    kind: 'field-origin',
    path,
    deviceId: 'drive',
    device: 'Drive',
    port: 502,
    unit: 1,
    table: 'holding',
    place: 10,
    convention: 'from-0',
    form,
    within: null,
  }),
  fact(at, {
    kind: 'field-compared',
    path,
    first: 10,
    samples: [{ at, value: served, words: wordsFor(own, form) }],
  }),
];
const early = '2026-11-20T10:00:00.000Z';
const late = '2026-11-20T11:00:00.000Z';

describe('the latest values of a device’s items', () => {
  it('are those of the newest check, in whatever order checks come', () => {
    const checks = [seen(late, 148, 148), seen(early, 20, 148)];
    for (const all of [checks, [...checks].reverse()]) {
      const values = new LatestValues(all.map((facts) => ({ serverId: 'lehr', facts })));
      expect(values.of('lehr', path)).toMatchObject({ served: '148', atDevice: '148', agrees: true });
    }
  });

  it('are told apart where two servers have an item of one name', () => {
    const values = new LatestValues([
      { serverId: 'lehr', facts: seen(early, 148, 148) },
      { serverId: 'furnace', facts: seen(late, 20, 148) },
    ]);
    expect(values.of('lehr', path)?.agrees).toBe(true);
    expect(values.of('furnace', path)).toMatchObject({ served: '20', agrees: false });
  });

  it('are none where nothing was compared', () => {
    const [origin] = seen(early, 1, 1);
    const values = new LatestValues([{ serverId: 'lehr', facts: origin ? [origin] : [] }]);
    expect(values.of('lehr', path)).toBeNull();
    expect(values.of('nobody', path)).toBeNull();
  });
});
