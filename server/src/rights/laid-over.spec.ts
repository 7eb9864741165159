import type { NodeAttributes } from '@loyal-hinge/core';
import type { KeptNode } from './store.js';
import { covers, laidOver, lay } from './laid-over.js';
import { matchOf } from './matches.js';

const attributes: NodeAttributes = {
  nodeClass: 'Variable',
  accessLevel: 1,
  userAccessLevel: 1,
  userPermissions: null,
  accessRestrictions: null,
  userWriteMask: 0,
  userExecutable: null,
};
const node = (path: string, differs: Partial<NodeAttributes> = {}): KeptNode => ({
  nodeId: path,
  path: path.split('/'),
  attributes: { ...attributes, ...differs },
});

describe('snapshots that are laid over each other', () => {
  it('are the newest of all nodes, and newer ones of parts, the newest last', () => {
    const row = (id: string, part: string | null, state: 'whole' | 'part' = 'whole') => ({ id, part, state });
    const idsOf = (rows: readonly { readonly id: string }[]): string[] => rows.map(({ id }) => id);
    const newestFirst = [row('d', 'Lehr/**'), row('c', 'Furnace/**'), row('b', null), row('a', 'Lehr/**')];
    expect(idsOf(laidOver(newestFirst))).toEqual(['b', 'c', 'd']);
    expect(idsOf(laidOver(newestFirst.slice(0, 2)))).toEqual(['c', 'd']);
    expect(laidOver([])).toEqual([]);
    // One that was broken off takes nothing away that was seen before.
    expect(idsOf(laidOver([row('f', null, 'part'), row('e', 'Lehr/**'), ...newestFirst.slice(2)]))).toEqual([
      'b',
      'e',
      'f',
    ]);
  });

  it('tell of a part what the newer one saw, and that the rest of it is gone', () => {
    const nodes = new Map();
    lay(nodes, { part: null, state: 'whole', mode: 'Sign' }, [node('Lehr/A'), node('Lehr/B'), node('Furnace/A')]);
    lay(nodes, { part: 'Lehr/*', state: 'whole', mode: 'SignAndEncrypt' }, [node('Lehr/A', { userAccessLevel: 3 })]);
    expect([...nodes.keys()].sort()).toEqual(['Furnace/A', 'Lehr/A']);
    expect(nodes.get('Lehr/A')).toMatchObject({ mode: 'SignAndEncrypt', attributes: { userAccessLevel: 3 } });
    expect(nodes.get('Furnace/A')).toMatchObject({ mode: 'Sign' });
  });

  it('tell of no more than their parts where none is of all nodes', () => {
    const of = (...parts: (string | null)[]) => ({
      snapshots: parts.map((part) => ({ part, state: 'whole' as const })),
    });
    expect([covers(of('Lehr/**'), ['Lehr', 'A']), covers(of('Lehr/**'), ['Furnace'])]).toEqual([true, false]);
    expect([covers(of(null, 'Lehr/**'), ['Furnace']), covers(of(), ['Furnace'])]).toEqual([true, false]);
    const brokenOff = {
      snapshots: [
        { part: null, state: 'part' as const },
        { part: 'Lehr/**', state: 'part' as const },
      ],
    };
    expect(covers(brokenOff, ['Lehr', 'A'])).toBe(false);
  });

  it('say nothing of what a newer one had not come to', () => {
    const nodes = new Map();
    lay(nodes, { part: null, state: 'whole', mode: 'Sign' }, [node('Lehr/A'), node('Lehr/B')]);
    lay(nodes, { part: 'Lehr/*', state: 'part', mode: 'Sign' }, [node('Lehr/A', { userAccessLevel: 3 })]);
    expect([...nodes.keys()]).toEqual(['Lehr/A', 'Lehr/B']);
  });
});

describe('what a path stands for', () => {
  const nodes = [
    node('Lehr', { nodeClass: 'Object' }),
    ...['Lehr/Zone A/Temperature', 'Lehr/Zone B/Temperature', 'Lehr/Zone B/Pressure'].map((path) => node(path)),
  ];

  it.each([
    ['Lehr/Zone */Temperature', { isPattern: true, count: 2 }],
    // Only variables are needed by pattern.
    ['**', { isPattern: true, count: 3 }],
    ['Lehr/Zone A/Temperature', { isPattern: false, count: 1, examples: ['Lehr/Zone A/Temperature'] }],
    ['Lehr', { isPattern: false, count: 1 }],
    ['Lehr/Zone C/Temperature', { isPattern: false, count: 0, examples: [] }],
  ])('%s is looked up among what was seen', (path, told) => {
    expect(matchOf(path, nodes)).toMatchObject({ path, ...told });
  });
});
