import { placeOf } from './changed-rules.js';
import type { RuleEdit } from './changed-rules.js';
import type { PassageHook } from './judge.js';
import { passageHooks } from './judge.js';
import { wordsOf } from './iptables/words.js';
import type { PassageChange } from './rule-order.js';
import type { Chain, Rule, RuleSet } from './rule-set.js';
import type { RuleWorth } from './worth.js';
import {
  exactBoxes,
  handlesByComment,
  iptablesProgram,
  nftPlace,
  ruleTexts,
  shellWord,
  windowsWords,
} from './written-rules.js';
import type { Box } from './written-rules.js';

const hookOf = ({ base }: Chain): PassageHook => passageHooks.find((hook) => hook === base?.hook) ?? 'forward';

/**
 * A rule that lets through more than is needed, narrowed on paper to that: rules in its place, and it goes.
 * @returns the new rules as the device writes them; empty: there are none
 */
export function narrowed(
  ruleSet: RuleSet,
  { rule, chain, neededHere }: RuleWorth,
): { readonly rules: readonly string[]; readonly edits: readonly RuleEdit[] } {
  const at = placeOf(rule);
  const rules = exactBoxes(neededHere).flatMap((box) => ruleTexts(ruleSet, chain, box, hookOf(chain), ''));
  return { rules, edits: [{ kind: 'remove', at }, ...rules.map((text): RuleEdit => ({ kind: 'add', at, text }))] };
}

/** Why a rule is changed, by its worth; of other rules there is nothing to change. */
const reasons: Readonly<Partial<Record<RuleWorth['worth'], string>>> = {
  'too-wide': 'narrowed to what is needed',
  unneeded: 'nobody needs it',
  shadowed: 'it is never reached',
  redundant: 'it changes nothing',
};

/**
 * The change that leaves of a rule just what is needed: one that lets more through is narrowed, one that nobody needs or that
 * decides nothing goes. Rules without a base chain of their own are told, too. null: it is worth what it is.
 */
export function tightened(ruleSet: RuleSet, worth: RuleWorth, firewallId: string): PassageChange | null {
  const { rule, chain, neededHere } = worth;
  const reason = reasons[worth.worth];
  const hook = hookOf(chain);
  const boxes = worth.worth === 'too-wide' ? exactBoxes(neededHere) : [];
  if (reason === undefined || (worth.worth === 'too-wide' && boxes.length === 0)) return null;
  const name = `narrowed rule ${rule.index + 1} of ${chain.name}`.replace(/[^\p{L}\p{N} ,._-]/gu, ' ');
  const by = boxes.flatMap((box) => ruleTexts(ruleSet, chain, box, hook, name));
  /* The same rule may stand there twice; then one of them stays. */
  const others = chain.rules.filter((each) => each !== rule && each.text === rule.text).map(({ text }) => text);
  return {
    kind: 'replace-rules',
    firewallId,
    what: `rule ${rule.index + 1} of ${chain.name}, ${reason}`,
    hook,
    in: '',
    out: '',
    table: rule.table,
    chain: chain.name,
    before: rule.index,
    rules: [rule.text, ...others],
    by: [...by, ...others],
    ...waysOf(ruleSet, { rule, chain, boxes, by, name, hook, isAlone: others.length === 0 }),
  };
}

interface Tightening {
  readonly rule: Rule;
  readonly chain: Chain;
  readonly boxes: readonly Box[];
  readonly by: readonly string[];
  readonly name: string;
  readonly hook: PassageHook;
  /** No other rule of the chain is written just so. */
  readonly isAlone: boolean;
}
interface Ways {
  readonly commands: readonly string[];
  readonly undo: readonly string[];
}
const byHand: Ways = { commands: [], undo: [] };

/** What to type: the narrow rules come to stand before the wide one, then it goes, so that nothing is cut off in between. */
function waysOf(ruleSet: RuleSet, change: Tightening): Ways {
  switch (ruleSet.format) {
    case 'nft':
    case 'nft-json':
      return nftWays(change);
    case 'iptables':
      return iptablesWays(ruleSet, change);
    case 'windows':
      return windowsWays(change);
    default:
      return byHand;
  }
}

const isLast = ({ rule, chain }: Tightening): boolean => chain.rules.every(({ index }) => index <= rule.index);

function nftWays(change: Tightening): Ways {
  const { rule, chain, by, name } = change;
  const place = nftPlace(chain);
  const ordinal = 1 + chain.rules.filter(({ text, index }) => text === rule.text && index < rule.index).length;
  /* nft writes a rule and its handle on one line. */
  const ends = shellWord(`${rule.text} # handle `);
  const found = `H=$(nft -a list chain ${place} | grep -F -- ${ends} | sed -n '${ordinal}s/.* //p')`;
  const back = isLast(change) ? `add rule ${place}` : `insert rule ${place} index ${rule.index}`;
  return {
    commands: [
      found,
      ...by.map((text) => `nft ${shellWord(`insert rule ${place} handle `)}"$H"${shellWord(` ${text}`)}`),
      `nft delete rule ${place} handle "$H"`,
    ],
    undo:
      by.length === 0
        ? [`nft ${shellWord(`${back} ${rule.text}`)}`]
        : [
            `H=${handlesByComment(place, name)}`,
            `nft ${shellWord(`insert rule ${place} handle `)}"\${H%%[!0-9]*}"${shellWord(` ${rule.text}`)}`,
            `for EACH in $H; do nft delete rule ${place} handle "$EACH"; done`,
          ],
  };
}

function iptablesWays(ruleSet: RuleSet, { rule, chain, by, isAlone }: Tightening): Ways {
  const words = wordsOf(rule.text)?.slice(2);
  if (!words) return byHand;
  const program = iptablesProgram(chain, ruleSet.families.includes(4) ? 4 : 6);
  const spelt = words.map((word) => (/^[\w.:/,+=@%-]+$/.test(word) ? word : shellWord(word))).join(' ');
  const number = rule.index + 1;
  const narrow = by.map((text) => text.replace(`-A ${chain.name} `, ''));
  return {
    commands: [
      ...narrow.map((text) => `${program} -I ${chain.name} ${number} ${text}`),
      `${program} -D ${chain.name} ${isAlone ? spelt : number + narrow.length}`,
    ],
    undo: [
      `${program} -I ${chain.name} ${number} ${spelt}`,
      ...narrow.map((text) => `${program} -D ${chain.name} ${text}`),
    ],
  };
}

/** By its name, where it alone has it; other rules of that name would go with it. */
function windowsWays({ rule, chain, boxes, name, hook }: Tightening): Ways {
  const nameOf = ({ text }: Rule): string => /\|Name=([^|]*)/i.exec(text)?.[1] ?? '';
  const own = nameOf(rule);
  const isSure =
    /^[\p{L}\p{N} ,._-]+$/u.test(own) && chain.rules.every((each) => each === rule || nameOf(each) !== own);
  if (!isSure) return byHand;
  const isIn = hook === 'input';
  const program = 'netsh advfirewall firewall';
  return {
    /* Disabled, not deleted: the way back needs nothing but its name. */
    commands: [
      ...boxes.map((box) => `${program} add rule ${windowsWords(box, isIn, name)}`),
      `${program} set rule name="${own}" dir=${isIn ? 'in' : 'out'} new enable=no`,
    ],
    undo: [
      `${program} set rule name="${own}" dir=${isIn ? 'in' : 'out'} new enable=yes`,
      ...(boxes.length === 0 ? [] : [`${program} delete rule name="${name}"`]),
    ],
  };
}
