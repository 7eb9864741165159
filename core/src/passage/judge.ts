import { everyAddress, familyOf } from './addresses.js';
import type { Family } from './addresses.js';
import { cutRegions, pointsIn, regionOf, states, subtractRegion, withPoints } from './flow-set.js';
import type { Dimension, FlowSet, FlowState, Region } from './flow-set.js';
import { candidatesIn } from './likely-rules.js';
import { cutRanges, onePoint, onlyPoint } from './ranges.js';
import type { Ranges } from './ranges.js';
import type { BaseChain, Chain, Effect, End, Hook, Rule, RuleSet, RuleStep } from './rule-set.js';

export type PassageVerdict = 'accept' | 'drop' | 'reject' | 'unknown';
export const passageHooks = ['forward', 'input', 'output'] as const;
export type PassageHook = (typeof passageHooks)[number];

/** What becomes of some flows at a machine. */
export interface Outcome {
  /** As they came, before any translation. */
  readonly flows: Region;
  /** As they left, translated. */
  readonly left: Region;
  readonly verdict: PassageVerdict;
  /** null: a policy, or what the firewall does by itself. */
  readonly rule: Rule | null;
  /** Why it can’t be told. */
  readonly why: string | null;
  readonly translated: Translated | null;
  /** The verdict depends on whether this rule matched, which can’t be known here. */
  readonly doubt: Doubt | null;
}

/** null: as it was. */
export interface Translated {
  readonly addresses: Ranges | 'own' | null;
  readonly ports: Ranges | null;
}
export interface Doubt {
  readonly rule: Rule;
  readonly why: string;
}

/** Flows of an outcome as rules see them once the destination was translated. */
export function asRulesSee(region: Region, { translated }: Pick<Outcome, 'translated'>): Region {
  const { addresses = null, ports = null } = translated ?? {};
  const placed = addresses === null || addresses === 'own' ? region : withPoints(region, 'destination', addresses);
  return ports === null ? placed : withPoints(placed, 'destinationPort', ports);
}

interface Item {
  readonly region: Region;
  /** Of dimensions that were changed on the way, what they were at first. */
  readonly before: ReadonlyMap<Dimension, Ranges | null>;
  readonly translated: Translated | null;
  readonly isSourceTranslated: boolean;
  /** Chains that translate what the machine sends had their turn. */
  readonly hasPassedTranslation: boolean;
  readonly doubt: Doubt | null;
  readonly acceptedBy: Rule | null;
  readonly filled: ReadonlySet<string>;
}

interface Told {
  readonly item: Item;
  readonly verdict: PassageVerdict;
  readonly rule: Rule | null;
  readonly why: string | null;
}

/** The way of a packet through a machine, by its hook. */
const ways: Readonly<Record<PassageHook, readonly Hook[]>> = {
  forward: ['ingress', 'prerouting', 'forward', 'postrouting', 'egress'],
  input: ['ingress', 'prerouting', 'input'],
  output: ['output', 'postrouting', 'egress'],
};
/** Chains before it see no connection yet (NF_IP_PRI_CONNTRACK). */
const conntrackPriority = -200;
/** Where all chains that translate have their turn (NF_IP_PRI_NAT_DST, NF_IP_PRI_NAT_SRC). */
const translationPriority: Readonly<Partial<Record<Hook, number>>> = {
  prerouting: -100,
  output: -100,
  input: 100,
  postrouting: 100,
};
const mostItems = 4096;
const deepest = 64;
const stateNumber = (state: FlowState): number => states.indexOf(state);

/**
 * What becomes of flows on their whole way through a machine, as boxes that together are what was asked for. Interfaces are
 * those before and after the machine; the destination is the one before translation, the hook the one after it.
 * Where rules depend on what isn’t told (a rate, a program), both ways are followed, and outcomes carry the doubt.
 */
export function judgeFlows(ruleSet: RuleSet, hook: PassageHook, flows: FlowSet): readonly Outcome[] {
  const told: Told[] = [];
  let items = flows.flatMap(byFamily).map(asItem);
  const isTold = (item: Item): boolean => ruleSet.families.includes(familyOfItem(item));
  for (const item of items.filter((each) => !isTold(each)))
    told.push({ item, verdict: 'unknown', rule: null, why: `these rules say nothing of IPv${familyOfItem(item)}` });
  items = items.filter(isTold);
  for (const place of ways[hook]) {
    const earlier = told.length;
    const fits = fitting(ruleSet, place, hook);
    items = fits.before(items);
    for (const turn of turnsAt(ruleSet, place)) {
      if (items.length === 0) break;
      items = turn(new Run(ruleSet, place, hook, told), items);
      if (items.length > mostItems) return [...told, ...items.map(tooMany)].map(outcomeOf);
    }
    items = items.flatMap(fits.after);
    /* Before translation had its turn, nothing is known of where a packet would have gone. */
    const possible = told
      .splice(earlier)
      .filter(({ item }) => !item.hasPassedTranslation || fits.after(item).length > 0);
    told.push(...possible);
  }
  for (const item of items) told.push({ item, verdict: 'accept', rule: item.acceptedBy, why: null });
  return told.map(outcomeOf);
}

const tooMany = (item: Item): Told => ({
  item,
  verdict: 'unknown',
  rule: null,
  why: 'the rules take these flows into too many parts to follow',
});

function byFamily(region: Region): FlowSet {
  return ([4, 6] as const).flatMap((family) => {
    const all = everyAddress[family];
    const source = cutRanges(pointsIn(region, 'source') ?? all, all);
    const destination = cutRanges(pointsIn(region, 'destination') ?? all, all);
    if (source.length === 0 || destination.length === 0) return [];
    return [withPoints(withPoints(region, 'source', source), 'destination', destination)];
  });
}

const nothingChanged: ReadonlyMap<Dimension, Ranges | null> = new Map();
const nothingFilled: ReadonlySet<string> = new Set();
const asItem = (region: Region): Item => ({
  region,
  before: nothingChanged,
  translated: null,
  isSourceTranslated: false,
  hasPassedTranslation: false,
  doubt: null,
  acceptedBy: null,
  filled: nothingFilled,
});

function outcomeOf({ item, verdict, rule, why }: Told): Outcome {
  let flows = item.region;
  for (const [name, points] of item.before) flows = withPoints(flows, name, points);
  return {
    flows,
    left: item.region,
    verdict,
    rule: rule?.isImplied ? null : rule,
    why,
    translated: item.translated,
    doubt: item.doubt,
  };
}

/** What is told of a packet, where it leads and by which interface, holds after its destination was translated. */
interface Fitting {
  before(items: readonly Item[]): Item[];
  after(item: Item): readonly Item[];
}

function fitting(ruleSet: RuleSet, place: Hook, hook: PassageHook): Fitting {
  const mayTranslate = [...ruleSet.chains.values()].some(({ base }) => base?.hook === place && base.type === 'nat');
  const whole = (item: Item): readonly Item[] => [item];
  if (place === 'prerouting') {
    const local = (item: Item): readonly Item[] => localOrNot(item, hook);
    return { before: (items) => (mayTranslate ? [...items] : items.flatMap(local)), after: local };
  }
  if (place !== 'output' || !mayTranslate) return { before: (items) => [...items], after: whole };
  return { before: (items) => items.map((item) => changed(item, 'outInterface', null)), after: sentOn };
}

/** A packet is for the machine itself just where its hook says so. */
function localOrNot(item: Item, hook: PassageHook): readonly Item[] {
  const cutTo = cutRegions(item.region, onlyLocal(hook === 'input'));
  return cutTo ? [{ ...item, region: cutTo }] : [];
}

/**
 * What the machine itself sends is translated after its first route was found: chains at the output hook still see the
 * interface of that one. Where nothing was translated, it is the one by which the packet leaves.
 */
function sentOn(item: Item): readonly Item[] {
  const leaves = item.before.get('outInterface') ?? null;
  const seen = pointsIn(item.region, 'outInterface');
  const back = asBefore(item, 'outInterface');
  if (item.translated || !seen) return [back];
  const both = leaves ? cutRanges(seen, leaves) : seen;
  return both.length === 0 ? [] : [{ ...back, region: withPoints(back.region, 'outInterface', both) }];
}

const onlyLocal = (isLocal: boolean): Region => regionOf({ isLocal: onePoint(isLocal ? 1 : 0) });

/** Of a chain that may not be in the way, everything is a doubt. */
function doubted({ table, name, base }: HungChain, item: Item): Item {
  if (base.unsure === undefined) return item;
  const rule: Rule = { table, chain: name, index: 0, text: '', steps: [], isImplied: true };
  return { ...item, doubt: item.doubt ?? { rule, why: base.unsure } };
}

type Turn = (run: Run, items: readonly Item[]) => Item[];

/** Chains at a place in their order; those that translate have one turn together. */
function turnsAt(ruleSet: RuleSet, place: Hook): readonly Turn[] {
  const chains = [...ruleSet.chains.values()].filter(isBase).filter(({ base }) => base.hook === place);
  const turns: { priority: number; turn: Turn }[] = chains
    .filter(({ base }) => base.type !== 'nat')
    .map((chain) => ({ priority: chain.base.priority, turn: (run, items) => run.filter(chain, items) }));
  const translating = chains
    .filter(({ base }) => base.type === 'nat')
    .sort((left, right) => left.base.priority - right.base.priority);
  const at = translationPriority[place];
  if (translating.length > 0 && at !== undefined)
    turns.push({
      priority: at,
      turn: (run, items) => run.translate(translating, items).map((item) => ({ ...item, hasPassedTranslation: true })),
    });
  if (place === 'prerouting' || place === 'output')
    turns.push({ priority: conntrackPriority, turn: (_, items) => items.map(seenByConntrack) });
  return turns.sort((left, right) => left.priority - right.priority).map(({ turn }) => turn);
}

type HungChain = Chain & { readonly base: BaseChain };
const isBase = (chain: Chain): chain is HungChain => chain.base !== null;

/** Before conntrack a packet has no state (`invalid` to rules that ask); what was taken out of tracking stays so. */
function seenByConntrack(item: Item): Item {
  if (!item.before.has('state')) return item;
  const at = onlyPoint(pointsIn(item.region, 'state') ?? []);
  return at === stateNumber('untracked') ? item : ofConnection.reduce(asBefore, item);
}

function asBefore(item: Item, name: Dimension): Item {
  const before = new Map(item.before);
  before.delete(name);
  return { ...item, region: withPoints(item.region, name, item.before.get(name) ?? null), before };
}

function hideState(item: Item): Item {
  if (item.before.has('state')) return item;
  const hidden = changed(item, 'state', onePoint(stateNumber('invalid')));
  return changed(changed(hidden, 'direction', onePoint(noConnection)), 'isTranslated', onePoint(noConnection));
}
const ofConnection: readonly Dimension[] = ['state', 'direction', 'isTranslated'];
const noConnection = 2;

function changed(item: Item, name: Dimension, points: Ranges | null): Item {
  const before = item.before.has(name)
    ? item.before
    : new Map([...item.before, [name, pointsIn(item.region, name)] as const]);
  return { ...item, region: withPoints(item.region, name, points), before };
}

/** Items at one hook of a machine. */
class Run {
  constructor(
    private readonly ruleSet: RuleSet,
    private readonly place: Hook,
    private readonly hook: PassageHook,
    private readonly told: Told[],
  ) {}

  filter(chain: HungChain, items: readonly Item[]): Item[] {
    const isEarly =
      this.place === 'ingress' ||
      ((this.place === 'prerouting' || this.place === 'output') && chain.base.priority < conntrackPriority);
    const passed: Item[] = [];
    for (const item of items) {
      if (!this.isFor(chain, item)) passed.push(item);
      else {
        const asked = doubted(chain, item);
        /* It may not be there at all. */
        if (asked !== item) passed.push(asked);
        const seen = isEarly ? hideState(asked) : asked;
        const { through, accepted } = this.walk(chain, [this.interfacesAt(seen)], 0);
        for (const left of through) {
          if (chain.base.policy === 'accept') passed.push(this.interfacesBack(left));
          else this.told.push({ item: left, verdict: 'drop', rule: null, why: null });
        }
        for (const { item: left, rule } of accepted)
          passed.push({
            ...this.interfacesBack(left),
            acceptedBy:
              this.place === this.hook && chain.base.type !== 'nat' && !rule.isImplied ? rule : left.acceptedBy,
          });
      }
    }
    return passed;
  }

  /** A connection’s first packet goes through these chains until one translates; those after it are translated the same. */
  translate(chains: readonly HungChain[], items: readonly Item[]): Item[] {
    return items.flatMap((item) =>
      byState(item).flatMap(({ state, item: one }) => {
        if (state === 'new') return this.firstPacket(chains, one, this.told);
        if (state !== 'established') return [one];
        const dropped: Told[] = [];
        const passed = this.firstPacket(chains, { ...one, region: asFirst(one.region) }, dropped);
        return [...passed, ...dropped.map((each) => each.item)].map((each) => ({
          ...each,
          region: withPoints(
            withPoints(each.region, 'state', onePoint(stateNumber('established'))),
            'segment',
            pointsIn(one.region, 'segment'),
          ),
        }));
      }),
    );
  }

  private firstPacket(chains: readonly HungChain[], first: Item, told: Told[]): Item[] {
    const run = new Run(this.ruleSet, this.place, this.hook, told);
    const done: Item[] = [];
    let items: readonly Item[] = [first];
    const isTranslated = (item: Item): boolean =>
      this.place === 'prerouting' || this.place === 'output' ? item.translated !== null : item.isSourceTranslated;
    for (const chain of chains) {
      const next = run.filter(chain, items);
      done.push(...next.filter(isTranslated));
      items = next.filter((item) => !isTranslated(item));
    }
    return [...done, ...items];
  }

  private isFor(chain: HungChain, item: Item): boolean {
    if (chain.family !== null && chain.family !== familyOfItem(item)) return false;
    const { devices } = chain.base;
    if (devices.length === 0) return true;
    const name = onlyPoint(pointsIn(item.region, this.place === 'ingress' ? 'inInterface' : 'outInterface') ?? []);
    return name === null || devices.includes(String(name));
  }

  /** Where a packet has no interface yet, or none any more, rules see an empty name. */
  private get hidden(): 'inInterface' | 'outInterface' | null {
    if (this.place === 'prerouting' || this.place === 'ingress' || this.place === 'input') return 'outInterface';
    return this.place === 'output' || (this.place === 'postrouting' && this.hook === 'output') ? 'inInterface' : null;
  }

  private interfacesAt(item: Item): Item {
    return this.hidden === null ? item : changed(item, this.hidden, noInterface);
  }

  private interfacesBack(item: Item): Item {
    return this.hidden === null ? item : asBefore(item, this.hidden);
  }

  private walk(chain: Chain, items: readonly Item[], depth: number): Walked {
    const through: Item[] = [];
    const accepted: Accepted[] = [];
    let here = items;
    const { rules } = chain;
    for (let at = 0; at < rules.length && here.length > 0; at += 1) {
      const [only] = here;
      if (here.length === 1 && only) at = candidatesIn(chain, only.region, at);
      const rule = rules[at];
      if (!rule) break;
      const next: Item[] = [];
      for (const item of here) this.follow({ rule, depth, next, through, accepted }, item);
      here = next;
      if (here.length > mostItems) {
        this.told.push(...here.map(tooMany));
        here = [];
      }
    }
    return { through: here.length > 0 ? [...through, ...here] : through, accepted };
  }

  /** One item at one rule. */
  private follow(at: AtRule, item: Item): void {
    const leaving: Item[] = [];
    this.steps(at, item, 0, leaving);
    for (const left of leaving) {
      const same = at.next.findIndex((other) => isSameItem(other, left));
      /* Whether the rule matched makes no difference where both ways meet again: it is no doubt then. */
      if (same >= 0) at.next[same] = { ...left, doubt: item.doubt };
      else at.next.push(left);
    }
  }

  private steps(at: AtRule, item: Item, index: number, leaving: Item[]): void {
    const step = at.rule.steps[index];
    if (!step) {
      leaving.push(item);
      return;
    }
    this.step(at, item, step, (matched) => this.steps(at, matched, index + 1, leaving), leaving);
  }

  private step(at: AtRule, item: Item, step: RuleStep, onward: (item: Item) => void, leaving: Item[]): void {
    switch (step.kind) {
      case 'match':
        for (const rest of parted(item, step.when, onward)) leaving.push(rest);
        return;
      case 'mark-bits': {
        const mark = onlyPoint(pointsIn(item.region, 'mark') ?? []);
        if (typeof mark !== 'number')
          return this.step(at, item, { kind: 'maybe', why: 'the packet’s mark is not known' }, onward, leaving);
        const fits = step.values.includes((mark & step.mask) >>> 0) !== step.isNot;
        if (fits) return onward(item);
        leaving.push(item);
        return;
      }
      case 'maybe': {
        const doubted = { ...item, doubt: item.doubt ?? { rule: at.rule, why: step.why } };
        leaving.push(doubted);
        onward(doubted);
        return;
      }
      case 'looked-up': {
        if (!item.filled.has(step.set)) return this.step(at, item, step.step, onward, leaving);
        const why = 'it looks something up that rules put there on the way';
        return this.step(at, item, { kind: 'unknown', why }, onward, leaving);
      }
      case 'choose': {
        let rests: readonly Item[] = [item];
        for (const { when, then } of step.from)
          rests = rests.flatMap((rest) => parted(rest, when, (chosen) => this.step(at, chosen, then, onward, leaving)));
        leaving.push(...rests);
        return;
      }
      case 'translate':
        this.translated(at, item, step);
        return;
      case 'mark':
        return onward(marked(item, step.to));
      case 'untrack':
        return onward(this.untracked(item));
      case 'fill':
        return onward({ ...item, filled: new Set([...item.filled, step.set]) });
      default:
        this.end(at, item, step, onward);
    }
  }

  private end(at: AtRule, item: Item, end: End, onward: (item: Item) => void): void {
    switch (end.kind) {
      case 'accept':
        at.accepted.push({ item, rule: at.rule });
        return;
      case 'drop':
      case 'reject':
        this.told.push({ item, verdict: end.kind, rule: at.rule, why: null });
        return;
      case 'return':
        at.through.push(item);
        return;
      case 'continue':
        return onward(item);
      case 'unknown':
        this.told.push({ item, verdict: 'unknown', rule: at.rule, why: end.why });
        return;
      default: {
        const chain = this.ruleSet.chains.get(end.chain);
        const why = !chain ? 'it goes to a chain that is not there' : 'chains lead to each other in a circle';
        if (!chain || at.depth >= deepest) {
          this.told.push({ item, verdict: 'unknown', rule: at.rule, why });
          return;
        }
        const { through, accepted } = this.walk(chain, [item], at.depth + 1);
        at.accepted.push(...accepted);
        (end.kind === 'goto' ? at.through : at.next).push(...through);
      }
    }
  }

  /** A translation accepts, too: the chain ends with it. */
  private translated(at: AtRule, item: Item, { end, addresses, ports }: Translation): void {
    const points = addresses === 'own' ? everyAddress[familyOfItem(item)] : addresses;
    let after = item;
    if (points) after = changed(after, end, points);
    if (ports) after = changed(after, end === 'source' ? 'sourcePort' : 'destinationPort', ports);
    if (end === 'destination') {
      after = { ...changed(after, 'isTranslated', onePoint(1)), translated: { addresses, ports } };
      if (addresses) after = changed(after, 'isLocal', addresses === 'own' ? onePoint(1) : null);
    } else after = { ...after, isSourceTranslated: true };
    at.accepted.push({ item: after, rule: at.rule });
  }

  private untracked(item: Item): Item {
    const isTracked = this.place !== 'prerouting' && this.place !== 'output';
    const state = onlyPoint(pointsIn(item.region, 'state') ?? []);
    if (isTracked || state !== stateNumber('invalid')) return item;
    return changed(item, 'state', onePoint(stateNumber('untracked')));
  }
}

/** As the connection’s first packet was. */
const asFirst = (region: Region): Region =>
  withPoints(withPoints(region, 'state', onePoint(stateNumber('new'))), 'segment', onePoint(0));

type Translation = Extract<Effect, { kind: 'translate' }>;
interface Accepted {
  readonly item: Item;
  readonly rule: Rule;
}
interface Walked {
  readonly through: Item[];
  readonly accepted: Accepted[];
}
interface AtRule {
  readonly rule: Rule;
  readonly depth: number;
  /** Go on to the next rule. */
  readonly next: Item[];
  /** Leave the chain without a verdict. */
  readonly through: Item[];
  readonly accepted: Accepted[];
}

const noInterface: Ranges = [{ from: '', to: '\0' }];

const familyOfItem = (item: Item): Family => familyOf(pointsIn(item.region, 'source')?.[0]?.from ?? 0);

/** Hands on what fits, and returns what doesn’t. */
function parted(item: Item, when: FlowSet, onward: (item: Item) => void): readonly Item[] {
  let rest: FlowSet = [item.region];
  for (const box of when) {
    if (rest.length === 0) break;
    const next: Region[] = [];
    for (const region of rest) {
      const inside = cutRegions(region, box);
      if (!inside) next.push(region);
      else {
        onward(inside === item.region ? item : { ...item, region: inside });
        if (inside !== region) next.push(...subtractRegion(region, box));
      }
    }
    rest = next;
  }
  return rest.map((region) => (region === item.region ? item : { ...item, region }));
}

function byState(item: Item): readonly { readonly state: FlowState; readonly item: Item }[] {
  const points = pointsIn(item.region, 'state');
  return states.flatMap((state, number) => {
    const only = onePoint(number);
    const both = points ? cutRanges(points, only) : only;
    if (both.length === 0) return [];
    const isWhole = points?.length === 1 && onlyPoint(points) !== null;
    return [{ state, item: isWhole ? item : { ...item, region: withPoints(item.region, 'state', both) } }];
  });
}

function marked(item: Item, to: { readonly keep: number; readonly flip: number } | null): Item {
  if (to === null) return changed(item, 'mark', null);
  if (to.keep === 0) return changed(item, 'mark', onePoint(to.flip >>> 0));
  const now = onlyPoint(pointsIn(item.region, 'mark') ?? []);
  if (typeof now !== 'number') return changed(item, 'mark', null);
  return changed(item, 'mark', onePoint(((now & to.keep) ^ to.flip) >>> 0));
}

function isSameItem(left: Item, right: Item): boolean {
  return (
    left.region === right.region &&
    left.before === right.before &&
    left.translated === right.translated &&
    left.filled === right.filled &&
    left.acceptedBy === right.acceptedBy
  );
}
