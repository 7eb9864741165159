import type { Family } from '../addresses.js';
import { cut, regionOf, subtractRegion } from '../flow-set.js';
import type { FlowSet } from '../flow-set.js';
import type { BaseChain, Chain, Hook, ReadRuleSet, Rule, RuleSet, RuleSetNote, RuleStep } from '../rule-set.js';
import { conditionStep, flowOptions, protocolPoints } from './matches.js';
import type { Context } from './matches.js';
import { targetSteps } from './targets.js';
import { Words, wordsOf } from './words.js';

const whole = 'Give the whole output of iptables-save or ip6tables-save.';
const hookNames: Readonly<Record<string, Hook>> = {
  PREROUTING: 'prerouting',
  INPUT: 'input',
  FORWARD: 'forward',
  OUTPUT: 'output',
  POSTROUTING: 'postrouting',
};
const priorities: Readonly<Record<string, number>> = { raw: -300, mangle: -150, nat: -100, filter: 0, security: 50 };

interface ChainInHand {
  readonly name: string;
  readonly policy: string;
  readonly lines: { readonly line: number; readonly text: string }[];
}
interface Section {
  readonly table: string;
  readonly family: Family;
  readonly chains: Map<string, ChainInHand>;
}

/** Reads what iptables-save and ip6tables-save write; both may stand in one text, one after the other. */
export function readIptables(text: string): ReadRuleSet {
  const sections: Section[] = [];
  let open: { section: Section; line: number } | null = null;
  let family: Family = usualFamily(text);
  const lines = text.split(/\r?\n/);
  for (const [index, raw] of lines.entries()) {
    const line = index + 1;
    const written = raw.trim();
    if (written === '') continue;
    if (written.startsWith('#')) {
      if (/\bip6tables/.test(written)) family = 6;
      else if (/\biptables/.test(written)) family = 4;
    } else if (written.startsWith('*')) {
      if (open) return cutOff(open.line, open.section.table);
      const table = written.slice(1);
      if (priorities[table] === undefined) return refused(line, `There is no table “${table}” in iptables. ${whole}`);
      open = { section: { table, family, chains: new Map() }, line };
    } else if (!open) return refused(line, `“${shortened(written)}” stands in no table. ${hintFor(written)}`);
    else if (written === 'COMMIT') {
      sections.push(open.section);
      open = null;
    } else {
      const says = intoSection(open.section, written, line);
      if (says !== null) return refused(line, says);
    }
  }
  if (open) return cutOff(open.line, open.section.table);
  if (sections.length === 0) return refused(0, `There is no table in this text. ${whole}`);
  return madeOf(sections);
}

const refused = (line: number, says: string): ReadRuleSet => ({ ok: false, line, says });
const cutOff = (line: number, table: string): ReadRuleSet =>
  refused(line, `Table “${table}”, which begins here, has no COMMIT: the text is cut off. ${whole}`);
const shortened = (text: string): string => (text.length > 60 ? `${text.slice(0, 60)}…` : text);
const hintFor = (written: string): string =>
  /^(-[PNA]|Chain) /.test(written) ? `This is a list for people (-S or -L). ${whole}` : whole;

/** Without a heading: IPv6 where a rule has such an address. */
const usualFamily = (text: string): Family =>
  /^(\[\d+:\d+\] )?-A .*?(-[sd] [0-9a-f]*:|-p (ipv6-icmp|icmpv6)|--icmpv6-type)/m.test(text) ? 6 : 4;

function intoSection(section: Section, written: string, line: number): string | null {
  const heading = /^:(\S+) (\S+)/.exec(written);
  if (heading) {
    const [, name = '', policy = ''] = heading;
    section.chains.set(name, { name, policy, lines: [] });
    return null;
  }
  const rule = /^(?:\[\d+:\d+\] )?(-A (\S+).*)$/.exec(written);
  if (!rule) return `“${shortened(written)}” is no line of iptables-save. ${whole}`;
  const [, text = '', chain = ''] = rule;
  const known = section.chains.get(chain);
  if (!known) return `Chain “${chain}” is not declared in table “${section.table}”. ${whole}`;
  known.lines.push({ line, text });
  return null;
}

function madeOf(sections: readonly Section[]): ReadRuleSet {
  const notes: RuleSetNote[] = [];
  const chains = new Map<string, Chain>();
  for (const section of sections)
    for (const chain of section.chains.values()) {
      const key = keyOf(section, chain.name);
      chains.set(key, {
        key,
        table: section.table,
        name: chain.name,
        family: section.family,
        base: baseOf(section.table, chain),
        rules: chain.lines.map(({ text, line }, index) => ruleOf(section, chain.name, index, text, line, notes)),
      });
    }
  const families = [...new Set(sections.map(({ family }) => family))];
  const readRule: RuleSet['readRule'] = (chain, index, text) => {
    const section = sections.find((each) => each.family === chain.family && each.table === chain.table);
    const written = /^-[AI] \S+ (?:\d+ (?=-))?(.*)$/s.exec(text.trim())?.[1] ?? text.trim();
    return section ? ruleOf(section, chain.name, index, `-A ${chain.name} ${written}`, 0, []) : null;
  };
  return { ok: true, ruleSet: { format: 'iptables', chains, notes, families, readRule } };
}

const keyOf = (section: Section, name: string): string => `${section.family}\0${section.table}\0${name}`;

function baseOf(table: string, { name, policy }: ChainInHand): BaseChain | null {
  const hook = hookNames[name];
  if (hook === undefined) return null;
  const isSource = table === 'nat' && (hook === 'postrouting' || hook === 'input');
  return {
    hook,
    priority: isSource ? 100 : (priorities[table] ?? 0),
    type: table === 'nat' ? 'nat' : 'filter',
    policy: policy === 'DROP' ? 'drop' : 'accept',
    devices: [],
  };
}

function ruleOf(
  section: Section,
  chain: string,
  index: number,
  text: string,
  line: number,
  notes: RuleSetNote[],
): Rule {
  const words = wordsOf(text);
  const steps = words ? stepsOf(section, words.slice(2)) : [unknown('a quote is not closed')];
  for (const step of steps) if (step.kind === 'unknown') notes.push({ line, says: `${step.why}: ${shortened(text)}` });
  return { table: section.table, chain, index, text, steps };
}

const unknown = (why: string): RuleStep => ({ kind: 'unknown', why });

/** Conditions first, then what the target does; options of modules that are not known are conditions that may be met or not. */
function stepsOf(section: Section, all: readonly string[]): readonly RuleStep[] {
  const words = new Words(all);
  let when: FlowSet = [regionOf({})];
  const open: RuleStep[] = [];
  let context: Context = { family: section.family, protocol: null };
  let module = '';
  const end: RuleStep[] = [];
  while (!words.isAtEnd) {
    const isNot = words.peek() === '!';
    if (isNot) words.next();
    const option = words.next();
    if (!option.startsWith('-')) return [unknown(`“${option}” is no option`)];
    if (option === '-m' || option === '--match') module = words.next();
    else if (option === '-p' || option === '--protocol') {
      const points = protocolPoints(words.next());
      if (!points) return [unknown('its protocol is not known')];
      const flows = isNot
        ? subtractRegion(regionOf({}), regionOf({ protocol: points }))
        : [regionOf({ protocol: points })];
      context = { ...context, protocol: isNot ? null : Number(points[0]?.from) };
      when = cut(when, flows);
    } else if (option === '-j' || option === '--jump' || option === '-g' || option === '--goto') {
      const target = words.next();
      const steps = option.startsWith('-j') || option === '--jump' ? targetSteps(target, words, section.family) : null;
      end.push(...(steps ?? [chainStep(section, target, option)]));
    } else if (option === '--comment') words.next();
    else if (!(option in flowOptions) || otherwise.has(module)) {
      skipValues(words);
      open.push({
        kind: 'maybe',
        why: `${module === '' ? option : `-m ${module} ${option}`} depends on what is not known here`,
      });
    } else {
      const step = conditionStep(option, isNot, words, context);
      if (step?.kind === 'match') when = cut(when, step.when);
      else if (step) open.push(step);
      else open.push({ kind: 'maybe', why: `the value of ${option} is not known` });
    }
  }
  return [{ kind: 'match', when }, ...open, ...end];
}

/** Modules of which some options have the name of another’s and mean something else. */
const otherwise: ReadonlySet<string> = new Set(['connmark', 'recent', 'time', 'policy', 'owner']);

function skipValues(words: Words): void {
  for (let word = words.peek(); word !== null && word !== '!' && !/^-{1,2}[a-z]/i.test(word); word = words.peek())
    words.next();
}

function chainStep(section: Section, target: string, option: string): RuleStep {
  return { kind: option === '-g' || option === '--goto' ? 'goto' : 'jump', chain: keyOf(section, target) };
}
