import type { Socket } from 'node:net';
import { answerTo, longestFrame, readFrame, writeRead } from '@loyal-hinge/core/field';
import type { ModbusRead, ReadAnswer } from '@loyal-hinge/core/field';
import { whenSilent } from '../when-silent.js';

/** What came of one request. */
export type Asked = { readonly ms: number } & (
  | Exclude<ReadAnswer, { outcome: 'other-transaction' }>
  /** Answers came in time, and none was to this request. */
  | { readonly outcome: 'other-transaction'; readonly transaction: number }
  /** Nothing whole came in time; so many octets of an answer did. */
  | { readonly outcome: 'silent'; readonly received: number }
  /** The device ended the connection instead of answering; so many octets of an answer had come. */
  | { readonly outcome: 'closed'; readonly received: number }
  | { readonly outcome: 'reset' }
  /** What came is no Modbus. */
  | { readonly outcome: 'foreign'; readonly why: string; readonly firstBytesHex: string }
  | { readonly outcome: 'cancelled' }
);

/** A connection to a device, wherever it ends: here, or at somebody who reads for us. */
export type PlacesLine = Pick<DeviceLine, 'read' | 'isOpen' | 'close'>;

/** The device answered the request, be it with an exception: the connection can go on. */
export const isAnswered = ({ outcome }: Asked): boolean => outcome === 'values' || outcome === 'exception';

/**
 * One connection to a device. Requests go one after another, and each has a time limit for its whole answer: a device that
 * sends an octet a second is silent. After anything but an answer the connection is ended: nobody knows any more what would come over it.
 */
export class DeviceLine {
  private transaction = Math.floor(Math.random() * 0x10000);
  private received = Buffer.alloc(0);
  private ended: 'closed' | 'reset' | null = null;
  private wake: () => void = () => undefined;

  /** @param socket an open connection, which belongs to the line from now on */
  constructor(
    private readonly socket: Socket,
    private readonly timeoutMs: number,
  ) {
    socket.removeAllListeners('error');
    socket.on('data', (chunk: Buffer) => {
      // No answer is longer than a frame; whoever sends on and on is not listened to.
      if (this.received.length > 2 * longestFrame) return;
      this.received = Buffer.concat([this.received, chunk]);
      this.wake();
    });
    socket.on('error', (error: NodeJS.ErrnoException) => {
      this.ended ??= error.code === 'ECONNRESET' || error.code === 'EPIPE' ? 'reset' : 'closed';
      this.wake();
    });
    socket.on('close', () => {
      this.ended ??= 'closed';
      this.wake();
    });
    socket.setNoDelay(true);
  }

  get isOpen(): boolean {
    return this.ended === null;
  }

  /** Asks for places of a table. Never throws but for numbers that are none of the protocol’s. */
  async read(wish: Omit<ModbusRead, 'transaction'>, signal: AbortSignal): Promise<Asked> {
    this.transaction = (this.transaction + 1) & 0xffff;
    const asked = { ...wish, transaction: this.transaction };
    const request = writeRead(asked);
    const begun = performance.now();
    // What nobody asked for is passed over.
    this.received = Buffer.alloc(0);
    if (this.isOpen) this.socket.write(request);
    const outcome = await this.answer(asked, begun + this.timeoutMs, signal);
    const done = { ...outcome, ms: Math.round((performance.now() - begun) * 10) / 10 } as Asked;
    if (!isAnswered(done)) this.close();
    return done;
  }

  close(): void {
    this.ended ??= 'closed';
    this.socket.destroy();
  }

  private async answer(asked: ModbusRead, until: number, signal: AbortSignal): Promise<Unmeasured> {
    let other: number | null = null;
    for (;;) {
      const reading = readFrame(this.received);
      if (reading.kind === 'foreign')
        return { outcome: 'foreign', why: reading.why, firstBytesHex: this.received.subarray(0, 16).toString('hex') };
      if (reading.kind === 'frame') {
        this.received = this.received.subarray(reading.length);
        const answer = answerTo(asked, reading.frame);
        if (answer.outcome !== 'other-transaction') return answer;
        // The answer to this one may come yet.
        other = answer.transaction;
        continue;
      }
      if (signal.aborted) return { outcome: 'cancelled' };
      const left = until - performance.now();
      if (this.ended === null && left > 0) {
        await this.waited(left, signal);
        continue;
      }
      if (other !== null) return { outcome: 'other-transaction', transaction: other };
      if (this.ended === 'reset') return { outcome: 'reset' };
      return { outcome: this.ended === null ? 'silent' : 'closed', received: this.received.length };
    }
  }

  private waited(ms: number, signal: AbortSignal): Promise<void> {
    return new Promise((resolve) => {
      const done = (): void => {
        callOff();
        signal.removeEventListener('abort', done);
        this.wake = () => undefined;
        resolve();
      };
      const callOff = whenSilent(Math.ceil(ms), done);
      signal.addEventListener('abort', done, { once: true });
      this.wake = done;
    });
  }
}

type Unmeasured = Asked extends infer One ? (One extends unknown ? Omit<One, 'ms'> : never) : never;
