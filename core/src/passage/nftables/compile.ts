import type { Family } from '../addresses.js';
import { cut, familyRegion, regionOf } from '../flow-set.js';
import type { FlowSet } from '../flow-set.js';
import { onePoint } from '../ranges.js';
import type { Ranges } from '../ranges.js';
import { hooks, protocol } from '../rule-set.js';
import type { BaseChain, Chain, Effect, End, Hook, Rule, RuleSet, RuleSetFormat, RuleStep } from '../rule-set.js';
import { comparisonSteps, elementFlows, partsOf, tupleFlows, valueOf } from './comparisons.js';
import type { Sets } from './comparisons.js';
import { readStatements } from './rule-text.js';
import { sayStatements } from './say.js';
import { addressPoints, readSelector } from './selectors.js';
import type { Selector } from './selectors.js';
import { isList, isObject, only, textOf } from './syntax.js';
import { tokensOf } from './tokens.js';
import type { Json, JsonObject, NftChain, NftRule, NftRuleSet } from './syntax.js';

const familyNames: Readonly<Record<string, Family | null>> = { ip: 4, ip6: 6, inet: null, netdev: null };

/** Puts a rule set of nftables into the shape by which flows are judged. */
export function compileNft(read: NftRuleSet, format: RuleSetFormat): RuleSet {
  const notes = [...read.notes];
  const dormant = new Set(
    read.tables.filter(({ isDormant }) => isDormant).map((table) => keyOf(table.family, table.name)),
  );
  const flagged = new Set(
    read.tables.filter(({ hasUnknownFlags }) => hasUnknownFlags).map((table) => keyOf(table.family, table.name)),
  );
  const setsOf = new Map<string, Map<string, NftRuleSet['sets'][number]>>();
  for (const set of read.sets) {
    const key = keyOf(set.family, set.table);
    setsOf.set(key, (setsOf.get(key) ?? new Map<string, NftRuleSet['sets'][number]>()).set(set.name, set));
  }
  const rulesOf = new Map<string, NftRule[]>();
  for (const rule of read.rules) {
    const key = keyOf(rule.family, rule.table, rule.chain);
    const known = rulesOf.get(key);
    if (known) known.push(rule);
    else rulesOf.set(key, [rule]);
  }
  const chains = new Map<string, Chain>();
  for (const chain of read.chains) {
    const family = familyNames[chain.family];
    if (family === undefined) {
      notes.push({ line: 0, says: `Table “${chain.table}” is for ${chain.family}: it is not judged.` });
      continue;
    }
    const key = keyOf(chain.family, chain.table, chain.name);
    const sets: Sets = setsOf.get(keyOf(chain.family, chain.table)) ?? new Map();
    const place = { family: chain.family, table: chain.table, sets };
    chains.set(key, {
      key,
      table: chain.table,
      name: chain.name,
      family,
      base: dormant.has(keyOf(chain.family, chain.table)) ? null : baseOf(chain, flagged),
      rules: (rulesOf.get(key) ?? []).map((rule, index) => compileRule(rule, index, place)),
    });
  }
  const readRule: RuleSet['readRule'] = (chain, index, text) => {
    const [family = '', table = ''] = chain.key.split('\0');
    const read = readStatements(tokensOf(text));
    const rule: NftRule = { family, table, chain: chain.name, text: text.trim(), ...read };
    return compileRule(rule, index, { family, table, sets: setsOf.get(keyOf(family, table)) ?? new Map() });
  };
  return { format, chains, notes: dedupe(notes), families: [4, 6], readRule };
}

const dedupe = (notes: RuleSet['notes']): RuleSet['notes'] => [
  ...new Map(notes.map((note) => [note.says, note])).values(),
];
const keyOf = (...parts: string[]): string => parts.join('\0');

function baseOf(chain: NftChain, flagged: ReadonlySet<string>): BaseChain | null {
  const hook = hooks.find((each): each is Hook => each === chain.base?.hook);
  if (!chain.base || !hook) return null;
  const { type, priority, policy, devices } = chain.base;
  return {
    hook,
    priority,
    type: type === 'nat' || type === 'route' ? type : 'filter',
    policy: policy === 'drop' ? 'drop' : 'accept',
    devices: devices ?? [],
    unsure: devices
      ? flagged.has(keyOf(chain.family, chain.table))
        ? 'the listing doesn’t tell whether its table is asleep'
        : undefined
      : 'the listing doesn’t tell at which interface its chain hangs',
  };
}

interface Place {
  readonly family: string;
  readonly table: string;
  readonly sets: Sets;
}

function compileRule(rule: NftRule, index: number, place: Place): Rule {
  const steps = rule.statements.flatMap((statement) => compileStatement(statement, place));
  if (rule.unread !== null) steps.push({ kind: 'unknown', why: `“${rule.unread}” is not known` });
  return {
    table: rule.table,
    chain: rule.chain,
    index,
    text: rule.text ?? sayStatements(rule.statements),
    steps: joined(steps),
  };
}

/** Conditions that follow each other as one. */
function joined(steps: readonly RuleStep[]): readonly RuleStep[] {
  const made: RuleStep[] = [];
  for (const step of steps) {
    const last = made.at(-1);
    if (step.kind === 'match' && last?.kind === 'match')
      made[made.length - 1] = { kind: 'match', when: cut(last.when, step.when) };
    else made.push(step);
  }
  return made;
}

/** Statements on which no verdict depends. */
const harmless = new Set([
  'counter',
  'log',
  'comment',
  'dup',
  'flow',
  'ct helper',
  'ct timeout',
  'ct expectation',
  'secmark',
  'nftrace',
  'last',
]);
const harmlessChanges = new Set([
  'priority',
  'nftrace',
  'rtclassid',
  'secmark',
  'helper',
  'label',
  'event',
  'pkttype',
  'timeout',
  'expectation',
  'broute',
]);

function compileStatement(statement: Json, place: Place): readonly RuleStep[] {
  const bare = textOf(statement);
  const [kind, body] = bare === null ? (only(statement) ?? ['', null]) : [bare, null];
  if (harmless.has(kind)) return [];
  switch (kind) {
    case 'match':
      return comparisonSteps(body, place.sets);
    case 'vmap':
      return mapSteps(body, place, (verdict) => endOf(verdict, place));
    case 'limit':
      return [{ kind: 'maybe', why: 'it depends on how many came before' }];
    case 'quota':
    case 'ct count':
      return [{ kind: 'maybe', why: 'it depends on what came before' }];
    case 'mangle':
      return changeSteps(body);
    case 'notrack':
      return [{ kind: 'untrack' }];
    case 'set':
      return isObject(body) && typeof body['set'] === 'string'
        ? [{ kind: 'fill', set: body['set'].replace(/^@/, '') }]
        : [];
    case 'map':
      return isObject(body) && typeof body['map'] === 'string'
        ? [{ kind: 'fill', set: body['map'].replace(/^@/, '') }]
        : [];
    case 'reject':
      return rejectSteps(body);
    case 'dnat':
    case 'snat':
      return translationSteps(kind, body, place);
    case 'masquerade':
      return ownSteps('source', body);
    case 'redirect':
      return redirectSteps(body, place);
    default: {
      const end = endOf(statement, place);
      return [end ?? { kind: 'unknown', why: `“${kind}” is not known` }];
    }
  }
}

function endOf(value: Json, place: Place): End | null {
  const bare = textOf(value);
  const [kind, body] = bare === null ? (only(value) ?? ['', null]) : [bare, null];
  if (kind === 'accept' || kind === 'drop' || kind === 'return' || kind === 'continue') return { kind };
  if ((kind === 'jump' || kind === 'goto') && isObject(body))
    return { kind, chain: keyOf(place.family, place.table, textOf(body['target']) ?? '') };
  return null;
}

/** A map looked up: by each key its own way on. */
function mapSteps(body: Json, place: Place, then: (value: Json) => Effect | End | null): readonly RuleStep[] {
  if (!isObject(body)) return [{ kind: 'unknown', why: 'its map is not known' }];
  const read = partsOf(body['key'] ?? null).map(readSelector);
  const selectors = read.flatMap((part) => (part.kind === 'selector' ? [part.selector] : []));
  const base = selectors.reduce<FlowSet>((flows, selector) => cut(flows, selector.base), [regionOf({})]);
  if (selectors.length !== read.length) {
    const open = read.find((part) => part.kind === 'not-told' || part.kind === 'unknown');
    return [{ kind: 'unknown', why: open && 'why' in open ? open.why : 'what it looks up is not known' }];
  }
  const data = body['data'] ?? null;
  const named = typeof data === 'string' && data.startsWith('@') ? data.slice(1) : null;
  const pairs = named === null ? pairsIn(data) : place.sets.get(named)?.elements;
  if (!pairs) return [{ kind: 'unknown', why: `the map “${named ?? ''}” is not there` }];
  const from = pairs.map((pair) => chosen(pair, selectors, base, then));
  if (from.some((each) => each === null))
    return [
      { kind: 'match', when: base },
      { kind: 'unknown', why: 'an element of its map is not known' },
    ];
  const step: RuleStep = { kind: 'choose', from: mostSpecialFirst(from.flatMap((each) => each ?? [])) };
  return [named === null ? step : { kind: 'looked-up', set: named, step }];
}

const pairsIn = (data: Json): readonly Json[] | undefined => {
  const [kind, body] = only(data) ?? ['', null];
  return kind === 'set' && isList(body) ? body : undefined;
};

type Choice = { readonly when: FlowSet; readonly then: Effect | End };
/** `*` stands for all that no other element is for. */
const mostSpecialFirst = (choices: readonly (Choice & { readonly isRest: boolean })[]): readonly Choice[] => [
  ...choices.filter(({ isRest }) => !isRest),
  ...choices.filter(({ isRest }) => isRest),
];

function chosen(pair: Json, selectors: readonly Selector[], base: FlowSet, then: (value: Json) => Effect | End | null) {
  if (!isList(pair)) return null;
  const key = valueOf(pair[0] ?? null);
  const way = then(valueOf(pair[1] ?? null));
  const isRest = key === '*';
  const when = isRest
    ? base
    : selectors.length === 1
      ? elementFlows(selectors, base, [key])
      : tupleFlows(selectors, base, key);
  return way && when ? { when, then: way, isRest } : null;
}

function changeSteps(body: Json): readonly RuleStep[] {
  const [kind, key] = isObject(body) ? (only(body['key']) ?? ['', null]) : ['', null];
  const name = isObject(key) ? (textOf(key['key']) ?? textOf(key['field'])) : null;
  if (kind === 'meta' && name === 'mark')
    return [{ kind: 'mark', to: isObject(body) ? markIn(body['value'] ?? null) : null }];
  if (kind === 'ct' && (name === 'mark' || name === 'zone')) return [];
  if (name !== null && harmlessChanges.has(name)) return [];
  if (
    kind === 'tcp option' ||
    (kind === 'payload' && name !== null && ['dscp', 'ttl', 'hoplimit', 'ecn'].includes(name))
  )
    return [];
  return [{ kind: 'unknown', why: 'what it changes is not known' }];
}

/** `0x1`, `meta mark & 0xff00 | 0x1`: as bits to keep and bits to turn. null: it comes from elsewhere. */
function markIn(value: Json): { keep: number; flip: number } | null {
  if (typeof value === 'number') return { keep: 0, flip: value >>> 0 };
  const [kind, body] = only(value) ?? ['', null];
  if (kind === 'meta' && isObject(body) && body['key'] === 'mark') return { keep: 0xffffffff, flip: 0 };
  if (!isList(body)) return null;
  const [left, right] = [markIn(body[0] ?? null), body[1]];
  if (!left || typeof right !== 'number') return null;
  if (kind === '&') return { keep: left.keep & right, flip: left.flip & right };
  if (kind === '|') return { keep: left.keep & ~right, flip: (left.flip & ~right) | right };
  return kind === '^' ? { keep: left.keep, flip: left.flip ^ right } : null;
}

function rejectSteps(body: Json): readonly RuleStep[] {
  const type = isObject(body) ? (textOf(body['type']) ?? '') : '';
  const expr = isObject(body) ? (textOf(body['expr']) ?? '') : '';
  const end: End = { kind: 'reject', how: [type, expr].filter((part) => part !== '').join(' ') };
  if (type === 'tcp reset') return [{ kind: 'match', when: [regionOf({ protocol: onePoint(protocol.tcp) })] }, end];
  if (type === 'icmp') return [{ kind: 'match', when: [familyRegion(4)] }, end];
  if (type === 'icmpv6') return [{ kind: 'match', when: [familyRegion(6)] }, end];
  return [end];
}

function translationSteps(kind: 'dnat' | 'snat', body: Json, place: Place): readonly RuleStep[] {
  if (!isObject(body)) return [{ kind: 'unknown', why: 'where it translates to is not known' }];
  const end = kind === 'dnat' ? 'destination' : 'source';
  const family = familyTold(body, place);
  const mapped = mapIn(body['addr']);
  const ports = portsTold(body['port']);
  if (mapped) {
    const steps = mapSteps(mapped, place, (value) => translationTo(value, end, family, ports));
    return body['port'] !== undefined && ports === null
      ? [{ kind: 'unknown', why: 'the port that it translates to is not known' }]
      : [...only4or6(family), ...steps];
  }
  if (mapIn(body['port'])) {
    const address = body['addr'] === undefined ? null : addressesTold(body['addr'], family);
    const steps = mapSteps(mapIn(body['port']) ?? null, place, (value) => {
      const own = portsTold(value);
      return own && { kind: 'translate', end, addresses: address, ports: own };
    });
    return [...only4or6(family), ...steps];
  }
  const effect = translationTo(body['addr'] ?? null, end, family, ports);
  if (!effect || (body['port'] !== undefined && ports === null))
    return [{ kind: 'unknown', why: 'where it translates to is not known' }];
  return [
    ...only4or6(effect.addresses === null || effect.addresses === 'own' ? family : familyIn(effect.addresses)),
    effect,
  ];
}

const only4or6 = (family: Family | null): readonly RuleStep[] =>
  family === null ? [] : [{ kind: 'match', when: [familyRegion(family)] }];
const familyIn = (addresses: Ranges): Family => (typeof addresses[0]?.from === 'bigint' ? 6 : 4);

function familyTold(body: JsonObject, place: Place): Family | null {
  const own = textOf(body['family']) ?? place.family;
  return own === 'ip' ? 4 : own === 'ip6' ? 6 : null;
}

function mapIn(value: Json | undefined): Json | null {
  const [kind, body] = only(value) ?? ['', null];
  return kind === 'map' ? body : null;
}

type TranslateTo = Extract<Effect, { kind: 'translate' }>;
/** An address, or an address and a port together. null: not known. */
function translationTo(
  value: Json,
  end: TranslateTo['end'],
  family: Family | null,
  ports: Ranges | null,
): TranslateTo | null {
  if (value === null) return { kind: 'translate', end, addresses: null, ports };
  const [address = null, port, ...more] = partsOf(value);
  if (more.length > 0) return null;
  const addresses = addressesTold(address, family);
  const own = port === undefined ? ports : portsTold(port);
  return addresses && (port === undefined || own) ? { kind: 'translate', end, addresses, ports: own } : null;
}

const addressesTold = (value: Json, family: Family | null): Ranges | null =>
  (family === null ? ([4, 6] as const) : [family])
    .map((each) => addressPoints(value, each))
    .find((points) => points !== null) ?? null;

function portsTold(value: Json | undefined): Ranges | null {
  if (typeof value === 'number') return onePoint(value);
  const [kind, body] = only(value) ?? ['', null];
  if (kind !== 'range' || !isList(body)) return null;
  const [first, last] = body;
  return typeof first === 'number' && typeof last === 'number' && first <= last
    ? [{ from: first, to: last + 1 }]
    : null;
}

function ownSteps(end: TranslateTo['end'], body: Json): readonly RuleStep[] {
  const ports = isObject(body) ? portsTold(body['port']) : null;
  return [{ kind: 'translate', end, addresses: 'own', ports }];
}

function redirectSteps(body: Json, place: Place): readonly RuleStep[] {
  const mapped = isObject(body) ? mapIn(body['port']) : null;
  if (!mapped) {
    const isTold = !isObject(body) || body['port'] === undefined || portsTold(body['port']) !== null;
    return isTold
      ? ownSteps('destination', body)
      : [{ kind: 'unknown', why: 'the port that it redirects to is not known' }];
  }
  return mapSteps(mapped, place, (value) => {
    const ports = portsTold(value);
    return ports && { kind: 'translate', end: 'destination', addresses: 'own', ports };
  });
}
