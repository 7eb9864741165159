import { isBadStatus } from './shown-item.js';
import type { GatewayValue } from './shown-item.js';
import { convertTo, numberIn } from './conversion.js';
import type { RelayType } from './conversion.js';

/** An item of a source. */
export interface RelayEnd {
  readonly source: string;
  readonly path: string;
}

/** How a number becomes another. */
export type RelayScale =
  | { readonly kind: 'linear'; readonly factor: number; readonly offset: number }
  | {
      readonly kind: 'ranges';
      readonly from: readonly [number, number];
      readonly to: readonly [number, number];
      /** Whether what lies outside is drawn to the nearer end; otherwise it goes on beyond. */
      readonly clamps: boolean;
    };

export type DeadBand =
  { readonly kind: 'absolute'; readonly by: number } | { readonly kind: 'percent'; readonly by: number };

/** What is written while the source is bad or gone. */
export type OnBad = { readonly kind: 'hold' } | { readonly kind: 'value'; readonly value: number | boolean | string };

/** A value that is carried from an item to another. */
export interface Relay {
  readonly id: string;
  readonly from: RelayEnd;
  readonly to: RelayEnd;
  /** null: as it is. */
  readonly scale: RelayScale | null;
  /** Changes that are smaller are not written; null: all are. Of what would be written. */
  readonly deadBand: DeadBand | null;
  /** What is written; null: of the type that the value has. */
  readonly as: RelayType | null;
  readonly onBad: OnBad;
}

/** What a relay makes of a value of its source. */
export type Relayed =
  | { readonly does: 'write'; readonly value: unknown; readonly type: string }
  /** `same`: nothing is to be written; `hold`: the source is bad, and the last value stays. */
  | { readonly does: 'nothing'; readonly why: 'same' | 'dead band' | 'hold' }
  | { readonly does: 'refuse'; readonly says: string };

/**
 * What a relay writes for a value of its source.
 * @param last what it wrote last; null: nothing yet
 */
export function relayed(
  relay: Relay,
  input: GatewayValue,
  last: { readonly value: unknown; readonly type: string } | null,
): Relayed {
  if (isBadStatus(input.status) || input.value === null || input.value === undefined) {
    if (relay.onBad.kind === 'hold') return { does: 'nothing', why: 'hold' };
    const fixed = convertTo(relay.as, relay.onBad.value, null);
    return fixed.ok ? written(fixed.value, fixed.type, last, null) : { does: 'refuse', says: fixed.says };
  }
  const scaled = relay.scale === null ? { ok: true as const, value: input.value } : scaledBy(relay.scale, input.value);
  if (!scaled.ok) return { does: 'refuse', says: scaled.says };
  // What was scaled is a number, whatever it was before.
  const converted = convertTo(relay.as, scaled.value, relay.scale === null ? input.type : null);
  return converted.ok
    ? written(converted.value, converted.type, last, relay.deadBand)
    : { does: 'refuse', says: converted.says };
}

function written(
  value: unknown,
  type: string,
  last: { readonly value: unknown; readonly type: string } | null,
  deadBand: DeadBand | null,
): Relayed {
  if (last && last.type === type && Object.is(last.value, value)) return { does: 'nothing', why: 'same' };
  if (last && deadBand && isWithin(value, last.value, deadBand)) return { does: 'nothing', why: 'dead band' };
  return { does: 'write', value, type };
}

function isWithin(value: unknown, last: unknown, { kind, by }: DeadBand): boolean {
  const [one, other] = [numberIn(value), numberIn(last)];
  if (one === null || other === null) return false;
  return Math.abs(one - other) < (kind === 'absolute' ? by : (Math.abs(other) * by) / 100);
}

type Scaled = { readonly ok: true; readonly value: number } | { readonly ok: false; readonly says: string };

function scaledBy(scale: RelayScale, input: unknown): Scaled {
  const value = numberIn(input);
  if (value === null) return { ok: false, says: 'Only numbers can be scaled.' };
  if (scale.kind === 'linear') return { ok: true, value: value * scale.factor + scale.offset };
  const {
    from: [low, high],
    to: [first, last],
    clamps,
  } = scale;
  if (low === high) return { ok: false, says: 'The range that is read has no width.' };
  const part = (value - low) / (high - low);
  const drawn = clamps ? Math.min(1, Math.max(0, part)) : part;
  // Ends are hit exactly, however long the numbers are.
  return { ok: true, value: drawn === 1 ? last : first + drawn * (last - first) };
}

export interface RelayFault {
  readonly relayIds: readonly string[];
  readonly says: string;
}

const keyOf = ({ source, path }: RelayEnd): string => `${source}\n${path}`;

/** What is wrong with relays before they run: circles, an item onto itself, two that write one item, ranges without width. */
export function faultsOfRelays(relays: readonly Relay[]): readonly RelayFault[] {
  const faults: RelayFault[] = [];
  const writers = new Map<string, Relay[]>();
  for (const relay of relays) writers.set(keyOf(relay.to), [...(writers.get(keyOf(relay.to)) ?? []), relay]);
  for (const several of writers.values())
    if (several.length > 1)
      faults.push({
        relayIds: several.map(({ id }) => id),
        says: `${several.length} relays write ${several[0]?.to.path ?? ''} of ${several[0]?.to.source ?? ''}: only one may.`,
      });
  for (const relay of relays) {
    if (keyOf(relay.from) === keyOf(relay.to))
      faults.push({ relayIds: [relay.id], says: 'It writes the item that it reads.' });
    if (relay.scale?.kind === 'ranges' && relay.scale.from[0] === relay.scale.from[1])
      faults.push({ relayIds: [relay.id], says: 'The range that is read has no width.' });
  }
  for (const circle of circlesAmong(relays))
    faults.push({
      relayIds: circle.map(({ id }) => id),
      says: `They go round in a circle: ${[...circle, ...circle.slice(0, 1)].map(({ from }) => `${from.source} ${from.path}`).join(' → ')}.`,
    });
  return faults;
}

/** Circles of more than one relay, each once. */
function circlesAmong(relays: readonly Relay[]): readonly (readonly Relay[])[] {
  const from = new Map<string, Relay[]>();
  for (const relay of relays) from.set(keyOf(relay.from), [...(from.get(keyOf(relay.from)) ?? []), relay]);
  const circles: Relay[][] = [];
  const state = new Map<Relay, 'open' | 'done'>();
  // Without recursion: chains of relays may be long.
  for (const beginning of relays) {
    if (state.has(beginning)) continue;
    const way: { readonly relay: Relay; rest: Relay[] }[] = [];
    const enter = (relay: Relay): void => {
      state.set(relay, 'open');
      way.push({ relay, rest: [...(from.get(keyOf(relay.to)) ?? [])] });
    };
    enter(beginning);
    while (way.length > 0) {
      const here = way[way.length - 1];
      const next = here?.rest.pop();
      if (!here) break;
      if (!next) {
        state.set(here.relay, 'done');
        way.pop();
      } else if (state.get(next) === 'open') {
        const at = way.findIndex(({ relay }) => relay === next);
        const circle = way.slice(at).map(({ relay }) => relay);
        if (circle.length > 1) circles.push(circle);
      } else if (!state.has(next)) enter(next);
    }
  }
  return circles;
}
