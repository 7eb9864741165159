import { collisionsAmong, faultsOfRelays, placesBy, relayed, ShownItem, statusCodeKnown } from '@loyal-hinge/core';
import type { GatewayValue, Place, PlaceOf, Relay } from '@loyal-hinge/core';
import type { GatewayConfiguration, GatewayItems, GatewayStatistics } from '@loyal-hinge/contract/line';
import { valueToSay } from './say-value.js';
import type { GatewaySource, SourceItem, SourceNotifier, SourceValue } from './source.js';
import type { UaEvent } from './ua/events.js';
import type { HistoryAnswer, HistoryAsked } from './ua/history.js';

/** Where items are shown. */
export interface GatewayFace {
  add(key: string, place: Place, item: SourceItem): void;
  show(key: string, value: SourceValue): void;
  remove(key: string): void;
  /** Sends what a node of a source sends, from a folder at a place; absent: it has no events. */
  addNotifier?(key: string, place: Place): void;
  removeNotifier?(key: string): void;
  happened?(key: string, event: UaEvent): void;
  stop(): Promise<void>;
}

/** Hands a value that somebody wrote at a face to its source. @returns a status code by its name */
export type FaceWrite = (key: string, value: unknown, type: string, raw?: unknown) => Promise<string>;

export type Tell = (says: string) => void;
export type SourceSettings = GatewayConfiguration['sources'][number];
/** @param wanted patterns of the items that are looked for */
export type MakeSource = (settings: SourceSettings, wanted: readonly string[]) => GatewaySource;

interface Item {
  readonly source: string;
  readonly path: string;
  place: Place | null;
  readonly shown: ShownItem;
  /** What another UA peer needs of the value that the source told last. */
  raw: unknown;
}

interface Notifier {
  readonly source: string;
  readonly place: Place;
}

interface SourceCounts {
  state: 'dialling' | 'there' | 'stopped';
  fault: string | null;
  items: number;
  returns: number;
  changes: number;
  events: number;
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

const keyOf = ({ source, path }: Relay['from']): string => `${source}\n${path}`;

interface RunningSource {
  readonly source: GatewaySource;
  /** All of the configuration that it was made by: where that differs, another one takes its place. */
  readonly madeBy: string;
}

/** Joins sources and faces: what sources tell is shown in an own name space, and relays carry values from item to item. */
export class Gateway {
  private readonly items = new Map<string, Item>();
  private readonly notifiers = new Map<string, Notifier>();
  private relays: readonly RunningRelay[] = [];
  private placeOf: PlaceOf = () => null;
  /** Keys of items that relays read or write. */
  private relayed: ReadonlySet<string> = new Set();
  private relaysFrom: ReadonlyMap<string, readonly RunningRelay[]> = new Map();
  private relaysTo: ReadonlyMap<string, readonly RunningRelay[]> = new Map();
  private readonly sources = new Map<string, RunningSource>();
  private readonly counts = new Map<string, SourceCounts>();
  private faces: readonly GatewayFace[] = [];
  private shownCount = 0;
  private readonly writes = { done: 0, refused: 0 };

  constructor(
    private configuration: GatewayConfiguration,
    private readonly makeSource: MakeSource,
    private readonly tell: Tell,
  ) {}

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
    this.faces = faces;
    this.change(this.configuration);
  }

  /**
   * Goes over to other sources, places and relays; what stays the same runs on, and faces keep their clients.
   * @param anew sources, by their names, that are made anew all the same: their passwords are other ones
   */
  change(next: GatewayConfiguration, anew: ReadonlySet<string> = new Set()): void {
    this.configuration = next;
    this.placeOf = placesBy(next.places);
    this.relayed = new Set(next.relays.flatMap(({ from, to }) => [keyOf(from), keyOf(to)]));
    this.relays = next.relays.map(
      (relay) =>
        this.relays.find((running) => JSON.stringify(running.relay) === JSON.stringify(relay)) ?? {
          relay,
          last: null,
          isWriting: false,
          isDue: false,
          written: 0,
          says: null,
        },
    );
    this.relaysFrom = groupedBy(this.relays, ({ relay }) => keyOf(relay.from));
    this.relaysTo = groupedBy(this.relays, ({ relay }) => relay.to.source);
    const wanted = next.sources.map((settings) => ({ settings, madeBy: madeBy(next, settings) }));
    for (const [name, { source, madeBy: before }] of this.sources) {
      if (!anew.has(name) && wanted.some((each) => each.madeBy === before)) continue;
      this.sources.delete(name);
      void source.stop();
      if (wanted.some(({ settings }) => settings.name === name)) this.lose(name);
      else this.forget(name);
    }
    for (const { settings, madeBy: by } of wanted)
      if (!this.sources.has(settings.name))
        this.begin(settings.name, by, this.makeSource(settings, Gateway.wantedOf(next, settings.name)));
    for (const running of this.relays) void this.relay(running);
  }

  async stop(): Promise<void> {
    await Promise.all([...this.sources.values()].map(({ source }) => source.stop()));
    await Promise.all(this.faces.map((face) => face.stop()));
    for (const counts of this.counts.values()) counts.state = 'stopped';
  }

  /** Somebody writes at a face. @returns a status code by its name */
  async write(key: string, value: unknown, type: string, raw?: unknown): Promise<string> {
    const item = this.items.get(key);
    const running = item && this.sources.get(item.source);
    const code =
      item?.place?.isWritable && running ? await running.source.write(item.path, value, type, raw) : 'BadNotWritable';
    if (code === 'Good') this.writes.done += 1;
    else this.writes.refused += 1;
    return code;
  }

  /** Somebody reads of a shown item’s history. @returns what its source answers, or a status code by its name */
  async history(key: string, asked: HistoryAsked): Promise<HistoryAnswer> {
    const item = this.items.get(key);
    const source = item?.place ? this.sources.get(item.source)?.source : undefined;
    if (!item || !source?.history) return 'BadHistoryOperationUnsupported';
    return source.history(item.path, asked);
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

  /**
   * Items as they are shown now, in the order of their paths.
   * @param find words that stand in a source’s name, a path or a place; empty: all
   */
  itemsShown(find: string, from: number, count: number): GatewayItems {
    const words = find.toLowerCase().split(/\s+/).filter(Boolean);
    const found = [...this.items.values()].filter(({ source, path, place }) => {
      const text = `${source} ${path} ${place ? `${place.domain}/${place.path}` : ''}`.toLowerCase();
      return words.every((word) => text.includes(word));
    });
    const order = new Intl.Collator('en', { numeric: true });
    found.sort((one, other) => order.compare(one.source, other.source) || order.compare(one.path, other.path));
    return {
      total: found.length,
      items: found.slice(from, from + count).map(({ source, path, place, shown }) => ({
        source,
        path,
        place: place && `${place.domain}/${place.path}`,
        isWritable: place?.isWritable ?? false,
        atSource: shown.atSource && valueToSay(shown.atSource),
        shown: valueToSay(shown.now),
      })),
    };
  }

  private begin(name: string, by: string, source: GatewaySource): void {
    this.sources.set(name, { source, madeBy: by });
    if (!this.counts.has(name))
      this.counts.set(name, { state: 'dialling', fault: null, items: 0, returns: 0, changes: 0, events: 0 });
    const isIt = (): boolean => this.sources.get(name)?.source === source;
    source.start({
      there: async (items, notifiers = []) => {
        if (isIt()) await this.there(source, items, notifiers);
      },
      happened: (path, event) => {
        if (isIt()) this.happened(name, path, event);
      },
      changed: (path, value) => {
        if (isIt()) this.changed(name, path, value);
      },
      gone: (says) => {
        if (isIt()) this.gone(name, says);
      },
    });
  }

  private forget(name: string): void {
    for (const [key, item] of this.items) if (item.source === name) this.drop(key);
    for (const [key, notifier] of this.notifiers) if (notifier.source === name) this.dropNotifier(key);
    this.counts.delete(name);
  }

  private drop(key: string): void {
    if (this.items.get(key)?.place) for (const face of this.faces) face.remove(key);
    this.items.delete(key);
  }

  private dropNotifier(key: string): void {
    this.notifiers.delete(key);
    for (const face of this.faces) face.removeNotifier?.(key);
  }

  private async there(
    source: GatewaySource,
    found: readonly SourceItem[],
    notifiers: readonly SourceNotifier[],
  ): Promise<void> {
    const { name } = source;
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
      const key = keyOf({ source: name, path });
      const place = doubtful.has(item) ? null : wanted;
      if (!place && !this.relayed.has(key)) continue;
      watched.push(path);
      this.place(key, item, place);
    }
    // What no rule wants any more is shown no more; what the server just lacks now keeps its last value.
    for (const [key, { source: from, path }] of this.items)
      if (from === name && !this.placeOf(name, path.split('/')) && !this.relayed.has(key)) this.drop(key);
    const counts = this.counts.get(name);
    if (counts) {
      if (counts.fault !== null) counts.returns += 1;
      Object.assign(counts, { state: 'there', fault: null, items: watched.length });
    }
    this.tell(`${name} is there, with ${watched.length} items.`);
    await source.watch(watched);
    await this.hear(source, notifiers);
    // What was written before it was gone may be lost there.
    for (const running of this.relaysTo.get(name) ?? []) {
      running.last = null;
      void this.relay(running);
    }
  }

  /** Events are sent from where the place of their node says; those of a node that has none go nowhere. */
  private async hear(source: GatewaySource, notifiers: readonly SourceNotifier[]): Promise<void> {
    const wanted = new Map<string, Place>();
    for (const { path } of notifiers) {
      const place = this.placeOf(source.name, path);
      if (place) wanted.set(path.join('/'), place);
      else this.tell(`${source.name}: events of ${path.join('/')} have no place, and are not passed on.`);
    }
    const placeNow = new Map([...wanted].map(([path, place]) => [keyOf({ source: source.name, path }), place]));
    for (const [key, { source: from, place }] of this.notifiers)
      if (from === source.name && JSON.stringify(placeNow.get(key)) !== JSON.stringify(place)) this.dropNotifier(key);
    for (const [key, place] of placeNow) {
      if (this.notifiers.has(key)) continue;
      this.notifiers.set(key, { source: source.name, place });
      for (const face of this.faces) face.addNotifier?.(key, place);
    }
    const refused = wanted.size > 0 ? await source.hear?.([...wanted.keys()]) : undefined;
    for (const [path, why] of refused ?? [])
      this.tell(`${source.name}: events of ${path} can’t be listened to: ${why}.`);
  }

  private happened(source: string, path: string, event: UaEvent): void {
    const key = keyOf({ source, path });
    if (!this.notifiers.has(key)) return;
    const counts = this.counts.get(source);
    if (counts) counts.events += 1;
    for (const face of this.faces) face.happened?.(key, event);
  }

  private place(key: string, { path, ...about }: SourceItem, place: Place | null): void {
    const item = this.items.get(key) ?? {
      source: key.slice(0, key.indexOf('\n')),
      path: path.join('/'),
      place: null,
      shown: new ShownItem(),
      raw: null,
    };
    this.items.set(key, item);
    if (item.place && JSON.stringify(item.place) !== JSON.stringify(place))
      for (const face of this.faces) face.remove(key);
    item.place = place;
    if (!place) return;
    for (const face of this.faces) face.add(key, place, { path, ...about });
    for (const face of this.faces) face.show(key, { ...item.shown.now, raw: item.raw });
  }

  private changed(source: string, path: string, value: SourceValue): void {
    const key = keyOf({ source, path });
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
    this.lose(source);
  }

  private lose(source: string): void {
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
    const item = this.items.get(keyOf(relay.from));
    const target = this.sources.get(relay.to.source)?.source;
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
    } else running.says = refusedWith(code);
    if (!running.isDue) return;
    running.isDue = false;
    await this.relay(running);
  }
}

function groupedBy<Each>(all: readonly Each[], by: (each: Each) => string): ReadonlyMap<string, readonly Each[]> {
  const groups = new Map<string, Each[]>();
  for (const each of all) groups.set(by(each), [...(groups.get(by(each)) ?? []), each]);
  return groups;
}

/** All of a configuration that a source hangs on. */
const madeBy = (configuration: GatewayConfiguration, settings: SourceSettings): string =>
  JSON.stringify([
    settings,
    Gateway.wantedOf(configuration, settings.name),
    configuration.places.filter(({ source }) => source === settings.name),
  ]);

/** Such as: Its server answers BadNotWritable. The item can’t be written by anyone. */
function refusedWith(code: string): string {
  const known = statusCodeKnown(code);
  return `Its server answers ${code}.${known ? ` ${known.meaning} ${known.advice}` : ''}`;
}
