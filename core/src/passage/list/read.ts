import { z } from 'zod';
import { readAddresses, readPorts } from '../addresses.js';
import { cut, regionOf } from '../flow-set.js';
import type { Dimension, FlowSet } from '../flow-set.js';
import { interfacePoints } from '../nftables/selectors.js';
import { onePoint, rangesOf } from '../ranges.js';
import type { Range, Ranges } from '../ranges.js';
import { protocolNumbers } from '../rule-set.js';
import type { Chain, Hook, ReadRuleSet, Rule, RuleStep } from '../rule-set.js';

/**
 * A plain list of rules, for devices that write their own in no form that is read here (docs/formats.md): the first that fits
 * decides. As JSON, or as CSV with the same names as columns.
 */
const texts = z.union([z.string(), z.array(z.string())]).optional();
const ruleSchema = z.strictObject({
  hook: z.enum(['forward', 'input', 'output', 'any']).optional(),
  action: z.enum(['accept', 'drop', 'reject']),
  in: texts,
  out: texts,
  source: texts,
  destination: texts,
  protocol: texts,
  sourcePort: z.union([texts, z.number()]).optional(),
  destinationPort: z.union([texts, z.number()]).optional(),
  state: z.enum(['new', 'established', '']).optional(),
  /** Before all rules: the destination that the first that fits gives instead. */
  translateTo: z.string().optional(),
  comment: z.string().optional(),
});
const listSchema = z.strictObject({
  passageRules: z.literal(1),
  default: z.enum(['accept', 'drop', 'reject']).optional(),
  /** Packets of connections that are open pass without a rule; absent: they do. */
  isStateful: z.boolean().optional(),
  rules: z.array(ruleSchema).max(100_000),
});
type ListedRule = z.infer<typeof ruleSchema>;
type Listed = z.infer<typeof listSchema>;

export const isRuleList = (value: unknown): boolean =>
  typeof value === 'object' && value !== null && 'passageRules' in value;

export function readRuleList(value: unknown): ReadRuleSet {
  const read = listSchema.safeParse(value);
  if (!read.success) {
    const [issue] = read.error.issues;
    return {
      ok: false,
      line: 0,
      says: `${(issue?.path ?? []).join('.')}: ${issue?.message ?? 'it can’t be read'}. See docs/formats.md for the list of rules.`,
    };
  }
  return listed(read.data, (index) => `Rule ${index + 1}`);
}

const oneValued = new Set(['comment', 'action', 'hook', 'state', 'translateTo']);
export const ruleColumns = [
  'hook',
  'action',
  'in',
  'out',
  'source',
  'destination',
  'protocol',
  'sourcePort',
  'destinationPort',
  'state',
  'translateTo',
  'comment',
] as const;

/** Rows of a table with the columns {@link ruleColumns}; empty cells say nothing. Several values stand in one cell with blanks between. */
export function readRuleRows(rows: readonly Readonly<Record<string, string>>[]): ReadRuleSet {
  const rules: ListedRule[] = [];
  for (const [index, row] of rows.entries()) {
    const given = Object.fromEntries(
      Object.entries(row).flatMap(([name, cell]) => {
        const text = cell.trim();
        if (text === '') return [];
        return [[name, oneValued.has(name) ? text : text.split(/\s+/)]];
      }),
    );
    const read = ruleSchema.safeParse(given);
    if (!read.success) {
      const [issue] = read.error.issues;
      return {
        ok: false,
        line: index + 2,
        says: `${(issue?.path ?? []).join('.')}: ${issue?.message ?? 'it can’t be read'}. The columns are ${ruleColumns.join(', ')}.`,
      };
    }
    rules.push(read.data);
  }
  return listed({ passageRules: 1, rules }, (index) => `Row ${index + 2}`);
}

function listed(
  { rules, default: usual = 'drop', isStateful = true }: Listed,
  sayPlace: (index: number) => string,
): ReadRuleSet {
  const made: { readonly rule: ListedRule; readonly compiled: Rule; readonly when: FlowSet }[] = [];
  for (const [index, rule] of rules.entries()) {
    const when = flowsOf(rule);
    if (typeof when === 'string') return { ok: false, line: 0, says: `${sayPlace(index)}: ${when}` };
    made.push({
      rule,
      when,
      compiled: {
        table: 'rules',
        chain: 'rules',
        index,
        text: sayRule(rule),
        steps: [{ kind: 'match', when }, endOf(rule.action)],
      },
    });
  }
  const translations: Rule[] = [];
  for (const { rule, when, compiled } of made) {
    if (rule.translateTo === undefined || rule.translateTo === '') continue;
    const target = targetIn(rule.translateTo);
    if (!target)
      return {
        ok: false,
        line: 0,
        says: `${sayPlace(compiled.index)}: “${rule.translateTo}” is no address, with a port behind a colon where it changes.`,
      };
    translations.push({
      ...compiled,
      steps: [
        { kind: 'match', when },
        { kind: 'translate', end: 'destination', ...target },
      ],
    });
  }
  const filters = (['input', 'forward', 'output'] as const).map((hook) => filterAt(hook, made, usual, isStateful));
  const chains = [
    ...(translations.length === 0
      ? []
      : [translating('prerouting', translations), translating('output', translations)]),
    ...filters,
  ];
  return {
    ok: true,
    ruleSet: {
      format: 'list',
      chains: new Map(chains.map((chain) => [chain.key, chain])),
      notes: [],
      families: [4, 6],
      readRule: readListedRule,
    },
  };
}

/** A rule as {@link sayRule} writes it. */
function readListedRule(chain: Chain, index: number, text: string): Rule | null {
  const given = Object.fromEntries(
    text.split(/,\s*/).flatMap((part) => {
      const at = part.indexOf('=');
      const [name, value] = [part.slice(0, at).trim(), part.slice(at + 1).trim()];
      if (at <= 0 || value === '') return [];
      return [[name, oneValued.has(name) ? value : value.split(/\s+/)]];
    }),
  );
  const read = ruleSchema.safeParse(given);
  const when = read.success ? flowsOf(read.data) : '';
  if (!read.success || typeof when === 'string') return null;
  return {
    table: 'rules',
    chain: chain.name,
    index,
    text: text.trim(),
    steps: [{ kind: 'match', when }, endOf(read.data.action)],
  };
}

const endOf = (action: ListedRule['action']): RuleStep =>
  action === 'reject' ? { kind: 'reject', how: '' } : { kind: action };

function filterAt(
  hook: 'input' | 'forward' | 'output',
  made: readonly { rule: ListedRule; compiled: Rule }[],
  usual: ListedRule['action'],
  isStateful: boolean,
): Chain {
  const implied = (steps: readonly RuleStep[]): Rule => ({
    table: 'rules',
    chain: 'rules',
    index: 0,
    text: '',
    steps,
    isImplied: true,
  });
  return {
    key: hook,
    table: 'rules',
    name: 'rules',
    family: null,
    base: { hook, priority: 0, type: 'filter', policy: 'drop', devices: [] },
    rules: [
      ...(isStateful
        ? [implied([{ kind: 'match', when: [regionOf({ state: onePoint(1) })] }, { kind: 'accept' }])]
        : []),
      /* What was translated has passed its rule already, by the destination that stood there before. */
      ...made
        .filter(({ rule }) => (rule.hook ?? 'any') === 'any' || rule.hook === hook)
        .map(({ rule, compiled }) => (isTranslating(rule) ? afterTranslation(rule, compiled) : compiled)),
      implied([endOf(usual)]),
    ],
  };
}

const isTranslating = (rule: ListedRule): boolean => rule.translateTo !== undefined && rule.translateTo !== '';

function afterTranslation(rule: ListedRule, compiled: Rule): Rule {
  const target = targetIn(rule.translateTo ?? '');
  const when = flowsOf({ ...rule, destination: undefined, ...(target?.ports ? { destinationPort: undefined } : {}) });
  if (typeof when === 'string' || !target) return compiled;
  const there = regionOf({
    isTranslated: onePoint(1),
    destination: target.addresses,
    ...(target.ports ? { destinationPort: target.ports } : {}),
  });
  return { ...compiled, steps: [{ kind: 'match', when: cut(when, [there]) }, endOf(rule.action)] };
}

function translating(hook: Hook, rules: readonly Rule[]): Chain {
  return {
    key: `${hook}-nat`,
    table: 'rules',
    name: 'rules',
    family: null,
    base: { hook, priority: -100, type: 'nat', policy: 'accept', devices: [] },
    rules,
  };
}

/** The flows that a rule is for, or what is wrong with it. */
function flowsOf(rule: ListedRule): FlowSet | string {
  let when: FlowSet = [regionOf({})];
  const fields: readonly [Dimension, ListedRule['source'] | number, (text: string) => Range | null, string][] = [
    ['inInterface', rule.in, (text) => interfacePoints(text)?.[0] ?? null, 'an interface'],
    ['outInterface', rule.out, (text) => interfacePoints(text)?.[0] ?? null, 'an interface'],
    ['source', rule.source, readAddresses, 'an address, a prefix or a range'],
    ['destination', rule.destination, readAddresses, 'an address, a prefix or a range'],
    ['protocol', rule.protocol, protocolOf, 'a protocol'],
    ['sourcePort', rule.sourcePort, readPorts, 'a port or a range of ports'],
    ['destinationPort', rule.destinationPort, readPorts, 'a port or a range of ports'],
  ];
  for (const [dimension, given, read, what] of fields) {
    const values = given === undefined ? [] : Array.isArray(given) ? given : [String(given)];
    if (values.length === 0 || values.includes('any')) continue;
    const ranges: Range[] = [];
    for (const value of values) {
      const range = read(value);
      if (!range) return `“${value}” is not ${what}.`;
      ranges.push(range);
    }
    when = cut(when, [regionOf({ [dimension]: rangesOf(ranges) })]);
  }
  if (rule.state !== undefined && rule.state !== '')
    when = cut(when, [regionOf({ state: onePoint(rule.state === 'new' ? 0 : 1) })]);
  return when;
}

function protocolOf(text: string): Range | null {
  const number = /^\d{1,3}$/.test(text) ? Number(text) : protocolNumbers[text.toLowerCase()];
  return number === undefined || number > 255 ? null : { from: number, to: number + 1 };
}

function targetIn(text: string): { addresses: Ranges; ports: Ranges | null } | null {
  const [, host = '', port] = /^\[?([0-9a-f.:]+?)\]?(?::(\d{1,5}))?$/i.exec(text) ?? [];
  const address = readAddresses(host);
  const ports = port === undefined ? null : readPorts(port);
  if (!address || (port !== undefined && !ports)) return null;
  return { addresses: [address], ports: ports && [ports] };
}

function sayRule(rule: ListedRule): string {
  return Object.entries(rule)
    .filter(([, value]) => value !== undefined && value !== '')
    .map(([name, value]) => `${name}=${Array.isArray(value) ? value.join(' ') : String(value)}`)
    .join(', ');
}
