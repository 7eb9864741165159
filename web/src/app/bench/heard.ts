import { Observable } from 'rxjs';
import type { BenchEvents, BenchHeard } from '@loyal-hinge/contract';

/**
 * What is heard of a session and its watched items, as the server tells it; it closes the bench where nobody listens any
 * more. null: there is no such bench.
 */
export const benchHeard = (
  benchId: string,
  nodeIds: readonly string[],
  everyMs: number,
): Observable<BenchHeard | null> =>
  new Observable((subscriber) => {
    const query = [`everyMs=${everyMs}`, ...nodeIds.map((nodeId) => `nodeId=${encodeURIComponent(nodeId)}`)].join('&');
    const source = new EventSource(`/api/bench/${benchId}/values?${query}`);
    source.onmessage = ({ data }: MessageEvent<string>) => subscriber.next(JSON.parse(data) as BenchHeard);
    // Where only the line broke, it is tried again by itself; where the answer was a refusal, it is not.
    source.onerror = () => {
      if (source.readyState === EventSource.CLOSED) subscriber.next(null);
    };
    return () => source.close();
  });

/** Events of a node; it listens no more where nobody does. */
export const benchEvents = (benchId: string, nodeId: string): Observable<BenchEvents> =>
  new Observable((subscriber) => {
    const source = new EventSource(`/api/bench/${benchId}/events?nodeId=${encodeURIComponent(nodeId)}`);
    source.onmessage = ({ data }: MessageEvent<string>) => subscriber.next(JSON.parse(data) as BenchEvents);
    source.onerror = () => {
      if (source.readyState === EventSource.CLOSED)
        subscriber.next({ events: [], says: 'The server does not let it be listened to.' });
    };
    return () => source.close();
  });
