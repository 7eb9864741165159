import type { CallbackHome } from '../dcom/callback-home.js';
import type { DataAccessGroup } from '../opc/client.js';
import { dataSink } from '../opc/data-sink.js';
import { opcIids } from '../opc/interfaces.js';
import { homeOf, placeOf } from './home.js';
import { problemOf } from './observations.js';
import type { Problem, WatchCall } from './observations.js';
import type { Walking } from './walking.js';

/** So long a second change is waited for, in update periods, and at most. */
const periods = 3;
const longestWaitMs = 15_000;
const wantedCalls = 2;

/** Has the server call us back, and tells who called, from where, and when. */
export async function watchGroup(walking: Walking, group: DataAccessGroup, wantedMs: number): Promise<void> {
  const { walk, note } = walking;
  const calls: WatchCall[] = [];
  const strangers: string[] = [];
  const unproven: { readonly from: string; readonly account: string }[] = [];
  const { hosts } = placeOf(walking);
  let home: CallbackHome | null = null;
  const tell = (problem: Problem | null) =>
    note({
      step: 'watch',
      wantedMs,
      revisedMs: group.revisedUpdateRateMs,
      back: home ? { hosts, ...home.ports } : null,
      calls,
      strangers,
      unproven,
      problem,
    });
  try {
    home = await homeOf(walking, {
      stranger: (from) => strangers.push(from),
      unproven: (from, account) => unproven.push({ from, account }),
    });
    const waiting = new Waiting();
    const begun = Date.now();
    const sink = dataSink(({ count }, { address: from, account, level }) => {
      calls.push({ from, account: account?.user ?? null, level, afterMs: Date.now() - begun, items: count });
      if (calls.length >= wantedCalls) waiting.end();
    });
    await group.setState(wantedMs, true);
    const unadvise = await group.advise(home.marshal(sink, opcIids.dataCallback));
    const waitMs = Math.min(longestWaitMs, Math.max(walk.timeoutMs, periods * group.revisedUpdateRateMs));
    await waiting.atMost(waitMs, walk.signal);
    await unadvise().catch(() => undefined);
    tell(null);
  } catch (error) {
    tell(problemOf(error));
  } finally {
    await home?.close();
  }
}

/** Waits until somebody says that it is enough. */
class Waiting {
  private isOver = false;
  private over: () => void = () => undefined;

  end(): void {
    this.isOver = true;
    this.over();
  }

  atMost(waitMs: number, signal: AbortSignal | undefined): Promise<void> {
    return new Promise((resolve) => {
      if (this.isOver || signal?.aborted) return resolve();
      const timer = setTimeout(() => this.over(), waitMs);
      this.over = () => {
        clearTimeout(timer);
        signal?.removeEventListener('abort', this.over);
        resolve();
      };
      signal?.addEventListener('abort', this.over);
    });
  }
}
