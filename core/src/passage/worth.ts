import { isAt, withEdit, placeOf } from './changed-rules.js';
import { canonical, cut, familyRegion, isEmpty, newConnection, regionOf, subtract, withPoints } from './flow-set.js';
import type { FlowSet, Region } from './flow-set.js';
import { asRulesSee, judgeFlows } from './judge.js';
import type { Outcome, PassageHook } from './judge.js';
import type { Chain, Rule, RuleSet, RuleStep } from './rule-set.js';

/** What a rule is worth: what it decides, and whether anybody needs that. */
export interface RuleWorth {
  readonly rule: Rule;
  readonly chain: Chain;
  readonly worth: Worth;
  /** All new connections that it lets through. */
  readonly letsThrough: FlowSet;
  /** What is needed of what it lets through, by the interfaces by which it comes and goes, in its one form. */
  readonly needed: FlowSet;
  /** The same as the rule itself sees it: where a destination was translated before, translated. */
  readonly neededHere: FlowSet;
  /** What it lets through that nobody needs, in its one form; empty: nothing, or it lets nothing through. */
  readonly unneeded: FlowSet;
  /** Rules before it that decide all that it would. */
  readonly shadowedBy: readonly Rule[];
  /** Links of which it lets connections through, or stops them, by their ids. */
  readonly links: readonly string[];
}

/**
 * `used`: it is needed, and no more. `too-wide`: it lets more through than is needed. `unneeded`: nobody needs what it lets
 * through. `shadowed`: it never decides. `redundant`: without it all would be the same. `stops`: it stops connections.
 * `silent`: it decides nothing about who may open a connection: it counts, marks or translates, or is for connections that are
 * open. `not-told`: it can’t be told.
 */
export const worths = ['used', 'too-wide', 'unneeded', 'shadowed', 'redundant', 'stops', 'silent', 'not-told'] as const;
export type Worth = (typeof worths)[number];

/** Connections of one link as they come to the device. */
export interface NeededFlows {
  readonly linkId: string;
  readonly hook: PassageHook;
  readonly flows: FlowSet;
}

const mainHooks: readonly PassageHook[] = ['forward', 'input', 'output'];
const opening: Region = regionOf(newConnection);

/** What each rule of a device is worth to the links that go over it. */
export function worthOfRules(ruleSet: RuleSet, needed: readonly NeededFlows[]): readonly RuleWorth[] {
  return [...ruleSet.chains.values()].flatMap((chain) =>
    chain.rules.flatMap((rule) =>
      rule.isImplied || isRepeated(ruleSet, chain, rule) ? [] : [worthOf(ruleSet, chain, rule, needed)],
    ),
  );
}

/** A rule of a list stands in several chains; it is told once. */
const isRepeated = (ruleSet: RuleSet, chain: Chain, rule: Rule): boolean =>
  [...ruleSet.chains.values()].find((other) =>
    other.rules.some((each) => isAt(each, placeOf(rule)) && each.table === rule.table),
  )?.key !== chain.key;

function worthOf(ruleSet: RuleSet, chain: Chain, rule: Rule, needed: readonly NeededFlows[]): RuleWorth {
  const told = (worth: Worth, more: Partial<RuleWorth> = {}): RuleWorth => ({
    rule,
    chain,
    worth,
    letsThrough: [],
    needed: [],
    neededHere: [],
    unneeded: [],
    shadowedBy: [],
    links: [],
    ...more,
  });
  const end = rule.steps.at(-1)?.kind;
  if (
    end === 'unknown' ||
    rule.steps.some((step) => step.kind === 'maybe' || (step.kind === 'looked-up' && isFilled(ruleSet, step.set)))
  )
    return told('not-told');
  if (end !== 'accept' && end !== 'drop' && end !== 'reject' && end !== 'choose') return told('silent');
  const when = cut(cut(conditionOf(rule.steps), [opening]), ruleSet.families.map(familyRegion));
  if (isEmpty(when)) return told('silent');
  const hooks = mainHooks.filter((hook) => reaches(ruleSet, chain, hook));
  const byHook = hooks.map((hook) => ({ hook, outcomes: judgeFlows(ruleSet, hook, when) }));
  if (byHook.some(({ outcomes }) => outcomes.some(({ verdict, rule: by }) => verdict === 'unknown' && by === null)))
    return told('not-told');
  const decided = byHook.map(({ hook, outcomes }) => ({
    hook,
    outcomes: outcomes.filter((outcome) => outcome.rule !== null && isAt(outcome.rule, placeOf(rule))),
  }));
  if (decided.every(({ outcomes }) => outcomes.length === 0))
    return told('shadowed', { shadowedBy: rulesIn(byHook.flatMap(({ outcomes }) => outcomes)) });
  const without = withEdit(ruleSet, { kind: 'remove', at: placeOf(rule) });
  const isRedundant =
    without !== null &&
    decided.every(({ hook, outcomes }) =>
      outcomes.every((outcome) =>
        judgeFlows(without, hook, [outcome.flows]).every(({ verdict }) => verdict === outcome.verdict),
      ),
    );
  const by = (isWanted: (verdict: Outcome['verdict']) => boolean): readonly HookFlows[] =>
    decided.map(({ hook, outcomes }) => ({
      hook,
      flows: outcomes.filter(({ verdict }) => isWanted(verdict)).map(({ flows }) => flows),
    }));
  const accepted = by((verdict) => verdict === 'accept');
  const meant = (among: readonly HookFlows[]): readonly string[] => [
    ...new Set(
      needed
        .filter((need) => among.some((each) => each.hook === need.hook && meets(need, each)))
        .map(({ linkId }) => linkId),
    ),
  ];
  if (isRedundant) return told('redundant', { links: meant(accepted) });
  if (accepted.every(({ flows }) => flows.length === 0))
    return told('stops', { links: meant(by((verdict) => verdict !== 'accept')) });
  const links = meant(accepted);
  const met = accepted.map(({ hook, flows }) => ({
    flows,
    needs: needed.filter((need) => need.hook === hook && meets(need, { hook, flows })),
  }));
  const isBefore = chain.base?.hook === 'prerouting';
  const used = decided.flatMap(({ hook, outcomes }) =>
    outcomes.flatMap((outcome) => {
      if (outcome.verdict !== 'accept') return [];
      const asItCame = needed.flatMap((need) => (need.hook === hook ? cut(need.flows, [outcome.flows]) : []));
      return asItCame.map((region) => ({ region, here: isBefore ? region : asRulesSee(region, outcome) }));
    }),
  );
  const unneeded = met.flatMap(({ flows, needs }) =>
    needs.reduce<FlowSet>((rest, need) => subtract(rest, anywhere(need.flows)), flows),
  );
  const worth = links.length === 0 ? 'unneeded' : isEmpty(unneeded) ? 'used' : 'too-wide';
  return told(worth, {
    links,
    letsThrough: accepted.flatMap(({ flows }) => flows),
    needed: canonical(used.map(({ region }) => region)),
    neededHere: canonical(used.map(({ here }) => here)),
    unneeded: canonical(unneeded),
  });
}

/** By whichever interface: where an address is decides that. */
export const anywhere = (flows: FlowSet): FlowSet =>
  flows.map((region) => withPoints(withPoints(region, 'inInterface', null), 'outInterface', null));

interface HookFlows {
  readonly hook: PassageHook;
  readonly flows: FlowSet;
}
const meets = (need: NeededFlows, { flows }: HookFlows): boolean => !isEmpty(cut(need.flows, flows));

const rulesIn = (outcomes: readonly Outcome[]): readonly Rule[] => [
  ...new Set(outcomes.flatMap(({ rule }) => rule ?? [])),
];

function conditionOf(steps: readonly RuleStep[]): FlowSet {
  return steps.reduce<FlowSet>(
    (flows, given) => {
      const step = given.kind === 'looked-up' ? given.step : given;
      return step.kind === 'match' ? cut(flows, step.when) : flows;
    },
    [regionOf({})],
  );
}

/** Whether rules put something into a set: what is in it when a packet comes is not known then. */
const isFilled = (ruleSet: RuleSet, set: string): boolean =>
  [...ruleSet.chains.values()].some(({ rules }) =>
    rules.some(({ steps }) => steps.some((step) => step.kind === 'fill' && step.set === set)),
  );

/** Whether packets of a hook come to a chain: it hangs on their way, or one that does leads there. */
function reaches(ruleSet: RuleSet, chain: Chain, hook: PassageHook): boolean {
  if (chain.base)
    return (
      chain.base.hook === hook ||
      (chain.base.hook === 'prerouting' && hook !== 'output') ||
      (chain.base.hook === 'postrouting' && hook !== 'input')
    );
  const asked = new Set<string>([chain.key]);
  for (const key of asked)
    for (const other of ruleSet.chains.values()) {
      if (!other.rules.some((rule) => leadsTo(rule.steps, key))) continue;
      if (other.base && reaches(ruleSet, other, hook)) return true;
      asked.add(other.key);
    }
  return false;
}

const leadsTo = (steps: readonly RuleStep[], key: string): boolean =>
  steps.some((step) => {
    if (step.kind === 'jump' || step.kind === 'goto') return step.chain === key;
    if (step.kind === 'choose') return step.from.some(({ then }) => leadsTo([then], key));
    return step.kind === 'looked-up' && leadsTo([step.step], key);
  });
