import { Observable, retry } from 'rxjs';
import type { BenchChange, BenchEvents, BenchHeard, BenchMessage, BenchWatching } from '@loyal-hinge/contract';
import type { Tally } from './watch-state';

/** A value of a watched node as it came. */
export interface HeardValue {
  readonly code: string;
  readonly value: string | null;
  readonly number: number | null;
  /** Milliseconds since 1970. */
  readonly sourceTime: number | null;
  readonly serverTime: number | null;
}

/** What was heard of what is watched over a session. */
export interface HeardOfBench {
  readonly watching: readonly (BenchWatching & { readonly nodeId: string })[];
  /** Each that came, the oldest first. */
  readonly values: readonly { readonly nodeId: string; readonly value: HeardValue }[];
  readonly tally: Tally;
}

/** What was heard of all sessions of this page. */
export interface HeardOfBenches {
  /** Sessions that are there no more. */
  readonly ended: readonly string[];
  /** Sessions that were closed since nobody used them. */
  readonly unused: readonly string[];
  readonly heard: readonly (HeardOfBench & Pick<BenchHeard, 'benchId' | 'session'>)[];
}

/** Reads what one stream tells of a session: its changes name slots, which stand for nodes as was told before. */
class BenchReader {
  private readonly nodes = new Map<number, string>();
  private last = { came: 0, thinned: 0, overflown: 0 };

  read({ slots, watching, changes, came, thinned, overflown }: BenchHeard): HeardOfBench {
    for (const { slot, nodeId } of slots) this.nodes.set(slot, nodeId);
    const { last } = this;
    this.last = { came, thinned, overflown };
    const thinnedNow = thinned - last.thinned;
    return {
      watching: watching.flatMap((item) => {
        const nodeId = this.nodes.get(item.slot);
        return nodeId === undefined ? [] : [{ ...item, nodeId }];
      }),
      values: changes.flatMap((change) => {
        const nodeId = this.nodes.get(change[0]);
        return nodeId === undefined ? [] : [{ nodeId, value: valueOf(change) }];
      }),
      tally: {
        changes: changes.length,
        thinned: thinnedNow,
        overflown: overflown - last.overflown,
        missing: came - last.came - thinnedNow - changes.length,
      },
    };
  }
}

/** Reads the messages of one stream. */
export class BenchesReader {
  private readonly readers = new Map<string, BenchReader>();

  /** @param before sessions that were known before the stream began: where it does not name them, they ended meanwhile */
  constructor(private readonly before: readonly string[]) {}

  read({ here, ended, unused, heard }: BenchMessage): HeardOfBenches {
    const missing = here === null ? [] : this.before.filter((benchId) => !here.includes(benchId));
    return {
      ended: [...missing, ...ended],
      unused,
      heard: heard.map((one) => {
        const reader = this.readers.get(one.benchId) ?? new BenchReader();
        this.readers.set(one.benchId, reader);
        return { ...reader.read(one), benchId: one.benchId, session: one.session };
      }),
    };
  }
}

function valueOf([, told, sourceTime, serverTime, code, number]: BenchChange): HeardValue {
  const isNumber = typeof told === 'number';
  return {
    code: code || 'Good',
    value: isNumber ? String(told) : told,
    number: number ?? (isNumber ? told : null),
    sourceTime,
    serverTime,
  };
}

/** What this page calls itself when it opens sessions. */
export const page = [...crypto.getRandomValues(new Uint8Array(16))]
  .map((byte) => byte.toString(16).padStart(2, '0'))
  .join('');

/** What is heard of all sessions of this page; the server closes them where nobody listens any more. */
export function benchesHeard(): Observable<HeardOfBenches> {
  const known = new Set<string>();
  return new Observable<HeardOfBenches>((subscriber) => {
    const source = new EventSource(`/api/bench-stream?page=${page}`);
    let reader = new BenchesReader([...known]);
    // Where the line broke, it is tried again by itself, and begins anew.
    source.onopen = () => (reader = new BenchesReader([...known]));
    source.onmessage = ({ data }: MessageEvent<string>) => {
      const message = reader.read(JSON.parse(data) as BenchMessage);
      for (const { benchId } of message.heard) known.add(benchId);
      for (const benchId of [...message.ended, ...message.unused]) known.delete(benchId);
      subscriber.next(message);
    };
    // Where the answer was a refusal, it is not.
    source.onerror = () => {
      if (source.readyState === EventSource.CLOSED) subscriber.error(new Error('refused'));
    };
    return () => source.close();
  }).pipe(retry({ delay: againMs }));
}

const againMs = 3000;

/** Events of a node; it listens no more where nobody does. */
export const benchEvents = (benchId: string, nodeId: string): Observable<BenchEvents> =>
  new Observable((subscriber) => {
    const source = new EventSource(`/api/bench/${benchId}/events?nodeId=${encodeURIComponent(nodeId)}`);
    source.onmessage = ({ data }: MessageEvent<string>) => subscriber.next(JSON.parse(data) as BenchEvents);
    source.onerror = () => {
      if (source.readyState === EventSource.CLOSED)
        subscriber.next({ events: [], skipped: 0, says: 'The server does not let it be listened to.' });
    };
    return () => source.close();
  });
