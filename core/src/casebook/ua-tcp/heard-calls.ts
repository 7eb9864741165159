import type { HeardError, HeardService } from '../conversation/conversation.js';
import { statusCodeNamed } from '../../ua/status-codes.js';

const mostListed = 10_000;
const mostPending = 4096;
const good = 0;

interface Call {
  readonly name: string;
  readonly at: number;
  result: string | null;
}

/** The calls of services in a conversation, each with what came of it, as far as they can be read. */
export class HeardCalls {
  private readonly listed: Call[] = [];
  private readonly pending = new Map<number, Call>();
  private notListed = 0;
  /** The last call that failed, unless the same service has worked afterwards. */
  private failed: { readonly name: string; readonly error: HeardError } | null = null;

  asked(requestId: number, name: string, at: number): void {
    const call = { name, at, result: null };
    if (this.listed.length < mostListed) this.listed.push(call);
    else this.notListed += 1;
    if (this.pending.size < mostPending) this.pending.set(requestId, call);
  }

  /** @param code the status of the answer; null: there is one, and it can’t be read */
  answered(requestId: number, code: number | null, reason = ''): void {
    const call = this.pending.get(requestId);
    if (!call) return;
    this.pending.delete(requestId);
    if (code === null) return;
    call.result = statusCodeNamed(code);
    if (code >>> 30 === good) {
      if (this.failed?.name === call.name) this.failed = null;
    } else
      this.failed = {
        name: call.name,
        error: { code: code >>> 0, name: statusCodeNamed(code), reason: reason || `${call.name} failed.` },
      };
  }

  /** The name of the service that an answer is for. */
  nameOf(requestId: number): string | null {
    return this.pending.get(requestId)?.name ?? null;
  }

  get isWaiting(): boolean {
    return this.pending.size > 0;
  }

  /** Nobody waits for answers any more. */
  close(): void {
    this.pending.clear();
  }

  get services(): readonly HeardService[] {
    return this.listed;
  }
  get error(): HeardError | null {
    return this.failed?.error ?? null;
  }
  get notes(): readonly string[] {
    return this.notListed > 0 ? [`${this.notListed} more calls of services are not listed.`] : [];
  }
}
