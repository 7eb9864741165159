import type { HeardError, HeardService } from '../conversation/conversation.js';
import { statusCodeNamed } from '../../ua/status-codes.js';

const mostListed = 10_000;
const mostPending = 4096;
const good = 0;

/** The calls of services in a conversation, each with what came of it, as far as they can be read. */
export class HeardCalls {
  /** Those that are listed, by columns: there are many, they live long, and an object for each would be collected slowly. */
  private readonly names: string[] = [];
  private readonly times: number[] = [];
  private readonly results: (string | null)[] = [];
  /** The call that a request is, by its place in the list; behind its end: its name alone is known. */
  private readonly pending = new Map<number, number>();
  /** The newest request stands apart: mostly it is answered before another one is asked. */
  private newestId = Number.NaN;
  private newestPlace = 0;
  private readonly namesOfOthers = new Map<number, string>();
  private notListed = 0;
  /** The last call that failed, unless the same service has worked afterwards. */
  private failed: { readonly name: string; readonly error: HeardError } | null = null;

  asked(requestId: number, name: string, at: number): void {
    const place = this.names.length;
    if (place < mostListed) {
      this.names.push(name);
      this.times.push(at);
      this.results.push(null);
    } else this.notListed += 1;
    if (this.pending.size >= mostPending) return;
    if (this.pending.size > 0) this.pending.delete(requestId);
    if (this.isNewestOpen && this.newestId !== requestId) this.pending.set(this.newestId, this.newestPlace);
    this.newestId = requestId;
    this.newestPlace = place;
    if (place === mostListed) this.namesOfOthers.set(requestId, name);
  }

  /** @param code the status of the answer; null: there is one, and it can’t be read */
  answered(requestId: number, code: number | null, reason = ''): void {
    const place = this.placeOf(requestId);
    if (place === null) return;
    const name = this.nameOf(requestId) ?? '';
    if (requestId === this.newestId) this.newestId = Number.NaN;
    else this.pending.delete(requestId);
    if (place === mostListed) this.namesOfOthers.delete(requestId);
    if (code === null) return;
    const result = statusCodeNamed(code);
    if (place < mostListed) this.results[place] = result;
    if (code >>> 30 !== good)
      this.failed = { name, error: { code: code >>> 0, name: result, reason: reason || `${name} failed.` } };
    else if (this.failed?.name === name) this.failed = null;
  }

  /** The name of the service that an answer is for. */
  nameOf(requestId: number): string | null {
    const place = this.placeOf(requestId);
    if (place === null) return null;
    return (place < mostListed ? this.names[place] : this.namesOfOthers.get(requestId)) ?? null;
  }

  get isWaiting(): boolean {
    return this.isNewestOpen || this.pending.size > 0;
  }

  /** Nobody waits for answers any more. */
  close(): void {
    this.newestId = Number.NaN;
    this.pending.clear();
    this.namesOfOthers.clear();
  }

  private get isNewestOpen(): boolean {
    return !Number.isNaN(this.newestId);
  }
  private placeOf(requestId: number): number | null {
    return requestId === this.newestId ? this.newestPlace : (this.pending.get(requestId) ?? null);
  }

  get services(): readonly HeardService[] {
    return this.names.map((name, index) => ({ name, at: this.times[index] ?? 0, result: this.results[index] ?? null }));
  }
  get error(): HeardError | null {
    return this.failed?.error ?? null;
  }
  get notes(): readonly string[] {
    return this.notListed > 0 ? [`${this.notListed} more calls of services are not listed.`] : [];
  }
}
