import { familyOf, sayAddresses, sayNumbers } from './addresses.js';
import type { Family } from './addresses.js';
import { pointsIn } from './flow-set.js';
import type { FlowSet, Region } from './flow-set.js';
import type { HopVerdict } from './judge-way.js';
import { placeOf } from './changed-rules.js';
import type { RuleEdit, RulePlace } from './changed-rules.js';
import type { RuleWorth } from './worth.js';
import type { Ranges } from './ranges.js';
import type { Chain, RuleSet } from './rule-set.js';

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
  return exactBoxes(stopped.flows).map((box) => added(ruleSet, chain, at, box, stopped, name));
}

/**
 * A rule that lets through more than links need, narrowed on paper to what they need: rules in its place, and it goes.
 * @returns the new rules as the device writes them; empty: there are none
 */
export function narrowed(
  ruleSet: RuleSet,
  { rule, chain, needed }: RuleWorth,
): { readonly rules: readonly string[]; readonly edits: readonly RuleEdit[] } {
  const at = placeOf(rule);
  const hook = chain.base?.hook ?? 'forward';
  const rules = exactBoxes(needed).map((box) => ruleText(ruleSet, chain, box, hook, ''));
  return { rules, edits: [{ kind: 'remove', at }, ...rules.map((text): RuleEdit => ({ kind: 'add', at, text }))] };
}

/** A rule that lets a box through, in the device’s own words. */
function ruleText(ruleSet: RuleSet, chain: Chain, box: Box, hook: string, name: string): string {
  switch (ruleSet.format) {
    case 'nft':
    case 'nft-json':
      return `${nftRule(box)} accept${name === '' ? '' : ` comment "${name}"`}`;
    case 'iptables':
      return `-A ${chain.name} ${iptablesRules(box, name)[0] ?? ''}`;
    case 'windows':
      return windowsRule(box, hook === 'input', name === '' ? 'OPC' : name);
    default:
      return listedRule(box, hook, name);
  }
}

/** Before the rule that stops them; where a policy does, at the end of the chain that has it. */
function chainFor(ruleSet: RuleSet, { rule, hop }: HopVerdict): Chain | null {
  const chains = [...ruleSet.chains.values()];
  if (rule) return chains.find((chain) => chain.rules.includes(rule)) ?? null;
  const hung = chains.filter(({ base }) => base?.hook === hop.hook && base.type !== 'nat');
  return hung.find(({ base }) => base?.policy === 'drop') ?? hung[0] ?? null;
}

interface Box {
  readonly family: Family;
  readonly source: Ranges;
  readonly destination: Ranges;
  readonly ports: Ranges;
}

/** One box a pair of addresses, so that none is let through to where another wants to go. */
function exactBoxes(flows: FlowSet): readonly Box[] {
  return flows.map((region) => ({
    family: familyOf(pointsIn(region, 'source')?.[0]?.from ?? 0),
    source: pointsIn(region, 'source') ?? [],
    destination: pointsIn(region, 'destination') ?? [],
    ports: pointsIn(region, 'destinationPort') ?? [],
  }));
}

function added(
  ruleSet: RuleSet,
  chain: Chain,
  at: RulePlace,
  box: Box,
  { rule, hop }: HopVerdict,
  name: string,
): RuleChange {
  const edit = (text: string): RuleEdit => ({ kind: 'add', at, text });
  switch (ruleSet.format) {
    case 'nft':
    case 'nft-json': {
      const [family = 'inet', table = ''] = chain.key.split('\0');
      const place = `${family} ${table} ${chain.name}`;
      const text = ruleText(ruleSet, chain, box, hop.hook, name);
      const where = rule ? `insert rule ${place} index ${at.index}` : `add rule ${place}`;
      const handle = `$(nft -a list chain ${place} | sed -n 's/.*comment "${name}" # handle //p')`;
      return {
        edit: edit(text),
        commands: [`nft '${where} ${text}'`],
        undo: [`nft delete rule ${place} handle ${handle}`],
      };
    }
    case 'iptables': {
      const program = `${box.family === 6 ? 'ip6tables' : 'iptables'}${chain.table === 'filter' ? '' : ` -t ${chain.table}`}`;
      const rules = iptablesRules(box, name);
      return {
        edit: edit(`-A ${chain.name} ${rules[0] ?? ''}`),
        commands: rules.map((text) =>
          rule ? `${program} -I ${chain.name} ${at.index + 1} ${text}` : `${program} -A ${chain.name} ${text}`,
        ),
        undo: rules.map((text) => `${program} -D ${chain.name} ${text}`),
      };
    }
    case 'windows': {
      const isIn = hop.hook === 'input';
      const remote = sayAddresses(isIn ? box.source : box.destination).join(',');
      const ports = sayNumbers(box.ports).join(',');
      return {
        edit: edit(windowsRule(box, isIn, name)),
        commands: [
          `netsh advfirewall firewall add rule name="${name}" dir=${isIn ? 'in' : 'out'} action=allow protocol=TCP ${isIn ? 'localport' : 'remoteport'}=${ports} remoteip=${remote}`,
        ],
        undo: [`netsh advfirewall firewall delete rule name="${name}"`],
      };
    }
    default:
      return { edit: edit(listedRule(box, hop.hook, name)), commands: [], undo: [] };
  }
}

const braced = (parts: readonly string[]): string =>
  parts.length === 1 ? (parts[0] ?? '') : `{ ${parts.join(', ')} }`;

function nftRule({ family, source, destination, ports }: Box): string {
  const ip = family === 6 ? 'ip6' : 'ip';
  return `${ip} saddr ${braced(sayAddresses(source))} ${ip} daddr ${braced(sayAddresses(destination))} tcp dport ${braced(sayNumbers(ports))}`;
}

/** One rule a pair of addresses: iptables takes no lists of them. */
function iptablesRules({ source, destination, ports }: Box, name: string): readonly string[] {
  const said = sayNumbers(ports).map((text) => text.replace('-', ':'));
  const port = said.length === 1 ? `-m tcp --dport ${said[0] ?? ''}` : `-m multiport --dports ${said.join(',')}`;
  return sayAddresses(source).flatMap((from) =>
    sayAddresses(destination).map(
      (to) => `-s ${from} -d ${to} -p tcp ${port}${name === '' ? '' : ` -m comment --comment "${name}"`} -j ACCEPT`,
    ),
  );
}

function windowsRule({ family, source, destination, ports }: Box, isIn: boolean, name: string): string {
  const remote = sayAddresses(isIn ? source : destination).map((text) => `RA${family}=${text}`);
  const written = sayNumbers(ports).map((text) => `${isIn ? 'L' : 'R'}Port${text.includes('-') ? '2_10' : ''}=${text}`);
  return `v2.30|Action=Allow|Active=TRUE|Dir=${isIn ? 'In' : 'Out'}|Protocol=6|${[...written, ...remote].join('|')}|Name=${name}|`;
}

const listedRule = ({ source, destination, ports }: Box, hook: string, name: string): string =>
  `action=accept, hook=${hook}, source=${sayAddresses(source).join(' ')}, destination=${sayAddresses(destination).join(' ')}, protocol=tcp, destinationPort=${sayNumbers(ports).join(' ')}${name === '' ? '' : `, comment=${name}`}`;

/** Flows in words: from where to where, by what, one line a box. */
export const sayFlows = (flows: FlowSet): readonly string[] => flows.map(sayRegion);

function sayRegion(region: Region): string {
  const said = (name: 'source' | 'destination'): string => {
    const ranges = pointsIn(region, name) ?? [];
    const parts = sayAddresses(ranges);
    const isAll = parts.length === 1 && (parts[0] === '0.0.0.0/0' || parts[0] === '::/0');
    return isAll ? `any IPv${familyOf(ranges[0]?.from ?? 0)} address` : parts.join(', ');
  };
  const numbers = (name: 'protocol' | 'destinationPort' | 'sourcePort'): string =>
    sayNumbers(pointsIn(region, name) ?? []).join(', ');
  const protocols = numbers('protocol');
  const names: Readonly<Record<string, string>> = { '6': 'TCP', '17': 'UDP', '1': 'ICMP', '58': 'ICMPv6' };
  const by = protocols === '' ? 'any protocol' : (names[protocols] ?? `protocol ${protocols}`);
  const ports = numbers('destinationPort');
  const interfaces = (['inInterface', 'outInterface'] as const).map((name) => sayInterface(pointsIn(region, name)));
  const through = [
    interfaces[0] === '' ? '' : `in by ${interfaces[0]}`,
    interfaces[1] === '' ? '' : `out by ${interfaces[1]}`,
  ].filter((part) => part !== '');
  return [
    `${said('source')} to ${said('destination')}`,
    `${by}${ports === '' ? '' : ` port ${ports}`}`,
    ...through,
  ].join(', ');
}

function sayInterface(ranges: Ranges | null): string {
  if (!ranges) return '';
  const names = ranges.flatMap(({ from, to }) => (String(to) === `${String(from)}\0` ? [String(from)] : []));
  return names.length === ranges.length ? names.join(', ') : 'some interfaces';
}
