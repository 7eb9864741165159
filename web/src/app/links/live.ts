import { Observable, repeat } from 'rxjs';
import type { HingeEvent } from '@loyal-hinge/contract';

export type LiveNews =
  | { readonly kind: 'open' }
  /** Some events are gone: everything is to be looked at anew. */
  | { readonly kind: 'missed' }
  | { readonly kind: 'broken' }
  | { readonly kind: 'event'; readonly event: HingeEvent };

const againAfterMs = 3000;

/** What the server tells by itself; the browser takes a broken stream up again where it broke, and we one that was refused. */
export const liveNews = (): Observable<LiveNews> => stream().pipe(repeat({ delay: againAfterMs }));

/** Ends where the server refuses to go on. */
const stream = (): Observable<LiveNews> =>
  new Observable((subscriber) => {
    const source = new EventSource('/api/events');
    source.addEventListener('hello', ({ data }: MessageEvent<string>) => {
      subscriber.next({ kind: 'open' });
      if ((JSON.parse(data) as { missed?: boolean }).missed) subscriber.next({ kind: 'missed' });
    });
    source.onmessage = ({ data }: MessageEvent<string>) =>
      subscriber.next({ kind: 'event', event: JSON.parse(data) as HingeEvent });
    source.onerror = () => {
      subscriber.next({ kind: 'broken' });
      if (source.readyState === EventSource.CLOSED) subscriber.complete();
    };
    return () => source.close();
  });
