import type { Plant } from './plant.js';
import { plantDifference } from './plant-difference.js';

const zone = (id: string, order = 1) => ({ id, name: `Zone ${id}`, order });
const plant = (differs: Partial<Plant>): Plant => ({
  name: 'Works',
  zones: [zone('a'), zone('b')],
  machines: [],
  applications: [],
  links: [],
  ...differs,
});

describe('the difference of two plants', () => {
  it('is nothing where they have the same parts, in whatever order their fields are', () => {
    const turned = { order: 1, name: 'Zone a', id: 'a' };
    expect(plantDifference(plant({}), plant({ zones: [zone('b'), turned] }))).toEqual([
      'Nothing would be other than now.',
    ]);
  });

  it('names what is new, gone and changed, and the first of many', () => {
    const many = Array.from({ length: 10 }, (_, index) => zone(`z${index}`));
    expect(plantDifference(plant({}), plant({ name: 'Other', zones: [zone('a', 2), ...many] }))).toEqual([
      'The plant is called Other, and no longer Works.',
      'New: 10 zones: Zone z0, Zone z1, Zone z2, Zone z3, Zone z4, Zone z5, Zone z6, Zone z7 and 2 more.',
      'Gone: 1 zone: Zone b.',
      'Changed: 1 zone: Zone a (order).',
    ]);
  });
});
