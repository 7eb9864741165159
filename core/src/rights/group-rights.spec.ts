import { compareRights } from './compare-rights.js';
import { groupGaps, rightsGaps } from './gaps.js';
import { groupRights } from './group-rights.js';
import type { RatedNode } from './group-rights.js';
import { fitsPattern, isPatternFault, itemPattern } from './item-pattern.js';
import { rightBit } from './node-rights.js';

const [read, write] = [rightBit('read'), rightBit('write')];
const node = (path: string, ...rights: readonly number[]): RatedNode => ({
  nodeId: `ns=1;s=${path}`,
  path: path.split('/'),
  rights,
});
const told = (nodes: readonly RatedNode[]) =>
  groupRights(nodes).map(({ pattern, nodes: count, rights }) => [pattern, count, rights.join(' ')]);

describe('nodes with the same rights', () => {
  it('are one group from the branch on at which all have them', () => {
    expect(told([node('Lehr/A/Temperature', 1), node('Lehr/A/Wanted', 1), node('Lehr/B/Temperature', 1)])).toEqual([
      ['**', 3, '1'],
    ]);
    expect(told([node('Lehr/A/Temperature', 1), node('Lehr/B/Temperature', 1), node('Bath/Level', 3)])).toEqual([
      ['Lehr/**', 2, '1'],
      ['Bath/**', 1, '3'],
    ]);
  });

  it('beside each other are one group by what their names begin with', () => {
    const nodes = [node('Pumps/Pump 1', 3), node('Pumps/Pump 2', 3), node('Pumps/Pump 3', 3), node('Pumps/State', 1)];
    expect(told(nodes)).toEqual([
      ['Pumps/Pump *', 3, '3'],
      ['Pumps/State', 1, '1'],
    ]);
  });

  it('say where others have such names, too', () => {
    const nodes = [node('Pumps/Pump 1', 3), node('Pumps/Pump 2', 1), node('Pumps/Pump 3', 3)];
    expect(groupRights(nodes).map(({ pattern, fitsOthers }) => [pattern, fitsOthers])).toEqual([
      ['Pumps/Pump *', true],
      ['Pumps/Pump 2', false],
    ]);
  });

  it('of the same name on branches that are built alike are one group', () => {
    const nodes = ['A', 'B', 'C'].flatMap((zone) => [
      node(`Lehr/Zone ${zone}/Temperature`, 1),
      node(`Lehr/Zone ${zone}/Wanted`, 3),
    ]);
    expect(told([...nodes, node('Bath/Level', 1)])).toEqual([
      ['Lehr/Zone */Temperature', 3, '1'],
      ['Lehr/Zone */Wanted', 3, '3'],
      ['Bath/**', 1, '1'],
    ]);
    const odd = [...nodes, node('Lehr/Zone D/Temperature', 3)];
    expect(
      groupRights(odd)
        .filter(({ fitsOthers }) => fitsOthers)
        .map(({ pattern }) => pattern),
    ).toEqual(['Lehr/Zone */Temperature']);
  });

  it('keep a node that has others below it apart from them where it differs', () => {
    expect(told([node('Lehr', 0), node('Lehr/A', 1), node('Lehr/B', 1)])).toEqual([
      ['Lehr/*', 2, '1'],
      ['Lehr', 1, '0'],
    ]);
  });

  it('are each in one group whose pattern fits them, whatever the plant looks like', () => {
    let seed = 11;
    const next = (below: number): number => (seed = (seed * 48_271) % 2_147_483_647) % below;
    for (let round = 0; round < 60; round += 1) {
      const nodes = Array.from({ length: 1 + next(40) }, (_, at) => {
        const path = Array.from({ length: 1 + next(4) }, () => `P${next(3)}`).join('/');
        return { ...node(path, next(2), next(3)), nodeId: `i=${at}` };
      });
      const groups = groupRights(nodes);
      expect(groups.reduce((sum, { nodes: count }) => sum + count, 0)).toBe(nodes.length);
      for (const { path, rights } of nodes)
        expect(
          groups.some(({ pattern, rights: own }) => {
            const known = itemPattern(pattern);
            return own.join() === rights.join() && !isPatternFault(known) && fitsPattern(known, path);
          }),
        ).toBe(true);
    }
  });
});

describe('rights and needs', () => {
  const nodes = [node('Lehr/Speed', read | write, read, read | write), node('Lehr/State', read, 0, read)];
  const identities = [
    { name: 'display', isAnonymous: false, needs: [{ path: 'Lehr/Speed', uses: ['watch'] as const }] },
    { name: 'recorder', isAnonymous: false, needs: [{ path: 'Lehr/*', uses: ['read', 'write'] as const }] },
    { name: 'nobody', isAnonymous: true, needs: [] },
  ];
  const gaps = rightsGaps(nodes, identities).map(({ path, identity, right, gap, grade }) =>
    [path.at(-1), identity, right, gap, grade].join(' '),
  );

  it('miss what a link needs and is not given', () => {
    expect(gaps.filter((gap) => gap.includes('missing')).sort()).toEqual([
      'Speed recorder write missing grave',
      'State recorder read missing grave',
      'State recorder write missing grave',
    ]);
  });

  it('exceed what it needs, gravely where anybody may write, and reading more is told of nobody with a name', () => {
    expect(gaps.filter((gap) => gap.includes('excess'))).toEqual([
      'Speed nobody write excess grave',
      'Speed display write excess weak',
      'Speed nobody read excess slight',
      'State nobody read excess slight',
    ]);
  });
});

describe('gaps of the same kind', () => {
  it('are put together by what their paths have in common, and not with what is beside them', () => {
    const nodes = ['A', 'B', 'C'].flatMap((zone) => [
      node(`Lehr/Zone ${zone}/Temperature`, read),
      node(`Lehr/Zone ${zone}/Temperature/Range`, read | write),
    ]);
    const gaps = rightsGaps(
      [...nodes, node('Bath/Level', write)],
      [{ name: 'display', isAnonymous: false, needs: [] }],
    );
    expect(groupGaps(gaps).map(({ pattern, nodes: count, right, grade }) => [pattern, count, right, grade])).toEqual([
      ['Lehr/Zone */Temperature/Range', 3, 'write', 'weak'],
      ['Bath/Level', 1, 'write', 'weak'],
    ]);
    expect(groupGaps([])).toEqual([]);
  });
});

describe('two snapshots', () => {
  const then = (...nodes: readonly RatedNode[]) => ({
    identity: 'display',
    nodes: new Map(nodes.map(({ nodeId, path, rights }) => [nodeId, { path, rights: rights[0] ?? 0 }])),
  });

  it('tell what has become writable, what was taken, and which nodes came and went', () => {
    const before = then(node('Speed', read), node('Level', read | write), node('Old', read));
    const after = then(node('Speed', read | write), node('Level', read), node('New', write));
    expect(compareRights(before, after).map(({ path, change, rights }) => [path[0], change, rights])).toEqual([
      ['Speed', 'given', write],
      ['New', 'new node', write],
      ['Level', 'taken', write],
      ['Old', 'node is gone', read],
    ]);
    expect(compareRights(before, before)).toEqual([]);
  });
});
