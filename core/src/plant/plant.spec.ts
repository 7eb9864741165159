import fc from 'fast-check';
import { subject } from '../testing/builders.js';
import { editDistance, isOneDigitOff, nearest } from './nearness.js';
import { isPlantFault, linkInPlant, plantFaults } from './plant.js';
import type { Plant } from './plant.js';

const { link, client, server, machines } = subject();
const plant: Plant = {
  name: 'Works',
  zones: [{ id: 'hot-end', name: 'Hot End', order: 1 }],
  machines,
  applications: [client, server],
  links: [link],
};

describe('a plant', () => {
  it('holds together where every reference leads somewhere', () => {
    expect(plantFaults(plant)).toEqual([]);
  });

  it('names what contradicts itself', () => {
    const broken = { ...plant, zones: [], links: [link, { ...link, clientId: server.id }] };
    expect(plantFaults(broken).map(({ field }) => field)).toEqual(['id', 'zoneId', 'zoneId', 'zoneId', 'clientId']);
  });

  it('gives a link with both of its ends', () => {
    const found = linkInPlant(plant, link.id);
    expect(isPlantFault(found)).toBe(false);
    expect(linkInPlant(plant, 'nowhere')).toMatchObject({ field: 'id' });
    expect(linkInPlant({ ...plant, applications: [client] }, link.id)).toMatchObject({ field: 'serverId' });
  });
});

describe('nearness', () => {
  it('counts letters to add, drop, change or swap', () => {
    expect([
      editDistance('lehr', 'lehr'),
      editDistance('lehr', 'leer'),
      editDistance('lehr', 'lher'),
      editDistance('', 'abc'),
    ]).toEqual([0, 1, 1, 3]);
  });

  it('is a distance: nought only for the same, and the same both ways', () => {
    const word = fc.string({ maxLength: 8 });
    fc.assert(
      fc.property(word, word, (one, other) => {
        expect(editDistance(one, other)).toBe(editDistance(other, one));
        expect(editDistance(one, other) === 0).toBe(one === other);
      }),
    );
  });

  it('finds the name that was meant, and none where none is near', () => {
    const names = ['furnace.works.example', 'lehr.works.example'];
    expect(nearest('furnca.works.example', names)).toBe('furnace.works.example');
    expect(nearest('cutter.other.example', names)).toBeNull();
  });

  it('sees one wrong digit in an address', () => {
    expect([
      isOneDigitOff('10.0.0.1', '10.0.0.7'),
      isOneDigitOff('10.0.0.1', '10.0.0.1'),
      isOneDigitOff('10.0.0.1', '10.0.3.7'),
    ]).toEqual([true, false, false]);
  });
});
