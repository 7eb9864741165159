import type { ClientSession } from 'node-opcua-client';
import { TimestampsToReturn } from 'node-opcua-client';
import { HistoryData, HistoryReadRequest, ReadRawModifiedDetails } from 'node-opcua-types';
import type { Limited } from './monitored-item.js';
import { readValue } from './read-value.js';
import type { ReadValue } from './read-value.js';

export interface ReadHistory {
  readonly code: string;
  /** In the order of the server. */
  readonly values: readonly ReadValue[];
  readonly hasMore: boolean;
}

/** Values of a span, at most so many, as the server has recorded them (HistoryRead of raw values, Part 11 §6.5.3). */
export async function readHistory(
  session: ClientSession,
  {
    nodeId,
    from,
    to,
    most,
  }: { readonly nodeId: string; readonly from: Date; readonly to: Date; readonly most: number },
  limited: Limited,
): Promise<ReadHistory> {
  const [result] = await limited(session.readHistoryValue([nodeId], from, to, { numValuesPerNode: most }));
  if (!result) return { code: 'BadUnexpectedError', values: [], hasMore: false };
  const data: unknown = result.historyData;
  const values = data instanceof HistoryData ? (data.dataValues ?? []) : [];
  const { continuationPoint } = result;
  const hasMore = (continuationPoint?.length ?? 0) > 0;
  if (hasMore) await release(session, nodeId, continuationPoint, limited).catch(() => undefined);
  // A server may send more than was asked for.
  return { code: result.statusCode.name, values: values.slice(0, most).map(readValue), hasMore };
}

/** The server keeps nothing ready for values that nobody asks for. */
async function release(
  session: ClientSession,
  nodeId: string,
  continuationPoint: Buffer,
  limited: Limited,
): Promise<void> {
  const nodesToRead = [{ nodeId, continuationPoint }];
  await limited(
    session.historyRead(
      new HistoryReadRequest({
        historyReadDetails: new ReadRawModifiedDetails({}),
        nodesToRead,
        releaseContinuationPoints: true,
        timestampsToReturn: TimestampsToReturn.Both,
      }),
    ),
  );
}
