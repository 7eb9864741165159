/** Exports of a machine’s registry: texts of “Windows Registry Editor Version 5.00” and “REGEDIT4”. */

/** A value as it stands in the registry (types of winnt.h: REG_SZ 1, REG_BINARY 3, REG_DWORD 4, REG_MULTI_SZ 7, …). */
export interface RegistryValue {
  /** As it is written; empty: the unnamed one. */
  readonly name: string;
  readonly type: number;
  readonly data: Uint8Array;
}

export interface RegistryKey {
  /** As it is written, from the root on. */
  readonly path: string;
  readonly values: ReadonlyMap<string, RegistryValue>;
}

/** What is wrong with a line of an export; it was passed over. */
export interface RegistryFault {
  /** From 1. */
  readonly line: number;
  readonly says: string;
}

export const valueTypes = { text: 1, expandable: 2, binary: 3, number: 4, texts: 7, longNumber: 11 } as const;

const headings = { 'Windows Registry Editor Version 5.00': 5, REGEDIT4: 4 } as const;
/** Of many faults the first are told. */
const mostFaults = 100;
const mostNameLetters = 16_383;

type KeyInHand = { readonly path: string; readonly values: Map<string, RegistryValue> };

/** Keys and values by their names, whatever their capitals. */
export class Registry {
  private readonly keys = new Map<string, KeyInHand>();

  /** null: there is no such key. */
  key(path: string): RegistryKey | null {
    return this.keys.get(path.toLowerCase()) ?? null;
  }

  value(path: string, name: string): RegistryValue | null {
    return this.keys.get(path.toLowerCase())?.values.get(name.toLowerCase()) ?? null;
  }

  /** Keys just below one, in the order in which they came. */
  keysBelow(path: string): readonly RegistryKey[] {
    const start = `${path.toLowerCase()}\\`;
    return [...this.keys].flatMap(([at, key]) =>
      at.startsWith(start) && !at.slice(start.length).includes('\\') ? [key] : [],
    );
  }

  get size(): number {
    return this.keys.size;
  }

  /** The key and all above it: an export may name a key without those. */
  put(path: string): KeyInHand {
    const known = this.keys.get(path.toLowerCase());
    if (known) return known;
    const cut = path.lastIndexOf('\\');
    if (cut > 0) this.put(path.slice(0, cut));
    const key = { path, values: new Map<string, RegistryValue>() };
    this.keys.set(path.toLowerCase(), key);
    return key;
  }

  /** A key goes with all below it. */
  remove(path: string): void {
    const gone = path.toLowerCase();
    for (const at of this.keys.keys()) if (at === gone || at.startsWith(`${gone}\\`)) this.keys.delete(at);
  }
}

/**
 * Reads an export into a registry, where what other exports said stands already: a key or value that is written as removed goes.
 * @returns what could not be read; null: it is no export at all
 */
export function readRegistryExport(text: string, into: Registry): readonly RegistryFault[] | null {
  const lines = text.replace(/^\ufeff/, '').split(/\r\n|\n|\r/);
  const first = lines.findIndex((line) => line.trim() !== '');
  const heading = (lines[first] ?? '').trim();
  if (!(heading in headings)) return null;
  return new ExportReader(lines, first + 1, headings[heading as keyof typeof headings], into).read();
}

class ExportReader {
  private readonly faults: RegistryFault[] = [];
  private key: KeyInHand | null = null;

  constructor(
    private readonly lines: readonly string[],
    private at: number,
    private readonly version: 4 | 5,
    private readonly registry: Registry,
  ) {}

  read(): readonly RegistryFault[] {
    while (this.at < this.lines.length) {
      const line = this.lines[this.at]?.trim() ?? '';
      const number = this.at + 1;
      this.at += 1;
      if (line === '' || line.startsWith(';')) continue;
      if (line.startsWith('[')) this.keyLine(line, number);
      else this.valueLine(line, number);
    }
    return this.faults;
  }

  private keyLine(line: string, number: number): void {
    this.key = null;
    const path = /^\[(-?)(HKEY_[^\]\\]+(?:\\.*)?)\]$/i.exec(line);
    if (!path) return this.fault(number, 'This is no key.');
    const [, removes, name = ''] = path;
    if (removes === '-') this.registry.remove(name);
    else this.key = this.registry.put(name);
  }

  private valueLine(line: string, number: number): void {
    const named = /^(?:@|"((?:[^"\\]|\\.)*)")\s*=\s*/.exec(line);
    if (!named) return this.fault(number, 'This is no value: a name and “=” are expected.');
    const name = unescaped(named[1] ?? '');
    if (name.length > mostNameLetters) return this.fault(number, 'A name has at most 16,383 letters.');
    const told = line.slice(named[0].length);
    if (!this.key) return this.fault(number, 'A value stands below a key, and here is none.');
    if (told === '-') {
      this.key.values.delete(name.toLowerCase());
      return;
    }
    const read = told.startsWith('"') ? this.text(told, number) : this.coded(told, number);
    if (read) this.key.values.set(name.toLowerCase(), { name, ...read });
  }

  /** A text goes on over lines until it is closed. */
  private text(begun: string, number: number): Omit<RegistryValue, 'name'> | null {
    let told = begun;
    for (;;) {
      const closed = /^"((?:[^"\\]|\\[\s\S])*)"\s*(?:;.*)?$/.exec(told);
      if (closed) return { type: valueTypes.text, data: utf16(`${unescaped(closed[1] ?? '')}\0`) };
      const next = this.lines[this.at];
      if (next === undefined || isOver(told)) {
        this.fault(number, 'This text is never closed.');
        return null;
      }
      told += `\n${next}`;
      this.at += 1;
    }
  }

  private coded(begun: string, number: number): Omit<RegistryValue, 'name'> | null {
    let told = begun;
    // A line that ends so goes on in the next one.
    while (told.endsWith('\\') && this.at < this.lines.length) {
      told = told.slice(0, -1) + (this.lines[this.at]?.trim() ?? '');
      this.at += 1;
    }
    const number32 = /^dword:([0-9a-f]{1,8})\s*(?:;.*)?$/i.exec(told);
    if (number32) {
      const data = new Uint8Array(4);
      new DataView(data.buffer).setUint32(0, Number.parseInt(number32[1] ?? '', 16), true);
      return { type: valueTypes.number, data };
    }
    const bytes = /^hex(?:\(([0-9a-f]{1,8})\))?:([0-9a-f,\s]*?)(?:;.*)?$/i.exec(told);
    if (!bytes) {
      this.fault(number, `“${told.slice(0, 40)}” is no value that is known.`);
      return null;
    }
    const type = bytes[1] === undefined ? valueTypes.binary : Number.parseInt(bytes[1], 16);
    const parts = (bytes[2] ?? '').replace(/\s/g, '');
    if (!/^(?:[0-9a-f]{2}(?:,[0-9a-f]{2})*,?)?$/i.test(parts)) {
      this.fault(number, 'Bytes have two digits each, with commas between them.');
      return null;
    }
    const data = Uint8Array.from(parts.split(',').filter(Boolean), (part) => Number.parseInt(part, 16));
    const fault = lengthFault(type, data.length);
    if (fault !== null) {
      this.fault(number, fault);
      return null;
    }
    return { type, data: this.version === 4 && isText(type) ? utf16(latin1(data)) : data };
  }

  private fault(line: number, says: string): void {
    if (this.faults.length < mostFaults) this.faults.push({ line, says });
  }
}

const isText = (type: number): boolean =>
  type === valueTypes.text || type === valueTypes.expandable || type === valueTypes.texts;

/** So long that nobody wrote it: the text was cut off, and what follows is something else. */
const isOver = (told: string): boolean => told.length > 1_000_000;

function lengthFault(type: number, length: number): string | null {
  if (type === valueTypes.number && length !== 4) return `A number of 32 bits has 4 bytes; this has ${length}.`;
  if (type === valueTypes.longNumber && length !== 8) return `A number of 64 bits has 8 bytes; this has ${length}.`;
  return null;
}

const unescaped = (text: string): string => text.replace(/\\([\s\S])/g, '$1');
const latin1 = (bytes: Uint8Array): string => new TextDecoder('latin1').decode(bytes);

function utf16(text: string): Uint8Array {
  const bytes = new Uint8Array(2 * text.length);
  const view = new DataView(bytes.buffer);
  for (let index = 0; index < text.length; index += 1) view.setUint16(2 * index, text.charCodeAt(index), true);
  return bytes;
}

/** A value as text; null: it is none. What stands behind its end is left out. */
export function textOfValue(value: RegistryValue | null): string | null {
  if (!value || (value.type !== valueTypes.text && value.type !== valueTypes.expandable)) return null;
  return new TextDecoder('utf-16le').decode(value.data).split('\0')[0] ?? '';
}

/** A value of several texts; null: it is none. */
export function textsOfValue(value: RegistryValue | null): readonly string[] | null {
  if (value?.type !== valueTypes.texts) return null;
  const texts = new TextDecoder('utf-16le').decode(value.data).split('\0');
  const end = texts.indexOf('');
  return end < 0 ? texts : texts.slice(0, end);
}

/** A value as a number of 32 bits; null: it is none. */
export function numberOfValue(value: RegistryValue | null): number | null {
  if (value?.type !== valueTypes.number) return null;
  return new DataView(value.data.buffer, value.data.byteOffset, 4).getUint32(0, true);
}

/** A value’s bytes; null: it has none, or is something else. */
export const bytesOfValue = (value: RegistryValue | null): Uint8Array | null =>
  value?.type === valueTypes.binary ? value.data : null;
