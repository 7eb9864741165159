import type { ClientMonitoredItem } from 'node-opcua-client';
import { within } from './within.js';

/** Runs a call within the time-out of its session. */
export type Limited = <Value>(call: Promise<Value>) => Promise<Value>;

/** Whether a monitored item is there, as its code. */
export function begunItem(item: ClientMonitoredItem, limited: Limited): Promise<string> {
  return limited(
    new Promise<string>((resolve) => {
      item.once('initialized', () => resolve('Good'));
      item.once('err', (message: string) => resolve(/Bad[A-Za-z]+/.exec(message)?.[0] ?? 'Bad'));
    }),
  ).catch(() => 'BadTimeout');
}

const terminatingMs = 8000;

/** Ends a subscription, once, however often it is asked for. */
export function endOf(subscription: { terminate(): Promise<void> }): () => Promise<void> {
  let ending: Promise<unknown> | null = null;
  return async () => {
    ending ??= within(terminatingMs, new AbortController().signal, subscription.terminate()).catch(() => undefined);
    await ending;
  };
}
