import { cut, isEmpty, regionOf, states, withPoints } from './flow-set.js';
import type { FlowSet } from './flow-set.js';
import { judgeFlows } from './judge.js';
import type { PassageHook } from './judge.js';
import { onePoint } from './ranges.js';
import type { Ranges } from './ranges.js';
import type { Chain, RuleSet } from './rule-set.js';

/** Rules of a firewall, added or taken away by whoever may change it: one line of a work order. */
export interface PassageChange {
  readonly kind: 'add-rules' | 'remove-rules';
  readonly firewallId: string;
  /** For whom: a link and what it needs the opening for. */
  readonly what: string;
  readonly hook: PassageHook;
  /** Interfaces; empty: whichever. */
  readonly in: string;
  readonly out: string;
  readonly table: string;
  readonly chain: string;
  /** Before so many rules of the chain, from 0; null: at its end. */
  readonly before: number | null;
  /** As the firewall writes them. */
  readonly rules: readonly string[];
  /** What to type there, and what takes it back; empty: it is entered by hand. */
  readonly commands: readonly string[];
  readonly undo: readonly string[];
}

export const undoOfPassageChange = (change: PassageChange): PassageChange => ({
  ...change,
  kind: change.kind === 'add-rules' ? 'remove-rules' : 'add-rules',
  commands: change.undo,
  undo: change.commands,
});

/** A change in words. */
export function sayPassageChange(
  { kind, what, chain, before, rules, commands, undo }: PassageChange,
  firewall: string,
) {
  const written = [...rules, ...(commands.length === 0 ? [] : ['', ...commands])].join('\n');
  const place = before === null ? `at the end of ${chain}` : `before rule ${before + 1} of ${chain}`;
  return kind === 'add-rules'
    ? {
        title: `Let through at ${firewall}: ${what}`,
        target: firewall,
        before: 'no such rule',
        after: `${place}:\n${written}`,
        undo: undo.length > 0 ? undo.join('\n') : 'Take the rule away again.',
      }
    : {
        title: `No longer let through at ${firewall}: ${what}`,
        target: firewall,
        before: rules.join('\n'),
        after: commands.length > 0 ? `gone:\n${commands.join('\n')}` : 'gone',
        undo: undo.length > 0 ? undo.join('\n') : 'Enter the rule again.',
      };
}

/**
 * Whether rules are as a change wants them: what its rules let through gets through, all of it, or no longer all of it.
 * null: they can’t be read as rules of this firewall.
 */
export function holdsPassageChange(ruleSet: RuleSet, change: PassageChange): boolean | null {
  const chain = chainOf(ruleSet, change);
  const flows = chain && flowsOf(ruleSet, chain, change);
  if (!flows) return null;
  const outcomes = judgeFlows(ruleSet, change.hook, flows);
  const isThrough =
    outcomes.length > 0 && outcomes.every(({ verdict, doubt }) => verdict === 'accept' && doubt === null);
  return change.kind === 'add-rules' ? isThrough : !isThrough;
}

const chainOf = (ruleSet: RuleSet, { table, chain, hook }: PassageChange): Chain | null => {
  const named = [...ruleSet.chains.values()].filter((each) => each.name === chain && each.table === table);
  return named.find(({ base }) => base?.hook === hook) ?? named[0] ?? null;
};

/** What the rules of a change are for, of connections that are new. */
function flowsOf(ruleSet: RuleSet, chain: Chain, change: PassageChange): FlowSet | null {
  const opening = regionOf({
    state: onePoint(states.indexOf('new')),
    segment: onePoint(0),
    mark: onePoint(0),
    isTranslated: onePoint(0),
    direction: onePoint(0),
    sourcePort: [{ from: 1024, to: 65_536 }],
    ...(change.hook === 'input' ? { isLocal: onePoint(1) } : {}),
  });
  const flows: FlowSet[] = [];
  for (const text of change.rules) {
    const rule = ruleSet.readRule(chain, 0, text);
    const [first] = rule?.steps ?? [];
    if (!rule || first?.kind !== 'match' || rule.steps.some(({ kind }) => kind === 'unknown')) return null;
    const when = rule.steps.reduce<FlowSet>(
      (all, step) => (step.kind === 'match' ? cut(all, step.when) : all),
      [opening],
    );
    flows.push(
      when.map((region) =>
        withPoints(withPoints(region, 'inInterface', named(change.in)), 'outInterface', named(change.out)),
      ),
    );
  }
  return isEmpty(flows.flat()) ? null : flows.flat();
}

const named = (text: string): Ranges | null => (text === '' ? null : [{ from: text, to: `${text}\0` }]);
