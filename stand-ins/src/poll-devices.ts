import { once } from 'node:events';
import { connect } from 'node:net';
import { fieldValue, wordsOf } from '@loyal-hinge/core/field';
import { DeviceLine } from '@loyal-hinge/field';
import type { Polled } from './marrowby/field.js';

const [pollEveryMs, answerWithinMs, dialAgainAfterMs] = [500, 1500, 3000];

/** Reads one item’s registers again and again over a connection that stays open, as servers do that stand before devices. */
export class DevicePoller {
  /** null: the device gave none. */
  value: number | null = null;
  private readonly stopping = new AbortController();
  private line: DeviceLine | null = null;
  private timer: NodeJS.Timeout | undefined;

  /** Resolves when the device was asked for the first time, whatever it said. */
  readonly begun: Promise<void>;

  constructor(private readonly polled: Polled) {
    this.begun = this.poll();
  }

  stop(): void {
    this.stopping.abort();
    clearTimeout(this.timer);
    this.line?.close();
  }

  private async poll(): Promise<void> {
    const isRead = await this.read().catch(() => false);
    if (!isRead) this.value = null;
    if (!this.stopping.signal.aborted)
      this.timer = setTimeout(() => void this.poll(), isRead ? pollEveryMs : dialAgainAfterMs).unref();
  }

  private async read(): Promise<boolean> {
    const { address, port, unit, place, form } = this.polled;
    if (!this.line?.isOpen) {
      const socket = connect({ host: address, port });
      const limit = AbortSignal.any([this.stopping.signal, AbortSignal.timeout(answerWithinMs)]);
      try {
        await once(socket, 'connect', { signal: limit });
      } catch (error) {
        socket.on('error', () => undefined).destroy();
        throw error;
      }
      this.line = new DeviceLine(socket, answerWithinMs);
    }
    const asked = await this.line.read(
      { unit, table: 'holding', first: place, count: wordsOf(form) },
      this.stopping.signal,
    );
    if (asked.outcome !== 'values') return false;
    this.value = Number(fieldValue(asked.values, form));
    return true;
  }
}
