import { CallbackHome } from '../dcom/callback-home.js';
import { passwordHash } from '../ntlm/keys.js';
import { ntlmServer } from '../ntlm/server.js';
import type { DataAccessGroup } from '../opc/client.js';
import { dataSink } from '../opc/data-sink.js';
import { opcIids } from '../opc/interfaces.js';
import type { Agreeing } from '../rpc/security.js';
import { protects, services } from '../rpc/security.js';
import { problemOf } from './observations.js';
import type { Problem, WatchCall } from './observations.js';
import type { ClassicWalk, Walking } from './walking.js';

/** So long a second change is waited for, in update periods, and at most. */
const periods = 3;
const longestWaitMs = 15_000;
const wantedCalls = 2;

/** Has the server call us back, and tells who called, from where, and when. */
export async function watchGroup(walking: Walking, group: DataAccessGroup, wantedMs: number): Promise<void> {
  const { walk, note, ofServer } = walking;
  const calls: WatchCall[] = [];
  const strangers: string[] = [];
  const unproven: { readonly from: string; readonly account: string }[] = [];
  const address = walking.localAddress ?? '127.0.0.1';
  const hosts = walk.back?.hosts ?? [address];
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
    home = await CallbackHome.start({
      address,
      hosts,
      ...(walk.back ? { ports: walk.back.ports } : {}),
      agreeing: { [services.ntlm]: whoever(walk, (from, account) => unproven.push({ from, account })) },
      admits: (caller) => {
        const isMeant = ofServer.has(caller.address);
        if (!isMeant) strangers.push(caller.address);
        return isMeant;
      },
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

/** Accounts are known here by the same name and password, as on two machines without a domain; others by what they say. */
const whoever = (
  { identity: { account, workstation } }: ClassicWalk,
  tellUnproven: (from: string, account: string) => void,
): Agreeing =>
  ntlmServer({
    computer: workstation,
    domain: workstation,
    dnsComputer: workstation,
    now: Date.now,
    hashOf: (user) =>
      account && account.user.toLowerCase() === user.toLowerCase() ? passwordHash(account.password) : null,
    unproven: ({ user }, { address, level }) => {
      if (protects(level)) tellUnproven(address, user);
      return true;
    },
  });

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
