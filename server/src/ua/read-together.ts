import type { ClientSession, DataValue, ReadValueIdOptions } from 'node-opcua-client';
import { inRequests, operationLimit } from './in-requests.js';
import type { Limited } from './monitored-item.js';

/** Reads attributes in as many requests as the server wants, in the order of what was wished for. */
export const readTogether = (
  session: Pick<ClientSession, 'read'>,
  wished: readonly ReadValueIdOptions[],
  limited: Limited,
): Promise<DataValue[]> =>
  inRequests({ session, limit: operationLimit.nodesPerRead, limited }, wished, (part) => session.read([...part], 0));
