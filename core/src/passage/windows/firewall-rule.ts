import { readAddresses, readPorts } from '../addresses.js';
import { cut, regionOf } from '../flow-set.js';
import type { Dimension, FlowSet, Profile } from '../flow-set.js';
import { numbersFrom, onePoint, rangesOf } from '../ranges.js';
import type { Range } from '../ranges.js';
import { protocol } from '../rule-set.js';
import type { RuleStep } from '../rule-set.js';

/** One rule as its value in the registry says it (MS-GPFAS 2.2.2.19). */
export interface FirewallRule {
  readonly action: 'allow' | 'block' | 'bypass' | 'unknown';
  readonly isActive: boolean;
  /** null: it names no direction. */
  readonly direction: 'input' | 'output' | null;
  /** null: all. */
  readonly profiles: readonly Profile[] | null;
  readonly name: string;
  /** Conditions, and what it does. */
  readonly steps: readonly RuleStep[];
}

const profileNames: Readonly<Record<string, Profile>> = {
  domain: 'domain',
  private: 'private',
  standard: 'private',
  public: 'public',
};
/** Fields on which no verdict depends. */
const harmless = new Set([
  'name',
  'desc',
  'embedctxt',
  'edge',
  'defer',
  'action',
  'active',
  'dir',
  'profile',
  'protocol',
]);
/** Conditions that a packet doesn’t show, by field: whom the rule is for. */
const notShown: Readonly<Record<string, string>> = {
  app: 'it is for one program',
  svc: 'it is for one service',
  if: 'it is for one interface',
  iftype: 'it is for one kind of interface',
  security: 'it asks for a secured connection',
  security2: 'it asks for a secured connection',
  security2_9: 'it asks for a secured connection',
  rmauth: 'it is for some computers',
  ruauth: 'it is for some users',
  luauth: 'it is for some users',
  luown: 'it is for one user',
  apppkgid: 'it is for one package',
  pfn: 'it is for one package',
  platform: 'it is for some versions of Windows',
  platform2: 'it is for some versions of Windows',
  ttk: 'it is for trusted tuples',
};

type Fields = ReadonlyMap<string, readonly string[]>;

/** null: it is no rule. */
export function readFirewallRule(text: string): FirewallRule | null {
  const [version = '', ...parts] = text.split('|');
  if (!/^v\d+\.\d+$/i.test(version)) return null;
  const fields = fieldsIn(parts);
  if (!fields) return null;
  const one = (name: string): string => fields.get(name)?.[0]?.toLowerCase() ?? '';
  const direction = one('dir') === 'in' ? 'input' : one('dir') === 'out' ? 'output' : null;
  const action = ({ allow: 'allow', block: 'block', bypass: 'bypass' } as const)[one('action')] ?? 'unknown';
  const wanted = fields.get('profile')?.map((name) => profileNames[name.toLowerCase()]);
  const conditions = direction === null ? [] : conditionsOf(fields, direction);
  const isSecured = action === 'bypass' ? [maybe('it asks for a secured connection')] : [];
  return {
    action,
    direction,
    isActive: one('active') !== 'false',
    profiles: wanted === undefined || wanted.length === 0 ? null : wanted.flatMap((profile) => profile ?? []),
    name: fields.get('name')?.[0] ?? '',
    steps: [...conditions, ...isSecured, endOf(action)],
  };
}

const maybe = (why: string): RuleStep => ({ kind: 'maybe', why });
const endOf = (action: FirewallRule['action']): RuleStep => {
  if (action === 'unknown') return { kind: 'unknown', why: 'what it does is not known' };
  return { kind: action === 'block' ? 'drop' : 'accept' };
};

function fieldsIn(parts: readonly string[]): Fields | null {
  const fields = new Map<string, string[]>();
  for (const part of parts) {
    if (part === '') continue;
    const at = part.indexOf('=');
    if (at <= 0) return null;
    const name = part.slice(0, at).toLowerCase();
    fields.set(name, [...(fields.get(name) ?? []), part.slice(at + 1)]);
  }
  return fields;
}

const read: Readonly<Record<string, 'ports' | 'addresses' | 'keyword' | 'icmp4' | 'icmp6'>> = {
  lport: 'ports',
  rport: 'ports',
  lport2_10: 'ports',
  rport2_10: 'ports',
  lport2_20: 'ports',
  lport2_24: 'ports',
  la4: 'addresses',
  la6: 'addresses',
  ra4: 'addresses',
  ra6: 'addresses',
  la42: 'keyword',
  ra42: 'keyword',
  la62: 'keyword',
  ra62: 'keyword',
  icmp4: 'icmp4',
  icmp6: 'icmp6',
};

function conditionsOf(fields: Fields, direction: 'input' | 'output'): readonly RuleStep[] {
  const isIn = direction === 'input';
  const open: RuleStep[] = [];
  const [number] = fields.get('protocol') ?? [];
  if (number !== undefined && !/^\d{1,3}$/.test(number)) return [{ kind: 'unknown', why: 'its protocol is not known' }];
  let when: FlowSet =
    number === undefined || Number(number) > 255 ? [regionOf({})] : [regionOf({ protocol: onePoint(Number(number)) })];
  const conditions: readonly [Dimension, readonly string[], 'ports' | 'addresses'][] = [
    [isIn ? 'destinationPort' : 'sourcePort', ['lport', 'lport2_10', 'lport2_20', 'lport2_24'], 'ports'],
    [isIn ? 'sourcePort' : 'destinationPort', ['rport', 'rport2_10'], 'ports'],
    [isIn ? 'destination' : 'source', ['la4', 'la6', 'la42', 'la62'], 'addresses'],
    [isIn ? 'source' : 'destination', ['ra4', 'ra6', 'ra42', 'ra62'], 'addresses'],
  ];
  for (const [dimension, names, kind] of conditions) {
    const values = names.flatMap((name) => fields.get(name) ?? []);
    if (values.length === 0) continue;
    const told = values.map((value) => (kind === 'ports' ? portOf(value) : addressOf(value)));
    const ranges = rangesOf(told.flatMap((each) => (typeof each === 'string' ? [] : each)));
    const why = told.find((each) => typeof each === 'string');
    if (why === undefined) when = cut(when, ranges.length === 0 ? [] : [regionOf({ [dimension]: ranges })]);
    else open.push(maybe(why));
  }
  for (const [name, family] of [
    ['icmp4', 4],
    ['icmp6', 6],
  ] as const) {
    const values = fields.get(name);
    if (!values) continue;
    const types = values.map(icmpOf);
    if (types.some((each) => each === null)) open.push(maybe('its kinds of ICMP are not known'));
    else
      when = cut(when, [
        regionOf({
          protocol: onePoint(family === 4 ? protocol.icmp : protocol.icmpv6),
          destinationPort: rangesOf(types.flatMap((each) => each ?? [])),
        }),
      ]);
  }
  for (const name of fields.keys()) {
    const why = notShown[name];
    if (why !== undefined) open.push(maybe(why));
    else if (!harmless.has(name) && !(name in read)) open.push(maybe(`its field “${name}” is not known`));
  }
  return [{ kind: 'match', when }, ...open];
}

/** Ranges, or why they can’t be told. */
function portOf(value: string): readonly Range[] | string {
  if (value.toUpperCase() === 'RPC-EPMAP') return [numbersFrom(135, 135)];
  const range = readPorts(value);
  return range ? [range] : `its ports “${value}” are given out by Windows`;
}

function addressOf(value: string): readonly Range[] | string {
  const range = readAddresses(value);
  return range ? [range] : `its addresses “${value}” depend on the machine’s own`;
}

/** `8:*`, `3:4`. */
function icmpOf(value: string): readonly Range[] | null {
  const [, type, code] = /^(\d{1,3}):(\*|\d{1,3})$/.exec(value) ?? [];
  if (type === undefined || Number(type) > 255) return null;
  if (code === '*') return [{ from: Number(type) * 256, to: (Number(type) + 1) * 256 }];
  return Number(code) > 255
    ? null
    : [numbersFrom(Number(type) * 256 + Number(code), Number(type) * 256 + Number(code))];
}
