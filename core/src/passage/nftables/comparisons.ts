import { cut, regionOf, subtract, wholeDimension } from '../flow-set.js';
import type { FlowSet } from '../flow-set.js';
import { rangesOf, subtractRanges } from '../ranges.js';
import type { Range } from '../ranges.js';
import type { RuleStep } from '../rule-set.js';
import { flagsIn, readSelector, segmentsWith, tcpFlags } from './selectors.js';
import type { ReadSelector, Selector } from './selectors.js';
import { isList, isObject, only, textOf } from './syntax.js';
import type { Json, NftSet } from './syntax.js';

/** Sets and maps of the table in which a rule stands, by name. */
export type Sets = ReadonlyMap<string, NftSet>;

const unknown = (why: string): RuleStep => ({ kind: 'unknown', why });
const match = (when: FlowSet): RuleStep => ({ kind: 'match', when });

/** A comparison as steps of a rule: what it lets go on. */
export function comparisonSteps(body: Json, sets: Sets): readonly RuleStep[] {
  if (!isObject(body)) return [unknown('its comparison is not known')];
  const operator = textOf(body['op']) ?? '==';
  const [left, right] = [body['left'] ?? null, body['right'] ?? null];
  const ofMark = markBits(left, operator, right);
  if (ofMark) return [ofMark];
  const parts = partsOf(left);
  const read = parts.map(readMasked);
  const wrong = read.find((part) => part.kind === 'unknown');
  if (wrong?.kind === 'unknown') return [unknown(wrong.why)];
  const open = read.find((part) => part.kind === 'not-told');
  if (open?.kind === 'not-told') return maybeSteps(read, open.why);
  if (parts.length === 1 && read[0]?.kind === 'fixed') return fixedSteps(read[0], operator, right);
  const selectors = read.flatMap((part) => (part.kind === 'selector' ? [part.selector] : []));
  if (selectors.length !== parts.length) return [unknown('it joins fields that can’t be compared here')];
  return chosenSteps(selectors, operator, right, sets);
}

/** `meta mark & 0xff == 0x1`, also with a set of values. null: it is no such comparison. */
function markBits(left: Json, operator: string, right: Json): RuleStep | null {
  const [kind, body] = only(left) ?? ['', null];
  if (kind !== '&' || !isList(body) || JSON.stringify(body[0]) !== '{"meta":{"key":"mark"}}') return null;
  const values = elementList(right).map(valueOf);
  if (typeof body[1] !== 'number' || !values.every((value) => typeof value === 'number')) return null;
  if (operator !== '==' && operator !== '!=' && operator !== 'in') return null;
  return { kind: 'mark-bits', mask: body[1], values: values.map((value) => value >>> 0), isNot: operator === '!=' };
}

const maybeSteps = (read: readonly ReadSelector[], why: string): readonly RuleStep[] => {
  const bases = read.reduce<FlowSet>((base, part) => cut(base, baseOf(part)), [regionOf({})]);
  return [match(bases), { kind: 'maybe', why }];
};

const baseOf = (part: ReadSelector): FlowSet => {
  if (part.kind === 'selector') return part.selector.base;
  if (part.kind === 'fixed') return part.fixed.base;
  return part.kind === 'not-told' ? part.base : [];
};

function fixedSteps(
  read: Extract<ReadSelector, { kind: 'fixed' }>,
  operator: string,
  right: Json,
): readonly RuleStep[] {
  const isTrue = read.fixed.isTrue(operator, right);
  if (isTrue === null) return [match(read.fixed.base), { kind: 'maybe', why: 'what it compares with is not known' }];
  return [match(isTrue ? read.fixed.base : [])];
}

/** Parts of a concatenation, or the one field. */
export function partsOf(left: Json): readonly Json[] {
  const [kind, body] = only(left) ?? ['', null];
  return kind === 'concat' && isList(body) ? body : [left];
}

/** A field, or some bits of it. */
function readMasked(left: Json): ReadSelector {
  const [kind, body] = only(left) ?? ['', null];
  if (kind !== '&' || !isList(body)) return readSelector(left);
  const [field, mask] = [body[0] ?? null, body[1] ?? null];
  const read = readSelector(field);
  if (read.kind !== 'selector') return read;
  if (read.selector.dimension === 'segment') {
    const bits = flagsIn(mask);
    return bits === null ? { kind: 'unknown', why: 'its flags are not known' } : tcpFlags(bits);
  }
  const bits = flagsIn(mask);
  const { points } = read.selector;
  if (bits === null) return { kind: 'not-told', why: 'it looks at some bits of a field', base: read.selector.base };
  if (read.selector.dimension === 'state' || read.selector.dimension === 'isTranslated')
    return { kind: 'selector', selector: { ...read.selector, points } };
  return { kind: 'not-told', why: 'it looks at some bits of a field', base: read.selector.base };
}

function chosenSteps(selectors: readonly Selector[], operator: string, right: Json, sets: Sets): readonly RuleStep[] {
  const base = selectors.reduce<FlowSet>((flows, { base: own }) => cut(flows, own), [regionOf({})]);
  const [first] = selectors;
  if (!first) return [unknown('it compares nothing')];
  if (operator === '!' && first.dimension === 'segment') {
    const bits = flagsIn(right);
    return bits === null
      ? [unknown('its flags are not known')]
      : [match(subtract(base, cut(base, [regionOf({ segment: segmentsWith(bits) })])))];
  }
  if (['<', '>', '<=', '>='].includes(operator)) return orderedSteps(first, base, operator, right);
  const named = typeof right === 'string' && right.startsWith('@') ? right.slice(1) : null;
  const elements = named === null ? elementsOf(right, first) : sets.get(named)?.elements;
  if (!elements) return [unknown(`the set “${named ?? ''}” is not there`)];
  /* Flags of TCP without a sign: at least one of them. */
  const isAnyFlag = first.dimension === 'segment' && operator === 'in';
  const flows = isAnyFlag ? anyFlag(right, base) : elementFlows(selectors, base, elements);
  if (!flows) return [match(base), { kind: 'maybe', why: 'a value that it compares with is not known' }];
  const isNot = operator === '!=' || operator === '!';
  const step = match(isNot ? subtract(base, flows) : flows);
  return named === null ? [step] : [{ kind: 'looked-up', set: named, step }];
}

function anyFlag(right: Json, base: FlowSet): FlowSet | null {
  const bits = flagsIn(right);
  return bits === null ? null : cut(base, [regionOf({ segment: segmentsWith(bits) })]);
}

const elementsOf = (right: Json, first: Selector): readonly Json[] =>
  isList(right) && first.dimension === 'segment' ? [right] : elementList(right);

function elementList(right: Json): readonly Json[] {
  const [kind, body] = only(right) ?? ['', null];
  if (kind === 'set') return isList(body) ? body : [body];
  return isList(right) ? right : [right];
}

/** Flows with one of these elements. null: one of them is not known. */
export function elementFlows(selectors: readonly Selector[], base: FlowSet, elements: readonly Json[]): FlowSet | null {
  const [first] = selectors;
  if (selectors.length === 1 && first) {
    const points: Range[] = [];
    for (const element of elements) {
      const own = first.points(valueOf(element));
      if (!own) return null;
      points.push(...own);
    }
    const all = rangesOf(points);
    return all.length === 0 ? [] : cut(base, [regionOf({ [first.dimension]: all })]);
  }
  const flows = elements.map((element) => tupleFlows(selectors, base, element));
  return flows.some((each) => each === null) ? null : flows.flatMap((each) => each ?? []);
}

/** Flows of one element, which has as many parts as there are fields. */
export function tupleFlows(selectors: readonly Selector[], base: FlowSet, element: Json): FlowSet | null {
  const values = partsOf(valueOf(element));
  if (values.length !== selectors.length) return null;
  let flows = base;
  for (const [index, { dimension, points }] of selectors.entries()) {
    const own = points(values[index] ?? null);
    if (!own) return null;
    if (own.length === 0) return [];
    flows = cut(flows, [regionOf({ [dimension]: own })]);
  }
  return flows;
}

/** An element without what is noted of it (its time, its comment). */
export function valueOf(element: Json): Json {
  const [kind, body] = only(element) ?? ['', null];
  return kind === 'elem' && isObject(body) ? (body['val'] ?? null) : element;
}

function orderedSteps(selector: Selector, base: FlowSet, operator: string, right: Json): readonly RuleStep[] {
  const points = selector.points(right);
  const at = points?.[0];
  if (!points || !at) return [unknown('a value that it compares with is not known')];
  const whole = wholeDimension(selector.dimension);
  const [start] = whole;
  const end = whole.at(-1);
  if (!start || !end) return [unknown('it compares nothing')];
  const below = { from: start.from, to: at.from };
  const wanted =
    operator === '<'
      ? [below]
      : operator === '>='
        ? subtractRanges(whole, [below])
        : operator === '<='
          ? rangesOf([below, at])
          : subtractRanges(whole, [below, at]);
  return [match(cut(base, [regionOf({ [selector.dimension]: rangesOf(wanted) })]))];
}
