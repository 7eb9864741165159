import { Observable, defer, repeat } from 'rxjs';
import type { HingeEvent } from '@loyal-hinge/contract';

export type LiveNews =
  | { readonly kind: 'open' }
  /** Some events are gone: everything is to be looked at anew. */
  | { readonly kind: 'missed' }
  | { readonly kind: 'broken' }
  | { readonly kind: 'event'; readonly event: HingeEvent };

const againAfterMs = 3000;

/**
 * What the server tells by itself; the browser takes a broken stream up again where it broke, and we one that was refused.
 * @param after the number of the event behind which it begins: what was read meanwhile may be older than the next one
 */
export function liveNews(after: number): Observable<LiveNews> {
  let newest = String(after);
  return defer(() => stream(newest, (id) => (newest = id || newest))).pipe(repeat({ delay: againAfterMs }));
}

/** Ends where the server refuses to go on. */
const stream = (after: string, heard: (id: string) => void): Observable<LiveNews> =>
  new Observable((subscriber) => {
    const source = new EventSource(`/api/events?after=${after}`);
    source.addEventListener('hello', ({ data }: MessageEvent<string>) => {
      subscriber.next({ kind: 'open' });
      if ((JSON.parse(data) as { missed?: boolean }).missed) subscriber.next({ kind: 'missed' });
    });
    source.onmessage = ({ data, lastEventId }: MessageEvent<string>) => {
      heard(lastEventId);
      subscriber.next({ kind: 'event', event: JSON.parse(data) as HingeEvent });
    };
    source.onerror = () => {
      subscriber.next({ kind: 'broken' });
      if (source.readyState === EventSource.CLOSED) subscriber.complete();
    };
    return () => source.close();
  });
