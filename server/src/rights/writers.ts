import { groupRights, neededRights, rightBit } from '@loyal-hinge/core';
import type { RatedNode } from '@loyal-hinge/core';
import type { RightsWish, RightsWriter, RightsWriters } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { serversWithIdentities } from './identities.js';
import type { ServerWithIdentities } from './identities.js';
import { columnsOf, fitsWish, isKnown, ratedNodes } from './views.js';
import type { Column } from './views.js';

const mostWriters = 500;
/** On paper nobody can ask for more. */
export const mostReported = 5000;
const write = rightBit('write');

/** Who can write in the whole plant, or at some servers, by the newest snapshots: what no link needs stands first, the anonymous before all. */
export async function rightsWritersOf(
  db: Database,
  wish: Pick<RightsWish, 'find'>,
  serverIds?: readonly string[],
  most = mostWriters,
): Promise<RightsWriters> {
  const fits = fitsWish(wish);
  const writers: RightsWriter[] = [];
  const unseen: RightsWriters['unseen'] = [];
  // One server after the other: the nodes of all of them together are more than need be held at once.
  for (const server of await serversWithIdentities(db, serverIds)) {
    const columns = (await columnsOf(db, server)).filter(isKnown);
    if (columns.length === 0) unseen.push({ serverId: server.id, server: server.name });
    else writers.push(...writersOf(server, columns, fits));
  }
  writers.sort((left, right) => gravity(right) - gravity(left) || right.nodes - left.nodes);
  return {
    writers: writers.slice(0, most),
    total: writers.length,
    accounts: new Set(writers.map(({ serverId, identity }) => `${serverId} ${identity}`)).size,
    unneeded: writers.filter(({ neededBy }) => neededBy.length === 0).length,
    unnamed: writers.filter(({ isAnonymous }) => isAnonymous).length,
    unseen,
  };
}

const gravity = ({ isAnonymous, neededBy }: RightsWriter): number =>
  (neededBy.length === 0 ? 2 : 0) + (isAnonymous ? 1 : 0);

/** How an identity stands to a node: groups are named by what they have in common that no other node has. */
const standings = { 'not here': 0, 'not needed': 1, needed: 2 } as const;

function writersOf(
  server: ServerWithIdentities,
  columns: readonly Column[],
  fits: (node: RatedNode) => boolean,
): RightsWriter[] {
  const nodes = ratedNodes(columns);
  return columns.flatMap(({ identity, name, snapshots }, at) => {
    const needs = neededRights(identity.links.flatMap((link) => link.needs));
    const standingOf = (node: RatedNode): keyof typeof standings => {
      if (((node.rights[at] ?? 0) & write) === 0 || !fits(node)) return 'not here';
      return (needs(node.path) & write) === 0 ? 'not needed' : 'needed';
    };
    const writing = identity.links.filter((link) => link.needs.some(({ uses }) => uses.includes('write')));
    return groupRights(nodes.map((node) => ({ ...node, rights: [standings[standingOf(node)]] })))
      .filter(({ rights }) => rights[0] !== standings['not here'])
      .map(({ pattern, nodes: size, rights }) => ({
        serverId: server.id,
        server: server.name,
        identity: name,
        isAnonymous: identity.userName === '',
        pattern,
        nodes: size,
        neededBy: rights[0] === standings.needed ? writing.map((link) => link.name) : [],
        // What is laid over it is newer.
        seenAt: snapshots[0]?.endedAt ? new Date(snapshots[0].endedAt).toISOString() : null,
      }));
  });
}
