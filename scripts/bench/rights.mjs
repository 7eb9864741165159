import { compareRights, groupRights, rightsGaps } from '../../core/dist/index.js';
import { timedOver } from './timing.mjs';

const sizes = [10_000, 100_000, 400_000];
const identityCount = 8;
const rounds = 3;

/** Rights of whole address spaces: grouped, compared with needs, and compared with what they were before. */
export function rights(say) {
  say(`\nRights of ${identityCount} identities on whole address spaces (medians of ${rounds}):`);
  measured(sizes[0]);
  const results = sizes.map(measured);
  const [first] = results;
  for (const { nodes, grouping, groups, gaps, comparing } of results) {
    const growth = (grouping / nodes / (first.grouping / first.nodes)).toFixed(2);
    say(
      `  ${String(nodes).padStart(6)} nodes  grouped in ${Math.round(grouping)} ms (${groups} groups; ${growth} times the time per node at ${first.nodes}), compared with needs in ${Math.round(gaps)} ms, two snapshots of one identity compared in ${Math.round(comparing)} ms`,
    );
  }
}

function measured(count) {
  const nodes = Array.from({ length: count }, (_, index) => nodeAt(index));
  const identities = Array.from({ length: identityCount }, (_, index) => ({
    name: `identity ${index}`,
    isAnonymous: index === 0,
    needs: [{ path: `Area ${index}/**/Value 1`, uses: ['read', 'write'] }],
  }));
  const timed = (work) => timedOver(rounds, work);
  const asOne = (change) => ({
    identity: 'identity 1',
    nodes: new Map(nodes.map(({ nodeId, path, rights: [, own] }, at) => [nodeId, { path, rights: own ^ change(at) }])),
  });
  const [before, after] = [asOne(() => 0), asOne((at) => (at % 1000 === 0 ? 2 : 0))];
  return {
    nodes: count,
    grouping: timed(() => groupRights(nodes)),
    groups: groupRights(nodes).length,
    gaps: timed(() => rightsGaps(nodes, identities)),
    comparing: timed(() => compareRights(before, after)),
  };
}

/** Areas of a hundred devices with ten values each; every tenth device is open to operators, every fiftieth to everybody. */
function nodeAt(index) {
  const [area, device, value] = [Math.floor(index / 1000), Math.floor(index / 10) % 100, index % 10];
  const open = device % 50 === 0 ? 3 : 1;
  return {
    nodeId: `ns=1;i=${index}`,
    path: [`Area ${area}`, `Device ${device}`, `Value ${value}`],
    rights: Array.from({ length: identityCount }, (_, identity) =>
      identity === 0 ? open : device % 10 === 0 && identity > 4 ? 3 : 1,
    ),
  };
}
