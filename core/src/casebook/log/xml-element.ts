/** An element of XML with what lies in it. */
export interface XmlElement {
  /** Without a prefix. */
  readonly name: string;
  readonly attributes: Readonly<Record<string, string>>;
  readonly children: readonly XmlElement[];
  /** All text directly in it. */
  readonly text: string;
}

export const childOf = (element: XmlElement | null, name: string): XmlElement | null =>
  element?.children.find((child) => child.name === name) ?? null;

/** A text that is no element of XML. */
export class XmlFault extends Error {
  override readonly name = 'XmlFault';
}

const deepest = 64;
const mostElements = 20_000;
const entities: Readonly<Record<string, string>> = { lt: '<', gt: '>', amp: '&', quot: '"', apos: "'" };

/**
 * Reads one element with all that lies in it. Entities that a document declares itself are not looked up: they stay as they are
 * written, so that nothing grows.
 * @throws {XmlFault}
 */
export function readXmlElement(text: string): XmlElement {
  return new XmlReader(text).whole();
}

class XmlReader {
  private at = 0;
  private elements = 0;

  constructor(private readonly text: string) {}

  whole(): XmlElement {
    return this.element(0);
  }

  private element(depth: number): XmlElement {
    this.elements += 1;
    if (depth > deepest || this.elements > mostElements)
      throw new XmlFault('Elements lie too deep, or there are too many.');
    if (this.text[this.at] !== '<') throw new XmlFault('An element should begin here.');
    this.at += 1;
    const name = this.name();
    const attributes = this.attributes();
    if (this.text[this.at] === '/') {
      this.expect('/>');
      return { name, attributes, children: [], text: '' };
    }
    this.expect('>');
    return { name, attributes, ...this.content(name, depth) };
  }

  private content(name: string, depth: number): Pick<XmlElement, 'children' | 'text'> {
    const children: XmlElement[] = [];
    let text = '';
    for (;;) {
      const next = this.text.indexOf('<', this.at);
      if (next < 0) throw new XmlFault(`The element ${name} has no end.`);
      text += decoded(this.text.slice(this.at, next));
      this.at = next;
      if (this.text.startsWith('</', next)) {
        this.at += 2;
        if (this.name() !== name) throw new XmlFault(`The element ${name} ends by another name.`);
        this.blanks();
        this.expect('>');
        return { children, text };
      }
      if (this.text.startsWith('<![CDATA[', next)) text += this.until('<![CDATA[', ']]>');
      else if (this.text.startsWith('<!--', next)) this.until('<!--', '-->');
      else if (this.text.startsWith('<?', next)) this.until('<?', '?>');
      else children.push(this.element(depth + 1));
    }
  }

  private until(start: string, end: string): string {
    const from = this.at + start.length;
    const to = this.text.indexOf(end, from);
    if (to < 0) throw new XmlFault(`“${start}” has no end.`);
    this.at = to + end.length;
    return this.text.slice(from, to);
  }

  private name(): string {
    const match = /[^\s/>=<"']+/y;
    match.lastIndex = this.at;
    const found = match.exec(this.text)?.[0];
    if (!found) throw new XmlFault('A name should stand here.');
    this.at += found.length;
    return found.slice(found.indexOf(':') + 1);
  }

  private attributes(): Readonly<Record<string, string>> {
    const attributes: Record<string, string> = {};
    for (;;) {
      this.blanks();
      const next = this.text[this.at];
      if (next === '>' || next === '/' || next === undefined) return attributes;
      const name = this.name();
      this.blanks();
      this.expect('=');
      this.blanks();
      const quote = this.text[this.at];
      if (quote !== '"' && quote !== "'") throw new XmlFault(`The value of ${name} should stand in quotes.`);
      attributes[name] = decoded(this.until(quote, quote));
    }
  }

  private blanks(): void {
    while (/\s/.test(this.text[this.at] ?? '')) this.at += 1;
  }

  private expect(text: string): void {
    if (!this.text.startsWith(text, this.at)) throw new XmlFault(`“${text}” should stand here.`);
    this.at += text.length;
  }
}

function decoded(text: string): string {
  if (!text.includes('&')) return text;
  return text.replace(
    /&(?:#x([0-9a-f]{1,6})|#(\d{1,7})|(\w{1,8}));/gi,
    (whole, hex?: string, decimal?: string, name?: string) => {
      if (name !== undefined) return entities[name] ?? whole;
      const code = hex === undefined ? Number(decimal) : parseInt(hex, 16);
      return code > 0x10ffff ? whole : String.fromCodePoint(code);
    },
  );
}
