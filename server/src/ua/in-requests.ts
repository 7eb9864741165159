import { AttributeIds } from 'node-opcua-client';
import type { ClientSession } from 'node-opcua-client';
import { failureOf } from './failure.js';
import type { Limited } from './monitored-item.js';

/** How much one request may have (ServerCapabilities.OperationLimits, Part 5 §6.3.11), by the node that says it. */
export const operationLimit = {
  nodesPerRead: 'i=11705',
  monitoredItemsPerCall: 'i=11714',
} as const;
type OperationLimit = (typeof operationLimit)[keyof typeof operationLimit];

type Reading = Pick<ClientSession, 'read'>;

/** By session, what is known of its limits. */
const known = new WeakMap<Reading, Map<OperationLimit, Promise<number>>>();

/**
 * Asks for something of many nodes in as many requests as the server wants: it is asked once in a session how much it takes;
 * where it refuses what it said it takes, the half of that is tried. In the order of what was wished for.
 */
export async function inRequests<Wish, Got>(
  { session, limit, limited }: { readonly session: Reading; readonly limit: OperationLimit; readonly limited: Limited },
  wished: readonly Wish[],
  call: (part: readonly Wish[]) => Promise<readonly Got[]>,
): Promise<Got[]> {
  if (wished.length < 2) return wished.length === 0 ? [] : [...(await limited(call(wished)))];
  const limits = known.get(session) ?? new Map<OperationLimit, Promise<number>>();
  known.set(session, limits);
  const got: Got[] = [];
  while (got.length < wished.length) {
    const told = limits.get(limit) ?? limited(readLimit(session, limit));
    limits.set(limit, told);
    const part = wished.slice(got.length, got.length + (await told));
    try {
      got.push(...(await limited(call(part))));
    } catch (error) {
      if (failureOf(error).code !== 'BadTooManyOperations' || part.length < 2) throw error;
      limits.set(limit, Promise.resolve(Math.floor(part.length / 2)));
    }
  }
  return got;
}

async function readLimit(session: Reading, limit: OperationLimit): Promise<number> {
  const [told] = await session.read([{ nodeId: limit, attributeId: AttributeIds.Value }], 0);
  const most: unknown = told?.value?.value;
  return typeof most === 'number' && most > 0 ? most : Infinity;
}
