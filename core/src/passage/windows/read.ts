import { Registry, numberOfValue, readRegistryExport, textOfValue } from '../../dcom/registry.js';
import { profiles, regionOf } from '../flow-set.js';
import type { FlowSet, Profile } from '../flow-set.js';
import { readAddresses } from '../addresses.js';
import { onePoint, rangesOf } from '../ranges.js';
import type { Chain, End, ReadRuleSet, Rule, RuleSetNote, RuleStep } from '../rule-set.js';
import { readFirewallRule } from './firewall-rule.js';
import type { FirewallRule } from './firewall-rule.js';

/**
 * Rules of the Windows firewall as they stand in a machine’s registry (MS-GPFAS 2.2): its own, and those that group policies
 * bring. What blocks comes before what allows; where nothing fits, each profile has its usual action.
 */
const whole =
  'Export HKEY_LOCAL_MACHINE\\SYSTEM\\CurrentControlSet\\Services\\SharedAccess\\Parameters\\FirewallPolicy with reg.exe, and with it HKEY_LOCAL_MACHINE\\SOFTWARE\\Policies\\Microsoft\\WindowsFirewall where that is there.';
const controlSets = ['CurrentControlSet', 'ControlSet001', 'ControlSet002'];
const policyPath = 'HKEY_LOCAL_MACHINE\\SOFTWARE\\Policies\\Microsoft\\WindowsFirewall';
const localPath = (controlSet: string): string =>
  `HKEY_LOCAL_MACHINE\\SYSTEM\\${controlSet}\\Services\\SharedAccess\\Parameters\\FirewallPolicy`;

/** The keys of profiles: a machine’s own, and those of policies. */
const profileKeys: Readonly<Record<Profile, readonly string[]>> = {
  domain: ['DomainProfile'],
  private: ['PrivateProfile', 'StandardProfile'],
  public: ['PublicProfile'],
};

export function readWindowsRules(text: string): ReadRuleSet {
  const registry = new Registry();
  const faults = readRegistryExport(text, registry);
  if (!faults) return { ok: false, line: 0, says: `This is no export of a registry. ${whole}` };
  const local = controlSets.map(localPath).find((path) => registry.key(path) ?? registry.key(`${path}\\FirewallRules`));
  const hasPolicies = registry.key(policyPath) ?? registry.key(`${policyPath}\\FirewallRules`);
  if (local === undefined && !hasPolicies)
    return { ok: false, line: 0, says: `This export says nothing of the firewall. ${whole}` };
  const notes: RuleSetNote[] = faults.map(({ line, says }) => ({ line, says }));
  const settings = profiles.map((profile) => settingsOf(registry, local ?? null, profile));
  const rules = [
    ...rulesIn(registry, `${policyPath}\\FirewallRules`, 'Group policy', notes, everyProfile),
    ...(local === undefined
      ? []
      : rulesIn(registry, `${local}\\FirewallRules`, 'FirewallRules', notes, mergedProfiles(settings))),
  ];
  const chains = [chainOf('input', rules, settings), chainOf('output', rules, settings), forwarding];
  return {
    ok: true,
    ruleSet: {
      format: 'windows',
      chains: new Map(chains.map((chain) => [chain.key, chain])),
      notes,
      families: [4, 6],
      readRule: readWindowsRule,
    },
  };
}

const readWindowsRule = (chain: Chain, index: number, text: string): Rule | null => {
  const read = readFirewallRule(text.trim());
  const isThere = read !== null && read.isActive && read.direction === (chain.name === 'In' ? 'input' : 'output');
  if (!isThere) return null;
  const steps: readonly RuleStep[] = [{ kind: 'match', when: ofProfiles(read.profiles ?? profiles) }, ...read.steps];
  return { table: 'FirewallRules', chain: chain.name, index, text: text.trim(), steps };
};

interface ProfileSettings {
  readonly profile: Profile;
  readonly isOn: boolean;
  readonly inbound: 'accept' | 'drop';
  readonly outbound: 'accept' | 'drop';
  /** Nothing is let in, whatever rules say. */
  readonly isShut: boolean;
  /** Rules of the machine itself count beside those of policies. */
  readonly mergesLocal: boolean;
}

/** Usual: on, nothing in, everything out. Policies come before the machine’s own settings. */
function settingsOf(registry: Registry, local: string | null, profile: Profile): ProfileSettings {
  const paths = [policyPath, ...(local === null ? [] : [local])].flatMap((path) =>
    profileKeys[profile].map((key) => `${path}\\${key}`),
  );
  const number = (name: string): number | null =>
    paths.map((path) => numberOfValue(registry.value(path, name))).find((value) => value !== null) ?? null;
  return {
    profile,
    isOn: number('EnableFirewall') !== 0,
    inbound: number('DefaultInboundAction') === 0 ? 'accept' : 'drop',
    outbound: number('DefaultOutboundAction') === 1 ? 'drop' : 'accept',
    isShut: number('DoNotAllowExceptions') === 1,
    mergesLocal: number('AllowLocalPolicyMerge') !== 0,
  };
}

const everyProfile: readonly Profile[] = profiles;
const mergedProfiles = (settings: readonly ProfileSettings[]): readonly Profile[] =>
  settings.filter(({ mergesLocal }) => mergesLocal).map(({ profile }) => profile);

interface PlacedRule extends FirewallRule {
  readonly table: string;
  readonly index: number;
  readonly text: string;
  readonly profiles: readonly Profile[];
}

function rulesIn(
  registry: Registry,
  path: string,
  table: string,
  notes: RuleSetNote[],
  counted: readonly Profile[],
): readonly PlacedRule[] {
  const key = registry.key(path);
  if (!key) return [];
  return [...key.values.values()].flatMap((value, index) => {
    const text = textOfValue(value);
    const read = text === null ? null : readFirewallRule(text);
    if (text === null || !read) {
      notes.push({ line: 0, says: `“${value.name}” is no rule that can be read.` });
      return [];
    }
    return read.isActive
      ? [
          {
            ...read,
            table,
            index,
            text,
            profiles: (read.profiles ?? profiles).filter((profile) => counted.includes(profile)),
          },
        ]
      : [];
  });
}

const numberOf = (profile: Profile): number => profiles.indexOf(profile);
const ofProfiles = (wanted: readonly Profile[]): FlowSet =>
  wanted.length === 0
    ? []
    : [
        regionOf({
          profile: rangesOf(wanted.map((profile) => ({ from: numberOf(profile), to: numberOf(profile) + 1 }))),
        }),
      ];

function chainOf(hook: 'input' | 'output', all: readonly PlacedRule[], settings: readonly ProfileSettings[]): Chain {
  const name = hook === 'input' ? 'In' : 'Out';
  const rules = all.filter(({ direction }) => direction === hook);
  const implied = (steps: readonly RuleStep[]): Rule => ({
    table: '',
    chain: name,
    index: 0,
    text: '',
    steps,
    isImplied: true,
  });
  const accept: End = { kind: 'accept' };
  const usual = (isWanted: (profile: ProfileSettings) => boolean, end: End): Rule =>
    implied([{ kind: 'match', when: ofProfiles(settings.filter(isWanted).map(({ profile }) => profile)) }, end]);
  const made = (rule: PlacedRule): Rule => ({
    table: rule.table,
    chain: name,
    index: rule.index,
    text: rule.text,
    steps: [{ kind: 'match', when: ofProfiles(rule.profiles) }, ...rule.steps],
  });
  const by = (...actions: readonly FirewallRule['action'][]): readonly Rule[] =>
    rules.filter(({ action }) => actions.includes(action)).map(made);
  const default_ = (end: 'accept' | 'drop') =>
    usual((profile) => (hook === 'input' ? profile.inbound : profile.outbound) === end, { kind: end });
  return {
    key: name,
    table: 'FirewallRules',
    name,
    family: null,
    base: { hook, priority: 0, type: 'filter', policy: hook === 'input' ? 'drop' : 'accept', devices: [] },
    rules: [
      implied([{ kind: 'match', when: loopback }, accept]),
      implied([{ kind: 'match', when: [regionOf({ state: onePoint(1) })] }, accept]),
      usual(({ isOn }) => !isOn, accept),
      ...(hook === 'input' ? [usual(({ isShut }) => isShut, { kind: 'drop' })] : []),
      ...by('bypass'),
      ...by('block'),
      ...by('allow', 'unknown'),
      default_('accept'),
      default_('drop'),
    ],
  };
}

const range = (text: string) => [readAddresses(text)].flatMap((each) => each ?? []);
/** What a machine says to itself passes no rules. */
const loopback: FlowSet = [
  regionOf({ source: range('127.0.0.1'), destination: range('127.0.0.1') }),
  regionOf({ source: range('::1'), destination: range('::1') }),
];

/** What goes through the machine is no matter of these rules. */
const forwarding: Chain = {
  key: 'Forward',
  table: 'FirewallRules',
  name: 'Forward',
  family: null,
  base: { hook: 'forward', priority: 0, type: 'filter', policy: 'accept', devices: [] },
  rules: [
    {
      table: '',
      chain: 'Forward',
      index: 0,
      text: '',
      isImplied: true,
      steps: [{ kind: 'unknown', why: 'these rules are for what ends at the machine, and not for what it passes on' }],
    },
  ],
};
