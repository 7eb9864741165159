import type { Plant } from '@loyal-hinge/core';
import { ProblemError } from '../http/problems.js';
import { unreadPlant } from './incoming.js';
import type { IncomingPlant } from './incoming.js';

const plant: Plant = {
  name: 'Works',
  zones: [{ id: 'hall', name: 'Hall', order: 1 }],
  machines: [{ id: 'furnace', zoneId: 'hall', name: 'Furnace', description: '', hostNames: [], addresses: [] }],
  applications: [],
  links: [],
};
const incoming = (more: object): IncomingPlant =>
  unreadPlant(JSON.stringify({ format: 'loyal-hinge/plant', version: 1, plant: { ...plant, ...more } }));

/** Takes all rows as the database would, and gives back what was refused. */
function refusalOf(sent: IncomingPlant): ProblemError['problem'] | null {
  try {
    for (const rows of [sent.zones, sent.machines, sent.applications, sent.links]) Array.from<unknown>(rows);
    sent.refuse();
    return null;
  } catch (error) {
    if (error instanceof ProblemError) return error.problem;
    throw error;
  }
}

describe('a plant on its way in', () => {
  it('is taken row by row', () => {
    const sent = incoming({});
    expect(sent.sizes).toEqual({ zones: 1, machines: 1, applications: 0, links: 0 });
    expect([...sent.machines]).toEqual(plant.machines);
  });

  it('names every row that is wrong, of every part', () => {
    const refusal = refusalOf(incoming({ zones: [...plant.zones, { id: 'Big', name: 'x', order: 1 }], machines: [7] }));
    expect(refusal?.faults?.map(({ place }) => place)).toEqual(['plant.zones.1.id', 'plant.machines.0']);
    expect(refusal?.detail).toContain('plant.zones.1.id: An id is made of');
  });

  it('is given up once fifty places are wrong', () => {
    const machines = Array.from({ length: 1000 }, () => ({ id: '' }));
    const sent = incoming({ machines });
    expect(() => [...sent.machines]).toThrow(/plant\.machines\.0/);
    expect(refusalOf(incoming({ machines }))?.faults).toHaveLength(50);
  });

  it('is refused where its rows are right and contradict each other', () => {
    expect(refusalOf(incoming({ zones: [] }))?.faults).toEqual([
      { place: 'furnace.zoneId', says: '"hall" is not in the plant.' },
    ]);
    expect(refusalOf(incoming({}))).toBeNull();
  });
});
