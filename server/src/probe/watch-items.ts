import type { UaSession } from '../ua/session.js';
import type { Walk } from './walk.js';

const samplingIntervalMs = 250;

export async function watch(
  walk: Walk,
  session: UaSession,
  items: readonly { path: string; nodeId: string }[],
): Promise<void> {
  walk.begin('watch', 'watching');
  const begun = performance.now();
  const heard = items.map(() => ({ firstMs: null as number | null, notifications: 0, newest: null as string | null }));
  let keepAlives = 0;
  let wake: () => void = () => undefined;
  const woken = new Promise<void>((resolve) => (wake = resolve));
  const isDone = (): boolean =>
    heard.every((item) => item.firstMs !== null) && heard.some((item) => item.notifications > 1);
  const watching = await session.watch(
    items.map((item) => item.nodeId),
    samplingIntervalMs,
    samplingIntervalMs,
    (index, value) => {
      const item = heard[index];
      if (!item) return;
      item.newest = value.sourceTimestamp;
      item.firstMs ??= Math.round(performance.now() - begun);
      item.notifications += 1;
      if (isDone()) wake();
    },
    () => (keepAlives += 1),
  );
  const timer = setTimeout(() => wake(), walk.means.limits.watchMs);
  const cancel = (): void => wake();
  walk.signal.addEventListener('abort', cancel, { once: true });
  if (watching.every((item) => item.code !== 'Good')) wake();
  await woken;
  clearTimeout(timer);
  walk.signal.removeEventListener('abort', cancel);
  await watching[0]?.stop();
  walk.signal.throwIfAborted();
  items.forEach(({ path }, index) => {
    const state = watching[index];
    const counts = heard[index];
    if (!state || !counts) return;
    walk.log.note({
      kind: 'item-watched',
      path,
      code: state.code,
      requestedSamplingIntervalMs: samplingIntervalMs,
      revisedSamplingIntervalMs: state.revisedSamplingIntervalMs,
      revisedPublishingIntervalMs: state.revisedPublishingIntervalMs,
      firstNotificationMs: counts.firstMs,
      newestSourceTimestamp: counts.newest,
      changes: Math.max(0, counts.notifications - 1),
      keepAlives,
      waitedMs: Math.round(performance.now() - begun),
    });
  });
}
