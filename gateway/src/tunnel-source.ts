import { readFileText, tunnelStatistics } from '@loyal-hinge/contract/line';
import { fitsPattern } from '@loyal-hinge/core';
import type { SourceSettings } from './gateway.js';
import { patternsIn } from './patterns.js';
import { Redial } from './redial.js';
import type { GatewaySource, SourceEars } from './source.js';

type Settings = Extract<SourceSettings, { kind: 'tunnel' }>;
type Plain = number | string | boolean | null;

const longest = 100_000;
const patienceMs = 3_000;
/** What has no value now has none of its type. */
const badNoData = 0x809b_0000;

/** What an end of a tunnel tells of itself, as items: `Streams/Open`, `Bytes/Sent`, `Refused/No line`. They are read, and never written. */
export class TunnelSource implements GatewaySource {
  private ears: SourceEars | null = null;
  private watched: ReadonlySet<string> = new Set();
  private last: ReadonlyMap<string, Plain> = new Map();
  private timer: NodeJS.Timeout | null = null;
  private readonly redial = new Redial(() => void this.begin());

  constructor(
    private readonly settings: Settings,
    private readonly wanted: readonly string[],
  ) {}

  get name(): string {
    return this.settings.name;
  }

  start(ears: SourceEars): void {
    this.ears = ears;
    void this.begin();
  }

  watch(paths: readonly string[]): Promise<void> {
    this.watched = new Set(paths);
    this.tell(this.last, Date.now());
    return Promise.resolve();
  }

  write(): Promise<string> {
    return Promise.resolve('BadNotWritable');
  }

  stop(): Promise<void> {
    this.ears = null;
    this.redial.stop();
    if (this.timer) clearInterval(this.timer);
    return Promise.resolve();
  }

  private async begin(): Promise<void> {
    try {
      const first = await this.ask();
      this.last = first;
      const patterns = patternsIn(this.wanted);
      const found = [...first].filter(([path]) => patterns.some((pattern) => fitsPattern(pattern, path.split('/'))));
      await this.ears?.there(
        found.map(([path, value]) => ({ path: path.split('/'), type: typeOf(value), valueRank: -1 })),
      );
      this.redial.wasThere();
      if (this.ears) this.timer = setInterval(() => void this.again(), this.settings.publishingMs);
    } catch (error) {
      this.lost(error);
    }
  }

  private async again(): Promise<void> {
    try {
      const next = await this.ask();
      const at = Date.now();
      const changed = new Map([...next].filter(([path, value]) => this.last.get(path) !== value));
      this.last = next;
      this.tell(changed, at);
    } catch (error) {
      this.lost(error);
    }
  }

  private tell(values: ReadonlyMap<string, Plain>, at: number): void {
    for (const [path, value] of values)
      if (this.watched.has(path))
        this.ears?.changed(path, {
          value,
          type: typeOf(value),
          status: value === null ? badNoData : 0,
          sourceTime: at,
          raw: null,
        });
  }

  private lost(error: unknown): void {
    if (this.timer) clearInterval(this.timer);
    this.timer = null;
    this.ears?.gone(error instanceof Error ? error.message : String(error));
    this.redial.later();
  }

  private async ask(): Promise<ReadonlyMap<string, Plain>> {
    const { port } = this.settings;
    const answer = await fetch(`http://127.0.0.1:${port}/`, { signal: AbortSignal.timeout(patienceMs) }).catch(() => {
      throw new Error(`Nobody tells anything at port ${port}.`);
    });
    const text = await answer.text();
    if (text.length > longest) throw new Error('What is told there is too long.');
    const read = readFileText(tunnelStatistics, text);
    if (!read.ok) throw new Error(`What is told there is nothing of a tunnel: ${read.says}`);
    return new Map(itemsIn(read.value, []));
  }
}

/** The values in an object by their paths: `roundTripMs` becomes “Round trip ms”. */
function itemsIn(value: object, path: readonly string[]): [string, Plain][] {
  return Object.entries(value).flatMap(([key, each]: [string, unknown]): [string, Plain][] => {
    const words = key.replace(/([A-Z])/g, ' $1').toLowerCase();
    const below = [...path, `${words.slice(0, 1).toUpperCase()}${words.slice(1)}`];
    return typeof each === 'object' && each !== null ? itemsIn(each, below) : [[below.join('/'), each as Plain]];
  });
}

const typeOf = (value: Plain): string | null =>
  typeof value === 'number'
    ? 'Double'
    : typeof value === 'boolean'
      ? 'Boolean'
      : typeof value === 'string'
        ? 'String'
        : null;
