import { canonical } from './flow-set.js';
import type { RuleEdit, RulePlace } from './changed-rules.js';
import type { HopVerdict } from './judge-way.js';
import type { Chain, RuleSet } from './rule-set.js';
import { anywhere } from './worth.js';
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

/** A change of a device’s rules: on paper, as commands for the device, and the way back. */
export interface RuleChange {
  readonly edit: RuleEdit;
  /** What to type there; empty: it is entered by hand. */
  readonly commands: readonly string[];
  readonly undo: readonly string[];
}

/**
 * The smallest rules that let these connections through where they are stopped: no other addresses, no other ports. null: the
 * device’s rules have no place for them that is known.
 * @param name by which they are found again at the device
 */
export function rulesToAdd(ruleSet: RuleSet, stopped: HopVerdict, name: string): readonly RuleChange[] | null {
  const chain = chainFor(ruleSet, stopped);
  /* What Windows blocks by a rule, no other rule lets through; answers need one of another kind. */
  if (!chain || stopped.isAnswer || (ruleSet.format === 'windows' && stopped.rule)) return null;
  const index = stopped.rule?.index ?? chain.rules.filter((rule) => !rule.isImplied).length;
  const at: RulePlace = { table: chain.table, chain: chain.name, index };
  return exactBoxes(canonical(anywhere(stopped.stopped))).flatMap((box) =>
    added(ruleSet, chain, at, box, stopped, name),
  );
}

/** Before the rule that stops them; where a policy does, at the end of the chain that has it. */
function chainFor(ruleSet: RuleSet, { rule, hop }: HopVerdict): Chain | null {
  const chains = [...ruleSet.chains.values()];
  if (rule) return chains.find((chain) => chain.rules.includes(rule)) ?? null;
  const hung = chains.filter(({ base }) => base?.hook === hop.hook && base.type !== 'nat');
  return hung.find(({ base }) => base?.policy === 'drop') ?? hung[0] ?? null;
}

function added(
  ruleSet: RuleSet,
  chain: Chain,
  at: RulePlace,
  box: Box,
  { rule, hop }: HopVerdict,
  name: string,
): readonly RuleChange[] {
  const ways = (text: string): Pick<RuleChange, 'commands' | 'undo'> => {
    switch (ruleSet.format) {
      case 'nft':
      case 'nft-json': {
        const place = nftPlace(chain);
        const where = rule ? `insert rule ${place} index ${at.index}` : `add rule ${place}`;
        return {
          commands: [`nft ${shellWord(`${where} ${text}`)}`],
          undo: [`nft delete rule ${place} handle ${handlesByComment(place, name)}`],
        };
      }
      case 'iptables': {
        const program = iptablesProgram(chain, box.family);
        const words = text.replace(`-A ${chain.name} `, '');
        const where = rule ? `-I ${chain.name} ${at.index + 1}` : `-A ${chain.name}`;
        return { commands: [`${program} ${where} ${words}`], undo: [`${program} -D ${chain.name} ${words}`] };
      }
      case 'windows':
        return {
          commands: [`netsh advfirewall firewall add rule ${windowsWords(box, hop.hook === 'input', name)}`],
          undo: [`netsh advfirewall firewall delete rule name="${name}"`],
        };
      default:
        return { commands: [], undo: [] };
    }
  };
  return ruleTexts(ruleSet, chain, box, hop.hook, name).map((text) => ({
    edit: { kind: 'add', at, text },
    ...ways(text),
  }));
}
