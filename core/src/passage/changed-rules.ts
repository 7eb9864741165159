import type { Chain, Rule, RuleSet } from './rule-set.js';

/** Where a rule stands: in which chain, and how many come before it. */
export interface RulePlace {
  readonly table: string;
  readonly chain: string;
  readonly index: number;
}

export type RuleEdit =
  | { readonly kind: 'add'; readonly at: RulePlace; readonly text: string }
  | { readonly kind: 'replace'; readonly at: RulePlace; readonly text: string }
  | { readonly kind: 'remove'; readonly at: RulePlace };

/** The rules after a change, on paper; null: there is no such rule, or its new text can’t be read. */
export function withEdit(ruleSet: RuleSet, edit: RuleEdit): RuleSet | null {
  const chains = new Map<string, Chain>();
  let hasChanged = false;
  for (const [key, chain] of ruleSet.chains) {
    const changed = chainWith(ruleSet, chain, edit);
    if (changed === null) return null;
    hasChanged ||= changed !== chain;
    chains.set(key, changed);
  }
  return hasChanged ? { ...ruleSet, chains } : null;
}

function chainWith(ruleSet: RuleSet, chain: Chain, edit: RuleEdit): Chain | null {
  if (chain.name !== edit.at.chain) return chain;
  const position = positionIn(chain, edit.at, edit.kind === 'add');
  if (position === null) return chain;
  if (edit.kind === 'remove') return { ...chain, rules: chain.rules.toSpliced(position, 1) };
  const rule = ruleSet.readRule(chain, edit.at.index, edit.text);
  if (!rule || rule.steps.some(({ kind }) => kind === 'unknown')) return null;
  return { ...chain, rules: chain.rules.toSpliced(position, edit.kind === 'replace' ? 1 : 0, rule) };
}

/** In the chain’s list: rules that stand in no rule set count for nothing. null: none such. */
function positionIn(chain: Chain, at: RulePlace, isNew: boolean): number | null {
  const position = chain.rules.findIndex((rule) => isAt(rule, at));
  if (position >= 0) return position;
  if (!isNew || chain.table !== at.table) return null;
  const next = chain.rules.findIndex((rule) => !rule.isImplied && rule.index > at.index);
  return next >= 0 ? next : chain.rules.findLastIndex((rule) => !rule.isImplied) + 1;
}

export const isAt = (rule: Rule, at: RulePlace): boolean =>
  !rule.isImplied && rule.table === at.table && rule.chain === at.chain && rule.index === at.index;

export const placeOf = ({ table, chain, index }: Rule): RulePlace => ({ table, chain, index });
