import { collisionsAmong, faultsOfRelays, placesBy, relayed, ShownItem } from '@loyal-hinge/core';
import type { GatewayValue, Place, PlaceOf, Relay } from '@loyal-hinge/core';
import type { GatewayConfiguration, GatewayStatistics } from '@loyal-hinge/contract/line';
import type { GatewaySource, SourceItem, SourceValue } from './source.js';

/** Where items are shown. */
export interface GatewayFace {
  add(key: string, place: Place, item: SourceItem): void;
  show(key: string, value: SourceValue): void;
  stop(): Promise<void>;
}

export type Tell = (says: string) => void;

interface Item {
  readonly source: string;
  readonly path: string;
  readonly place: Place | null;
  readonly shown: ShownItem;
  /** What another UA peer needs of the value that the source told last. */
  raw: unknown;
}

interface SourceCounts {
  state: 'dialling' | 'there' | 'stopped';
  fault: string | null;
  items: number;
  returns: number;
  changes: number;
}

interface RunningRelay {
  readonly relay: Relay;
  last: { readonly value: unknown; readonly type: string } | null;
  /** One write at a time: what comes meanwhile is looked at afterwards. */
  isWriting: boolean;
  isDue: boolean;
  written: number;
  says: string | null;
}

const keyOf = (source: string, path: string): string => `${source}\n${path}`;

/** Joins sources and faces: what sources tell is shown in an own name space, and relays carry values from item to item. */
export class Gateway {
  private readonly items = new Map<string, Item>();
  private readonly relays: readonly RunningRelay[];
  private readonly placeOf: PlaceOf;
  /** Keys of items that relays read or write. */
  private readonly relayed: ReadonlySet<string>;
  private readonly relaysFrom = new Map<string, RunningRelay[]>();
  private readonly relaysTo = new Map<string, RunningRelay[]>();
  private readonly counts = new Map<string, SourceCounts>();
  private readonly faces: GatewayFace[] = [];
  private shownCount = 0;
  private readonly writes = { done: 0, refused: 0 };

  constructor(
    private readonly configuration: GatewayConfiguration,
    private readonly sources: readonly GatewaySource[],
    private readonly tell: Tell,
  ) {
    this.placeOf = placesBy(configuration.places);
    this.relayed = new Set(
      configuration.relays.flatMap(({ from, to }) => [from, to].map(({ source, path }) => keyOf(source, path))),
    );
    this.relays = configuration.relays.map((relay) => ({
      relay,
      last: null,
      isWriting: false,
      isDue: false,
      written: 0,
      says: null,
    }));
    for (const running of this.relays) {
      const { from, to } = running.relay;
      const read = keyOf(from.source, from.path);
      this.relaysFrom.set(read, [...(this.relaysFrom.get(read) ?? []), running]);
      this.relaysTo.set(to.source, [...(this.relaysTo.get(to.source) ?? []), running]);
    }
    for (const { name } of sources)
      this.counts.set(name, { state: 'dialling', fault: null, items: 0, returns: 0, changes: 0 });
  }

  /** What is wrong with a configuration before anything runs, in sentences; empty: nothing. */
  static faultsOf({ sources, places, relays }: GatewayConfiguration): readonly string[] {
    const names = sources.map(({ name }) => name);
    const twice = names.find((name, index) => names.indexOf(name) !== index);
    const unknown = [
      ...places.map(({ source }) => source),
      ...relays.flatMap(({ from, to }) => [from.source, to.source]),
    ].find((source) => !names.includes(source));
    const ids = relays.map(({ id }) => id);
    const sameId = ids.find((id, index) => ids.indexOf(id) !== index);
    return [
      ...(twice === undefined ? [] : [`“${twice}” is the name of two sources.`]),
      ...(unknown === undefined ? [] : [`There is no source “${unknown}”.`]),
      ...(sameId === undefined ? [] : [`“${sameId}” is the id of two relays.`]),
      ...faultsOfRelays(relays).map(({ relayIds, says }) => `Relay ${relayIds.join(', ')}: ${says}`),
    ];
  }

  /** The items that are wanted of a source: those that are shown, and those of relays. */
  static wantedOf({ places, relays }: GatewayConfiguration, source: string): readonly string[] {
    const ends = relays.flatMap(({ from, to }) => [from, to]).filter((end) => end.source === source);
    return [
      ...new Set([
        ...places.filter((rule) => rule.source === source).map(({ items }) => items),
        ...ends.map(({ path }) => path.replace(/[\\*?[]/g, (sign) => `\\${sign}`)),
      ]),
    ];
  }

  start(faces: readonly GatewayFace[]): void {
    this.faces.push(...faces);
    for (const source of this.sources)
      source.start({
        there: (items) => this.there(source, items),
        changed: (path, value) => this.changed(source.name, path, value),
        gone: (says) => this.gone(source.name, says),
      });
  }

  async stop(): Promise<void> {
    await Promise.all(this.sources.map((source) => source.stop()));
    await Promise.all(this.faces.map((face) => face.stop()));
    for (const counts of this.counts.values()) counts.state = 'stopped';
  }

  /** Somebody writes at a face. @returns a status code by its name */
  async write(key: string, value: unknown, type: string): Promise<string> {
    const item = this.items.get(key);
    const source = this.sources.find(({ name }) => name === item?.source);
    const code = item?.place?.isWritable && source ? await source.write(item.path, value, type) : 'BadNotWritable';
    if (code === 'Good') this.writes.done += 1;
    else this.writes.refused += 1;
    return code;
  }

  get statistics(): GatewayStatistics {
    const items = [...this.items.values()];
    return {
      name: this.configuration.name,
      sources: [...this.counts].map(([name, counts]) => ({ name, ...counts })),
      items: items.filter(({ place }) => place !== null).length,
      shown: this.shownCount,
      withheld: items.reduce((sum, { shown }) => sum + shown.withheld, 0),
      writes: { ...this.writes },
      relays: this.relays.map(({ relay: { id }, written, says }) => ({ id, written, says })),
    };
  }

  private async there(source: GatewaySource, found: readonly SourceItem[]): Promise<void> {
    const { name } = source;
    const counts = this.counts.get(name);
    const placed = found.map((item) => ({ item, place: this.placeOf(name, item.path) }));
    const doubtful = new Set<SourceItem>();
    for (const [place, clashing] of collisionsAmong(placed)) {
      const paths = clashing.map(({ item }) => item.path.join('/'));
      this.tell(`${name}: ${paths.join(' and ')} would both be shown as ${place}; neither is.`);
      for (const { item } of clashing) doubtful.add(item);
    }
    const watched: string[] = [];
    for (const { item, place: wanted } of placed) {
      const path = item.path.join('/');
      const key = keyOf(name, path);
      const place = doubtful.has(item) ? null : wanted;
      if (!place && !this.relayed.has(key)) continue;
      watched.push(path);
      const known = this.items.get(key) ?? { source: name, path, place, shown: new ShownItem(), raw: null };
      this.items.set(key, known);
      if (place) for (const face of this.faces) face.add(key, place, item);
    }
    if (counts) {
      if (counts.fault !== null) counts.returns += 1;
      Object.assign(counts, { state: 'there', fault: null, items: watched.length });
    }
    this.tell(`${name} is there, with ${watched.length} items.`);
    await source.watch(watched);
    // What was written before it was gone may be lost there.
    for (const running of this.relaysTo.get(name) ?? []) {
      running.last = null;
      void this.relay(running);
    }
  }

  private changed(source: string, path: string, value: SourceValue): void {
    const key = keyOf(source, path);
    const item = this.items.get(key);
    const counts = this.counts.get(source);
    if (counts) counts.changes += 1;
    if (!item) return;
    const shown = item.shown.take(value);
    if (!shown) return;
    item.raw = value.raw;
    this.showOf(key, item, shown);
  }

  private gone(source: string, says: string): void {
    const counts = this.counts.get(source);
    if (counts) {
      if (counts.fault !== says) this.tell(`${source} is gone: ${says}`);
      Object.assign(counts, { state: 'dialling', fault: says });
    }
    for (const [key, item] of this.items) {
      if (item.source !== source) continue;
      const shown = item.shown.lose();
      if (shown) this.showOf(key, item, shown);
    }
  }

  private showOf(key: string, item: Item, shown: GatewayValue): void {
    if (item.place) {
      this.shownCount += 1;
      for (const face of this.faces) face.show(key, { ...shown, raw: item.raw });
    }
    for (const running of this.relaysFrom.get(key) ?? []) void this.relay(running);
  }

  /** Carries the value that is shown now; what comes while it is being written is carried afterwards, the newest alone. */
  private async relay(running: RunningRelay): Promise<void> {
    if (running.isWriting) {
      running.isDue = true;
      return;
    }
    const { relay } = running;
    const item = this.items.get(keyOf(relay.from.source, relay.from.path));
    const target = this.sources.find(({ name }) => name === relay.to.source);
    if (!item || !target) return;
    const made = relayed(relay, item.shown.now, running.last);
    running.says = made.does === 'refuse' ? made.says : null;
    if (made.does !== 'write') return;
    running.isWriting = true;
    const code = await target.write(relay.to.path, made.value, made.type);
    running.isWriting = false;
    if (code === 'Good') {
      running.last = { value: made.value, type: made.type };
      running.written += 1;
      running.says = null;
    } else running.says = `${relay.to.source} answers ${code}.`;
    if (!running.isDue) return;
    running.isDue = false;
    await this.relay(running);
  }
}
