import { crc32 } from '../casebook/log/evtx/crc32';
import { ascii, le16, le32 } from './captures';

/** Event logs in their binary form, made by hand: what is written here is what MS-EVEN6 §2.2.12 says of binary XML. */

export interface EvtxValue {
  readonly type: number;
  readonly bytes: readonly number[];
}
export interface EvtxEvent {
  readonly provider: string;
  readonly eventId: number;
  readonly computer: string;
  readonly channel?: string;
  /** 100 nanoseconds since 1601. */
  readonly time: bigint;
  /** Names may be missing; a value may be a list. */
  readonly data?: readonly (readonly [name: string | null, value: EvtxValue])[];
  /** Under an element of this name. */
  readonly userData?: readonly [element: string, fields: readonly (readonly [name: string, value: EvtxValue])[]];
}

const le64 = (value: bigint): number[] =>
  Array.from({ length: 8 }, (_, index) => Number((value >> BigInt(8 * index)) & 255n));
export const wide = (text: string): number[] => [...text].flatMap((letter) => le16(letter.charCodeAt(0)));
export const textValue = (text: string): EvtxValue => ({ type: 0x01, bytes: wide(text) });
export const listValue = (...texts: readonly string[]): EvtxValue => ({
  type: 0x81,
  bytes: texts.flatMap((text) => [...wide(text), 0, 0]),
});
export const u32Value = (value: number): EvtxValue => ({ type: 0x08, bytes: le32(value) });
export const hex32Value = (value: number): EvtxValue => ({ type: 0x14, bytes: le32(value) });
export const fileTime = (iso: string, ticks = 0): bigint =>
  (BigInt(Date.parse(iso)) + 11_644_473_600_000n) * 10_000n + BigInt(ticks);

type Attribute = readonly [name: string, value: string | { readonly index: number; readonly type: number }];

/** One chunk: names and templates stand where they are met first, and are named by their place afterwards. */
export class EvtxChunk {
  private readonly bytes: number[] = Array<number>(512).fill(0);
  private readonly names = new Map<string, number>();
  private readonly templates = new Map<string, number>();
  private count = 0;

  add(event: EvtxEvent): this {
    const from = this.bytes.length;
    this.count += 1;
    this.bytes.push(...le32(0x2a2a), ...le32(0), ...le64(BigInt(this.count)), ...le64(event.time));
    this.fragment();
    const values = [
      { type: 0x06, bytes: le16(event.eventId) },
      { type: 0x11, bytes: le64(event.time) },
      { type: 0x21, bytes: [] as number[] },
    ];
    const system = `${event.provider}|${event.computer}|${event.channel ?? 'System'}|${event.userData ? 'user' : 'data'}`;
    this.instance(
      system,
      () => this.wholeEvent(event),
      values,
      2,
      () => this.inner(event),
    );
    const size = this.bytes.length - from + 4;
    this.bytes.push(...le32(size));
    this.put(from + 4, le32(size));
    return this;
  }

  /** The whole chunk, with its check sums. */
  done(): Uint8Array {
    const chunk = new Uint8Array(65_536);
    chunk.set(this.bytes);
    const view = new DataView(chunk.buffer);
    chunk.set(ascii('ElfChnk\0'));
    view.setUint32(40, 128, true);
    view.setUint32(48, this.bytes.length, true);
    view.setUint32(52, crc32(chunk.subarray(512, this.bytes.length)), true);
    view.setUint32(124, crc32(chunk.subarray(0, 120), chunk.subarray(128, 512)), true);
    return chunk;
  }

  private wholeEvent({ provider, computer, channel = 'System', userData }: EvtxEvent): void {
    this.element('Event', [['xmlns', 'http://schemas.microsoft.com/win/2004/08/events/event']], () => {
      this.element('System', [], () => {
        this.element('Provider', [['Name', provider]], null);
        this.element('EventID', [['Qualifiers', { index: 9, type: 6 }]], () => this.substitution(0, 0x06));
        this.element('TimeCreated', [['SystemTime', { index: 1, type: 0x11 }]], null);
        this.element('Channel', [], () => this.text(channel));
        this.element('Computer', [], () => this.text(computer));
      });
      if (userData) this.element('UserData', [], () => this.substitution(2, 0x21));
      else this.substitution(2, 0x21);
    });
  }

  /** What stands in a value: a fragment with a template of its own. */
  private inner({ data = [], userData }: EvtxEvent): void {
    this.fragment();
    const fields = userData ? userData[1] : data;
    const values = fields.map(([, { type, bytes }]) => ({ type, bytes: [...bytes] }));
    const key = `${userData?.[0] ?? ''}|${fields.map(([name, { type }]) => `${name} ${type}`).join()}`;
    const write = (): void =>
      this.element(userData?.[0] ?? 'EventData', [], () => {
        fields.forEach(([name, { type }], index) => {
          const attributes: Attribute[] = name === null || userData ? [] : [['Name', name]];
          this.element(userData ? (name ?? '') : 'Data', attributes, () => this.substitution(index, type));
        });
      });
    this.instance(key, write, values, -1, () => undefined);
  }

  private fragment(): void {
    this.bytes.push(0x0f, 1, 1, 0);
  }

  /** @param nested which of the values is written in its place, with names and templates of its own */
  private instance(
    key: string,
    write: () => void,
    values: readonly { readonly type: number; readonly bytes: readonly number[] }[],
    nested: number,
    writeNested: () => void,
  ): void {
    this.bytes.push(0x0c, 1, ...le32(0x1234));
    const known = this.templates.get(key);
    this.bytes.push(...le32(known ?? this.bytes.length + 4));
    if (known === undefined) {
      const at = this.bytes.length;
      this.templates.set(key, at);
      this.bytes.push(...Array<number>(24).fill(0));
      this.fragment();
      write();
      this.bytes.push(0);
      this.put(at + 20, le32(this.bytes.length - at - 24));
    }
    this.bytes.push(...le32(values.length));
    const head = this.bytes.length;
    for (const { type, bytes } of values) this.bytes.push(...le16(bytes.length), type, 0);
    values.forEach(({ bytes }, index) => {
      if (index !== nested) return void this.bytes.push(...bytes);
      const from = this.bytes.length;
      writeNested();
      this.put(head + index * 4, le16(this.bytes.length - from));
    });
  }

  private element(name: string, attributes: readonly Attribute[], content: (() => void) | null): void {
    const hasAttributes = attributes.length > 0;
    this.bytes.push(hasAttributes ? 0x41 : 0x01, 0xff, 0xff, ...le32(0));
    this.name(name);
    if (hasAttributes) this.bytes.push(...le32(0));
    attributes.forEach(([attribute, value], index) => {
      this.bytes.push(index < attributes.length - 1 ? 0x46 : 0x06);
      this.name(attribute);
      if (typeof value === 'string') this.text(value);
      else this.substitution(value.index, value.type, 0x0e);
    });
    this.bytes.push(content ? 0x02 : 0x03);
    if (!content) return;
    content();
    this.bytes.push(0x04);
  }

  private text(text: string): void {
    this.bytes.push(0x05, 1, ...le16(text.length), ...wide(text));
  }
  private substitution(index: number, type: number, token = 0x0d): void {
    this.bytes.push(token, ...le16(index), type);
  }

  private name(name: string): void {
    const known = this.names.get(name);
    this.bytes.push(...le32(known ?? this.bytes.length + 4));
    if (known !== undefined) return;
    this.names.set(name, this.bytes.length);
    this.bytes.push(...le32(0), ...le16(0), ...le16(name.length), ...wide(name), 0, 0);
  }

  private put(at: number, bytes: readonly number[]): void {
    bytes.forEach((byte, index) => (this.bytes[at + index] = byte));
  }
}

export function evtx(...chunks: readonly Uint8Array[]): Uint8Array {
  const file = new Uint8Array(4096 + chunks.length * 65_536);
  file.set(ascii('ElfFile\0'));
  chunks.forEach((chunk, index) => file.set(chunk, 4096 + index * 65_536));
  return file;
}
