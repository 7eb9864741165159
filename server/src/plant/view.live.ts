import { plantOrders, plantParts } from '@loyal-hinge/contract';
import type { AnswerOf, PlantPartName } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';

let viewer: Caller;
beforeAll(async () => {
  viewer = await signIn('viewer');
});

const seen = (part: PlantPartName, more: Readonly<Record<string, string>> = {}): Promise<AnswerOf<'plantView'>> =>
  viewer.query('plantView', { part, most: '500', ...more });

describe('the rows of a part of the plant', () => {
  it.each(plantParts.flatMap((part) => plantOrders[part].map((by) => ({ part, by }))))(
    'come in the order that is wished, and in its reverse: $part by $by',
    async ({ part, by }) => {
      const [usual, up, down] = await Promise.all([
        seen(part),
        seen(part, { by }),
        seen(part, { by, descending: 'yes' }),
      ]);
      expect([...up.ids].sort()).toEqual([...usual.ids].sort());
      expect([...down.ids].sort()).toEqual([...usual.ids].sort());
      expect(down.ids).not.toEqual(up.ids);
    },
  );

  it('are sorted before they are divided into pages', async () => {
    const { machines, ids } = await seen('machines', { by: 'addresses', descending: 'yes', most: '3' });
    const all = await seen('machines', { by: 'addresses', descending: 'yes' });
    expect(ids).toEqual(all.ids.slice(0, 3));
    expect(machines.map(({ id }) => id).sort()).toEqual([...ids].sort());
  });

  it('come in the usual order where the wish is another part’s', async () => {
    expect((await seen('zones', { by: 'hostNames' })).ids).toEqual((await seen('zones')).ids);
  });
});
