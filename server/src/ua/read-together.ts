import { AttributeIds } from 'node-opcua-client';
import type { ClientSession, DataValue, ReadValueIdOptions } from 'node-opcua-client';
import { failureOf } from './failure.js';
import type { Limited } from './monitored-item.js';

/** MaxNodesPerRead (ServerCapabilities.OperationLimits, Part 5 §6.3.11). */
const maxNodesPerRead = 'i=11705';

type Reading = Pick<ClientSession, 'read'>;

/** By session, how many nodes one request may have. */
const limits = new WeakMap<Reading, Promise<number>>();

/**
 * Reads attributes in as many requests as the server wants: it is asked once in a session how many nodes it takes; where
 * it refuses what it said it takes, the half of that is tried. In the order of what was wished for.
 */
export async function readTogether(
  session: Reading,
  wished: readonly ReadValueIdOptions[],
  limited: Limited,
): Promise<DataValue[]> {
  if (wished.length < 2) return wished.length === 0 ? [] : limited(session.read([...wished], 0));
  const values: DataValue[] = [];
  while (values.length < wished.length) {
    const most = await limitOf(session, limited);
    const part = wished.slice(values.length, values.length + most);
    try {
      values.push(...(await limited(session.read(part, 0))));
    } catch (error) {
      if (failureOf(error).code !== 'BadTooManyOperations' || part.length < 2) throw error;
      limits.set(session, Promise.resolve(Math.floor(part.length / 2)));
    }
  }
  return values;
}

function limitOf(session: Reading, limited: Limited): Promise<number> {
  const known =
    limits.get(session) ??
    limited(session.read([{ nodeId: maxNodesPerRead, attributeId: AttributeIds.Value }], 0)).then(([told]) => {
      const most: unknown = told?.value?.value;
      return typeof most === 'number' && most > 0 ? most : Infinity;
    });
  limits.set(session, known);
  return known;
}
