import { counted } from '../../links/wording.js';
import type { Conversation } from '../conversation/conversation.js';
import type { Dialect } from '../conversation/dialect.js';
import { CaptureFile } from './capture-file.js';
import type { CaptureFault } from './capture-file.js';
import { Connections } from './connections.js';
import { PacketReader } from './packets.js';

/** What a whole capture came to. */
export interface CaptureRead {
  readonly packets: number;
  readonly conversations: number;
  /** Where reading ended before the end of the file, and why; null: the file was read to its end. */
  readonly fault: CaptureFault | null;
  /** Sentences about what was not understood, with how often: nothing is dropped silently. */
  readonly passedOver: readonly string[];
}

/**
 * Reads a capture as it comes and tells each conversation once it is over; what is still open is told at the end. Memory is bounded
 * whatever the file says: what would take more is told as missing.
 */
export class CaptureReading {
  private conversations = 0;
  private readonly connections: Connections;
  private readonly packets: PacketReader;
  private readonly file: CaptureFile;

  constructor(dialects: readonly Dialect[], tell: (conversation: Conversation) => void) {
    this.connections = new Connections(dialects, (conversation) => {
      this.conversations += 1;
      tell(conversation);
    });
    this.packets = new PacketReader(this.connections);
    this.file = new CaptureFile(this.packets);
  }

  /** The next part of the file; its bytes may be used otherwise afterwards. */
  take(part: Uint8Array): void {
    this.file.take(part);
  }

  /** Whether what has come so far is a capture at all. */
  get isCapture(): boolean {
    return this.file.isCapture;
  }

  end(): CaptureRead {
    const fault = this.file.end();
    this.connections.end(fault !== null);
    const { tally, fragments } = this.packets;
    const passedOver = [...tally.counts].map(([what, count]) => `${counted(count, 'packet')} ${what}`);
    const unjoined = fragments.givenUp + fragments.waiting;
    if (unjoined > 0) passedOver.push(`${counted(unjoined, 'packet')} whose fragments never came together`);
    const { letGo } = this.connections;
    if (letGo > 0)
      passedOver.push(`${counted(letGo, 'conversation')} told before the end, because too many were open at once`);
    return { packets: this.packets.packets, conversations: this.conversations, fault, passedOver };
  }
}
