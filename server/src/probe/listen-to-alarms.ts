import type { HeardEvent } from '../ua/events.js';
import type { UaSession } from '../ua/session.js';
import type { Walk } from './walk.js';

/** Listens to the events of nodes until one of each has come, or the time is up. */
export async function listenToAlarms(
  walk: Walk,
  session: UaSession,
  items: readonly { readonly path: string; readonly nodeId: string }[],
): Promise<void> {
  walk.begin('alarms', 'listening to alarms');
  const begun = performance.now();
  const heard = items.map(() => ({ events: 0, first: null as HeardEvent | null }));
  let wake: () => void = () => undefined;
  const woken = new Promise<void>((resolve) => (wake = resolve));
  const timer = setTimeout(() => wake(), walk.means.limits.alarmsMs);
  walk.signal.addEventListener('abort', wake, { once: true });
  const listening = await session.listen(
    items.map(({ nodeId }) => nodeId),
    (index, event) => {
      const item = heard[index];
      if (!item) return;
      item.events += 1;
      item.first ??= event;
      if (heard.every(({ events }) => events > 0)) wake();
    },
  );
  const { codes, sendEvents, refreshCode } = listening;
  if (codes.every((code) => code !== 'Good')) wake();
  await woken;
  clearTimeout(timer);
  walk.signal.removeEventListener('abort', wake);
  await listening.stop();
  walk.signal.throwIfAborted();
  const waitedMs = Math.round(performance.now() - begun);
  items.forEach(({ path, nodeId }, index) => {
    const { events, first } = heard[index] ?? { events: 0, first: null };
    walk.log.note({
      kind: 'item-alarms',
      path,
      nodeId,
      sendsEvents: sendEvents[index] ?? null,
      code: codes[index] ?? 'Bad',
      refreshCode,
      events,
      first: first && { message: first.message, severity: first.severity, sourceName: first.sourceName },
      waitedMs,
    });
  });
}
