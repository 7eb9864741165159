import { failureOf } from '../ua/failure.js';
import type { UaSession } from '../ua/session.js';
import type { Walk } from './walk.js';

/** A short span: whether there is a history, not what it says. */
const spanMs = 3_600_000;
const mostValues = 100;

/** Reads a little of what a server has recorded of each item. */
export async function readHistories(
  walk: Walk,
  session: UaSession,
  items: readonly { readonly path: string; readonly nodeId: string }[],
): Promise<void> {
  const levels = await session.read(items.map(({ nodeId }) => nodeId));
  for (const [index, { path, nodeId }] of items.entries()) {
    walk.begin('history', `reading the history of ${path}`);
    const to = new Date();
    const from = new Date(to.getTime() - spanMs);
    const begun = performance.now();
    const { code, values } = await session
      .history(nodeId, from, to, mostValues)
      .catch((error: unknown) => ({ code: failureOf(error).code, values: [] }));
    const times = values.flatMap(({ sourceTimestamp }) => sourceTimestamp ?? []);
    walk.signal.throwIfAborted();
    walk.log.note({
      kind: 'item-history',
      path,
      nodeId,
      code,
      from: from.toISOString(),
      to: to.toISOString(),
      values: values.length,
      accessLevel: levels[index]?.accessLevel ?? [],
      userAccessLevel: levels[index]?.userAccessLevel ?? [],
      oldest: times[0] ?? null,
      newest: times.at(-1) ?? null,
      ms: Math.round(performance.now() - begun),
    });
  }
}
