/**
 * What goes over a connection between two ends (docs/formats.md, “What goes over a tunnel’s line”): frames of a kind, the number
 * of a stream, and so many bytes, all numbers big-endian.
 */
export const frameKinds = {
  /** The end that answers is there, and has let the other one in. */
  hello: 1,
  /** Opens a stream; the bytes are the name of a target. */
  open: 2,
  opened: 3,
  /** It is not opened; the byte is one of {@link refusalBytes}. */
  refused: 4,
  data: 5,
  /** No more data comes this way. */
  end: 6,
  /** The stream is over, whatever was on its way. */
  reset: 7,
  /** So many bytes more may come (four bytes). */
  credit: 8,
  ping: 9,
  pong: 10,
  /** No more streams are opened. */
  last: 11,
} as const;
export type FrameKind = keyof typeof frameKinds;

export const refusalBytes = { 'unknown target': 1, 'too many streams': 2, 'target does not answer': 3 } as const;
export type StreamRefusal = keyof typeof refusalBytes;

const kindsByNumber = new Map<number, FrameKind>(
  Object.entries(frameKinds).map(([kind, number]) => [number, kind as FrameKind]),
);
const headBytes = 9;
/** Of data so many bytes go in one frame, so that streams take turns. */
export const mostData = 64 * 1024;
const mostOther = 255;

export function frameHead(kind: FrameKind, stream: number, length: number): Buffer {
  const head = Buffer.allocUnsafe(headBytes);
  head.writeUInt8(frameKinds[kind], 0);
  head.writeUInt32BE(stream, 1);
  head.writeUInt32BE(length, 5);
  return head;
}
export const frame = (kind: FrameKind, stream: number, payload: Buffer = Buffer.alloc(0)): Buffer =>
  Buffer.concat([frameHead(kind, stream, payload.length), payload]);

export interface FrameEars {
  /** Part of a data frame, as soon as it is there. */
  data(stream: number, part: Buffer): void;
  /** Any other frame, whole. */
  other(kind: Exclude<FrameKind, 'data'>, stream: number, payload: Buffer): void;
}

/** Reads frames from bytes as they come. */
export class FrameReader {
  private head = Buffer.allocUnsafe(headBytes);
  private headFilled = 0;
  private kind: FrameKind = 'hello';
  private stream = 0;
  private left = 0;
  private parts: Buffer[] = [];

  constructor(private readonly ears: FrameEars) {}

  /** @throws Error where this is no frame */
  take(bytes: Buffer): void {
    let at = 0;
    while (at < bytes.length) at = this.headFilled < headBytes ? this.takeHead(bytes, at) : this.takePayload(bytes, at);
  }

  private takeHead(bytes: Buffer, at: number): number {
    const count = Math.min(headBytes - this.headFilled, bytes.length - at);
    bytes.copy(this.head, this.headFilled, at, at + count);
    this.headFilled += count;
    if (this.headFilled === headBytes) this.begin();
    return at + count;
  }

  private begin(): void {
    const kind = kindsByNumber.get(this.head.readUInt8(0));
    if (!kind) throw new Error('a frame of no kind that is known');
    this.kind = kind;
    this.stream = this.head.readUInt32BE(1);
    this.left = this.head.readUInt32BE(5);
    if (this.left > (kind === 'data' ? mostData : mostOther)) throw new Error('a frame that is too long');
    this.parts = [];
    if (this.left === 0) this.finish();
  }

  private takePayload(bytes: Buffer, at: number): number {
    const part = bytes.subarray(at, at + this.left);
    this.left -= part.length;
    if (this.kind === 'data') this.ears.data(this.stream, part);
    else this.parts.push(part);
    if (this.left === 0) this.finish();
    return at + part.length;
  }

  private finish(): void {
    this.headFilled = 0;
    if (this.kind !== 'data') this.ears.other(this.kind, this.stream, Buffer.concat(this.parts));
  }
}
