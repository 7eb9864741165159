/** Bytes that are no UA Binary. */
export class BinaryFault extends Error {
  override readonly name = 'BinaryFault';
}

const decoder = new TextDecoder();

/** An unsigned number of 32 bits; what lies beyond the end reads as zeros. */
export const u32At = (bytes: Uint8Array, at: number): number =>
  ((bytes[at] ?? 0) | ((bytes[at + 1] ?? 0) << 8) | ((bytes[at + 2] ?? 0) << 16) | ((bytes[at + 3] ?? 0) << 24)) >>> 0;

/**
 * The number of a numeric node id of namespace 0 (Part 6 §5.2.2.9) at a place.
 * @param end where the bytes that it may lie in end
 * @returns null: another kind of id, or none
 */
export function typeIdAt(bytes: Uint8Array, at: number, end = bytes.length): number | null {
  if (at + typeIdBytes(bytes, at) > end) return null;
  const kind = bytes[at];
  if (kind === 1) return bytes[at + 1] === 0 ? (bytes[at + 2] ?? 0) | ((bytes[at + 3] ?? 0) << 8) : null;
  if (kind === 0) return bytes[at + 1] ?? null;
  return kind === 2 && bytes[at + 1] === 0 && bytes[at + 2] === 0 ? u32At(bytes, at + 3) : null;
}

/** How many bytes the numeric node id at a place has, by its kind. */
export const typeIdBytes = (bytes: Uint8Array, at: number): number => {
  const kind = bytes[at];
  return kind === 0 ? 2 : kind === 1 ? 4 : 7;
};

/** Reads the built-in types of UA Binary (Part 6 §5.2) one after another; never beyond the end. */
export class BinaryReader {
  private place = 0;

  constructor(private readonly bytes: Uint8Array) {}

  get at(): number {
    return this.place;
  }

  skip(count: number): void {
    this.take(count);
  }
  u8(): number {
    return this.bytes[this.take(1)] ?? 0;
  }
  u16(): number {
    const at = this.take(2);
    return (this.bytes[at] ?? 0) | ((this.bytes[at + 1] ?? 0) << 8);
  }
  u32(): number {
    return u32At(this.bytes, this.take(4));
  }

  /** A view, not a copy; null where there is none. */
  byteString(): Uint8Array | null {
    const length = this.u32() | 0;
    if (length < 0) return null;
    const from = this.take(length);
    return this.bytes.subarray(from, from + length);
  }

  string(): string | null {
    const bytes = this.byteString();
    return bytes && decoder.decode(bytes);
  }

  /** Calls for each element of an array. */
  array(each: () => void): void {
    const count = this.u32() | 0;
    for (let index = 0; index < count; index += 1) each();
  }

  localizedText(): void {
    const mask = this.u8();
    if ((mask & 1) !== 0) this.string();
    if ((mask & 2) !== 0) this.string();
  }

  /** @returns the number of a numeric id in namespace 0; null for all others */
  nodeId(): number | null {
    const kind = this.u8() & 0x3f;
    if (kind === 0) return this.u8();
    if (kind === 1) {
      const [namespace, id] = [this.u8(), this.u16()];
      return namespace === 0 ? id : null;
    }
    const namespace = this.u16();
    if (kind === 2) {
      const id = this.u32();
      return namespace === 0 ? id : null;
    }
    if (kind === 3 || kind === 5) this.byteString();
    else if (kind === 4) this.skip(16);
    else throw new BinaryFault(`A node id of kind ${kind}.`);
    return null;
  }

  /** @returns of which type it is, and its body where it is binary */
  extensionObject(): { readonly typeId: number | null; readonly body: Uint8Array | null } {
    const typeId = this.nodeId();
    const encoding = this.u8();
    return { typeId, body: encoding === 0 ? null : this.byteString() };
  }

  /** What stands before each request (Part 4 §7.33). */
  requestHeader(): void {
    this.nodeId();
    this.skip(16);
    this.string();
    this.skip(4);
    this.extensionObject();
  }

  private take(count: number): number {
    if (count < 0 || this.place + count > this.bytes.length)
      throw new BinaryFault(
        `${count} bytes are wanted at ${this.place}, and ${this.bytes.length - this.place} are there.`,
      );
    const from = this.place;
    this.place += count;
    return from;
  }
}
