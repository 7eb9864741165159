import type { ClientSession } from 'node-opcua-client';
import { HistoryData } from 'node-opcua-types';
import type { Limited } from './monitored-item.js';

export interface ReadHistory {
  readonly code: string;
  /** Source timestamps, in the order of the server. */
  readonly times: readonly string[];
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
  if (!result) return { code: 'BadUnexpectedError', times: [], hasMore: false };
  const data: unknown = result.historyData;
  const values = data instanceof HistoryData ? (data.dataValues ?? []) : [];
  return {
    code: result.statusCode.name,
    times: values.flatMap(({ sourceTimestamp }) => (sourceTimestamp ? [sourceTimestamp.toISOString()] : [])),
    hasMore: (result.continuationPoint?.length ?? 0) > 0,
  };
}
