import type { XmlElement } from '../xml-element.js';
import { arrayFlag, arrayTexts, valueText, valueTypes, wideText } from './values.js';

/** Tokens of binary XML (MS-EVEN6 §2.2.12); with the flag more of the same follow. */
const tokens = {
  end: 0x00,
  open: 0x01,
  closeStart: 0x02,
  closeEmpty: 0x03,
  endElement: 0x04,
  value: 0x05,
  attribute: 0x06,
  cdata: 0x07,
  character: 0x08,
  entity: 0x09,
  instructionTarget: 0x0a,
  instructionData: 0x0b,
  template: 0x0c,
  substitution: 0x0d,
  optional: 0x0e,
  fragment: 0x0f,
} as const;
const moreFlag = 0x40;
const entities: Readonly<Record<string, string>> = { lt: '<', gt: '>', amp: '&', quot: '"', apos: "'" };

/** Bytes that are no binary XML. */
export class BinaryXmlFault extends Error {
  override readonly name = 'BinaryXmlFault';
}

/** A value that is put into a template: its type, and where it lies in the chunk. */
interface Value {
  readonly type: number;
  readonly from: number;
  readonly size: number;
}

const deepest = 32;
const mostTokens = 20_000;
const mostValues = 4096;
const mostLetters = 64 * 1024;

/** What has been read so far of an element’s content. */
interface Content {
  readonly children: XmlElement[];
  text: string;
  /** Where a list stands for one value, the element stands once for each. */
  list: readonly string[] | null;
}

/**
 * Reads the binary XML of one chunk of an event log. Names and templates are named by their place in the chunk; whether they refer to
 * each other in a circle, or what they claim, costs no more than {@link mostTokens} a record.
 */
export class BinaryXml {
  private readonly view: DataView;
  private at = 0;
  private tokens = 0;

  constructor(private readonly chunk: Uint8Array) {
    this.view = new DataView(chunk.buffer, chunk.byteOffset, chunk.byteLength);
  }

  /** @throws {BinaryXmlFault} */
  read(from: number): XmlElement {
    this.at = from;
    this.tokens = 0;
    const [element] = this.fragment([], 0);
    if (!element) throw new BinaryXmlFault('There is no element.');
    return element;
  }

  /** Elements up to the end of a fragment. */
  private fragment(values: readonly Value[], depth: number): XmlElement[] {
    const elements: XmlElement[] = [];
    for (;;) {
      const token = this.token(depth);
      switch (token & ~moreFlag) {
        case tokens.end:
          this.at += 1;
          return elements;
        case tokens.fragment:
          this.at += 4;
          break;
        case tokens.template:
          return [...elements, ...this.template(depth)];
        case tokens.open:
          elements.push(...this.element(values, depth));
          break;
        case tokens.instructionTarget:
        case tokens.instructionData:
          this.instruction(token);
          break;
        default:
          throw new BinaryXmlFault(`Token ${token} stands where an element should.`);
      }
    }
  }

  private token(depth: number): number {
    this.tokens += 1;
    if (depth > deepest || this.tokens > mostTokens)
      throw new BinaryXmlFault('Templates or elements lie too deep, or there are too many.');
    return this.u8(this.at);
  }

  /** What is defined once and filled with the values of each record. */
  private template(depth: number): XmlElement[] {
    const definition = this.u32(this.at + 6);
    this.at += 10;
    if (definition >= this.at) this.at = definition + 24 + this.u32(definition + 20);
    const values = this.values();
    const end = this.at;
    this.at = definition + 24;
    const elements = this.fragment(values, depth + 1);
    this.at = end;
    return elements;
  }

  private values(): readonly Value[] {
    const count = this.u32(this.at);
    if (count > mostValues) throw new BinaryXmlFault(`A template is filled with ${count} values.`);
    const from = this.at + 4;
    let place = from + count * 4;
    const values = Array.from({ length: count }, (_, index) => {
      const size = this.u16(from + index * 4);
      const value = { type: this.u8(from + index * 4 + 2), from: place, size };
      place += size;
      return value;
    });
    this.need(place, 0);
    this.at = place;
    return values;
  }

  private element(values: readonly Value[], depth: number): readonly XmlElement[] {
    const hasAttributes = (this.u8(this.at) & moreFlag) !== 0;
    this.at += 7;
    const name = this.name();
    if (hasAttributes) this.at += 4;
    const attributes: Record<string, string> = {};
    for (;;) {
      const token = this.token(depth) & ~moreFlag;
      if (token === tokens.attribute) {
        this.at += 1;
        const attribute = this.name();
        const { text } = this.content(values, depth);
        if (text !== '') attributes[attribute] = text;
      } else if (token === tokens.closeEmpty) {
        this.at += 1;
        return [{ name, attributes, children: [], text: '' }];
      } else if (token === tokens.closeStart) break;
      else throw new BinaryXmlFault(`Token ${token} stands within the start of ${name}.`);
    }
    this.at += 1;
    const { children, text, list } = this.content(values, depth);
    if ((this.token(depth) & ~moreFlag) !== tokens.endElement)
      throw new BinaryXmlFault(`The element ${name} has no end.`);
    this.at += 1;
    if (list) return list.map((item) => ({ name, attributes, children: [], text: item }));
    return [{ name, attributes, children, text }];
  }

  /** Text, values and elements, up to something else. */
  private content(values: readonly Value[], depth: number): Content {
    const content: Content = { children: [], text: '', list: null };
    for (;;) {
      const token = this.token(depth) & ~moreFlag;
      switch (token) {
        case tokens.open:
          content.children.push(...this.element(values, depth + 1));
          break;
        case tokens.template:
          content.children.push(...this.template(depth + 1));
          break;
        case tokens.value:
          this.at += 2;
          content.text += this.letters();
          break;
        case tokens.cdata:
          this.at += 1;
          content.text += this.letters();
          break;
        case tokens.character:
          content.text += String.fromCharCode(this.u16(this.at + 1));
          this.at += 3;
          break;
        case tokens.entity: {
          this.at += 1;
          const name = this.name();
          content.text += entities[name] ?? `&${name};`;
          break;
        }
        case tokens.instructionTarget:
        case tokens.instructionData:
          this.instruction(token);
          break;
        case tokens.substitution:
        case tokens.optional:
          this.fill(content, values[this.u16(this.at + 1)], depth);
          break;
        default:
          return content;
      }
    }
  }

  private fill(content: Content, value: Value | undefined, depth: number): void {
    this.at += 4;
    if (!value || value.size === 0) return;
    const after = this.at;
    const bytes = this.chunk.subarray(value.from, value.from + value.size);
    if (value.type === valueTypes.binaryXml) {
      this.at = value.from;
      content.children.push(...this.fragment([], depth + 1));
      this.at = after;
    } else if ((value.type & arrayFlag) !== 0) content.list = arrayTexts(value.type & ~arrayFlag, bytes);
    else content.text += valueText(value.type, bytes);
  }

  /** Of a processing instruction its name, or what follows: nothing of it is wanted. */
  private instruction(token: number): void {
    this.at += 1;
    if ((token & ~moreFlag) === tokens.instructionTarget) this.name();
    else this.letters();
  }

  /** A name by its place in the chunk; where it is met first, it stands here. */
  private name(): string {
    const place = this.u32(this.at);
    this.at += 4;
    const count = this.u16(place + 6);
    if (place >= this.at) this.at = place + 10 + count * 2;
    this.need(place + 8, count * 2);
    return wideText(this.chunk.subarray(place + 8, place + 8 + count * 2));
  }

  private letters(): string {
    const count = this.u16(this.at);
    if (count > mostLetters) throw new BinaryXmlFault(`A text of ${count} letters.`);
    const from = this.at + 2;
    this.need(from, count * 2);
    this.at = from + count * 2;
    return wideText(this.chunk.subarray(from, this.at));
  }

  private need(from: number, count: number): void {
    if (from < 0 || from + count > this.chunk.length)
      throw new BinaryXmlFault('Something lies beyond the end of the chunk.');
  }
  private u8(at: number): number {
    this.need(at, 1);
    return this.view.getUint8(at);
  }
  private u16(at: number): number {
    this.need(at, 2);
    return this.view.getUint16(at, true);
  }
  private u32(at: number): number {
    this.need(at, 4);
    return this.view.getUint32(at, true);
  }
}
