import { AttributeIds } from 'node-opcua-client';
import type { ClientSession } from 'node-opcua-client';
import { redundancySupportOf } from '@loyal-hinge/core';
import type { RedundancySupport } from '@loyal-hinge/core';
import type { Limited } from './monitored-item.js';
import { longestText } from './read-value.js';

/** Well-known nodes of ServerRedundancy (Part 5 §6.3.7 and §6.3.9; Part 6 Annex A). */
const nodes = { support: 'i=3709', uris: 'i=11314' } as const;
const mostServers = 100;

export interface ReadRedundancy {
  readonly support: RedundancySupport;
  /** Application URIs of all servers of its set, with its own or without. */
  readonly uris: readonly string[];
}

/** How others stand in for a server, as it tells; null: it doesn’t. */
export async function readRedundancy(session: ClientSession, limited: Limited): Promise<ReadRedundancy | null> {
  const [support, uris] = await limited(
    session.read(Object.values(nodes).map((nodeId) => ({ nodeId, attributeId: AttributeIds.Value }))),
  );
  const number: unknown = support?.statusCode.isGood() ? support.value.value : null;
  const known = typeof number === 'number' ? redundancySupportOf(number) : null;
  if (known === null) return null;
  const list: unknown = uris?.statusCode.isGood() ? uris.value.value : [];
  const texts = Array.isArray(list)
    ? list.filter((each): each is string => typeof each === 'string' && each !== '')
    : [];
  return { support: known, uris: [...new Set(texts)].slice(0, mostServers).map((text) => text.slice(0, longestText)) };
}
