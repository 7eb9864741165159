import { cut, isEmpty, newConnection, regionOf, withPoints } from './flow-set.js';
import type { FlowSet, Region } from './flow-set.js';
import { judgeFlows } from './judge.js';
import type { PassageHook } from './judge.js';
import { onePoint } from './ranges.js';
import type { Chain, RuleSet } from './rule-set.js';

/** Rules of a firewall, changed by whoever may change it: one line of a work order. */
export type PassageChange =
  | (PlacedRules & { readonly kind: 'add-rules' | 'remove-rules' })
  /** Rules that the firewall has, as it writes them, go; others stand there instead, or none. */
  | (PlacedRules & { readonly kind: 'replace-rules'; readonly by: readonly string[] });

export interface PlacedRules {
  readonly firewallId: string;
  /** For whom: a link and what it needs the opening for; or which rule it is, and what it is worth. */
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

export function undoOfPassageChange(change: PassageChange): PassageChange {
  const back = { commands: change.undo, undo: change.commands };
  return change.kind === 'replace-rules'
    ? { ...change, ...back, rules: change.by, by: change.rules }
    : { ...change, ...back, kind: change.kind === 'add-rules' ? 'remove-rules' : 'add-rules' };
}

/** A change in words. */
export function sayPassageChange(change: PassageChange, firewall: string) {
  const { kind, what, chain, before, rules, commands, undo } = change;
  const typed = (texts: readonly string[]): string =>
    [...texts, ...(commands.length === 0 ? [] : ['', ...commands])].join('\n');
  const place = before === null ? `at the end of ${chain}` : `before rule ${before + 1} of ${chain}`;
  const back = (otherwise: string): string => (undo.length > 0 ? undo.join('\n') : otherwise);
  switch (kind) {
    case 'add-rules':
      return {
        title: `Let through at ${firewall}: ${what}`,
        target: firewall,
        before: 'no such rule',
        after: `${place}:\n${typed(rules)}`,
        undo: back('Take the rule away again.'),
      };
    case 'remove-rules':
      return {
        title: `No longer let through at ${firewall}: ${what}`,
        target: firewall,
        before: rules.join('\n'),
        after: commands.length > 0 ? `gone:\n${commands.join('\n')}` : 'gone',
        undo: back('Enter the rule again.'),
      };
    case 'replace-rules':
      return {
        title: `Change rules at ${firewall}: ${what}`,
        target: firewall,
        before: rules.length === 0 ? 'no such rule' : rules.join('\n'),
        after: typed(change.by.length === 0 ? ['gone'] : change.by),
        undo: back('Enter the rules as they were.'),
      };
  }
}

/**
 * Whether rules are as a change wants them: what its rules let through gets through, all of it, or no longer all of it. Where
 * rules are replaced, those that go stand there no longer, and each that comes stands there or is let through all the same.
 * null: they can’t be read as rules of this firewall.
 */
export function holdsPassageChange(ruleSet: RuleSet, change: PassageChange): boolean | null {
  const chain = chainOf(ruleSet, change);
  if (!chain) return null;
  if (change.kind !== 'replace-rules') {
    const isThrough = areThrough(ruleSet, chain, change, change.rules);
    return isThrough === null ? null : isThrough === (change.kind === 'add-rules');
  }
  const times = (text: string, among: readonly string[]): number => among.filter((each) => each === text).length;
  const there = chain.rules.map(({ text }) => text);
  if (change.rules.some((text) => times(text, there) > times(text, change.by))) return false;
  const come = change.by.map((text) => there.includes(text) || areThrough(ruleSet, chain, change, [text]));
  return come.includes(false) ? false : come.includes(null) ? null : true;
}

/** Whether all that rules are for gets through; null: they can’t be read. */
function areThrough(ruleSet: RuleSet, chain: Chain, change: PassageChange, texts: readonly string[]): boolean | null {
  const flows = flowsOf(ruleSet, chain, change, texts);
  if (!flows) return null;
  const outcomes = judgeFlows(ruleSet, change.hook, flows);
  return outcomes.length > 0 && outcomes.every(({ verdict, doubt }) => verdict === 'accept' && doubt === null);
}

const chainOf = (ruleSet: RuleSet, { table, chain, hook }: PassageChange): Chain | null => {
  const named = [...ruleSet.chains.values()].filter((each) => each.name === chain && each.table === table);
  return named.find(({ base }) => base?.hook === hook) ?? named[0] ?? null;
};

/** What rules are for, of connections that are new. */
function flowsOf(ruleSet: RuleSet, chain: Chain, change: PassageChange, texts: readonly string[]): FlowSet | null {
  const opening = regionOf({
    ...newConnection,
    sourcePort: [{ from: 1024, to: 65_536 }],
    ...(change.hook === 'input' ? { isLocal: onePoint(1) } : {}),
  });
  const flows: FlowSet[] = [];
  for (const text of texts) {
    const rule = ruleSet.readRule(chain, 0, text);
    const [first] = rule?.steps ?? [];
    if (!rule || first?.kind !== 'match' || rule.steps.some(({ kind }) => kind === 'unknown')) return null;
    const when = rule.steps.reduce<FlowSet>(
      (all, step) => (step.kind === 'match' ? cut(all, step.when) : all),
      [opening],
    );
    flows.push(when.map((region) => placed(placed(region, 'inInterface', change.in), 'outInterface', change.out)));
  }
  return isEmpty(flows.flat()) ? null : flows.flat();
}

/** By an interface; where none is named, by those of the rule itself. */
const placed = (region: Region, end: 'inInterface' | 'outInterface', name: string): Region =>
  name === '' ? region : withPoints(region, end, [{ from: name, to: `${name}\0` }]);
