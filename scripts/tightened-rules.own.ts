import { spawnSync } from 'node:child_process';
import {
  holdsPassageChange,
  onePoint,
  protocol,
  readAddress,
  readRuleSet,
  regionOf,
  tightened,
  undoOfPassageChange,
  worthOfRules,
} from '@loyal-hinge/core';
import type { NeededFlows, PassageChange, RuleSet } from '@loyal-hinge/core';

/**
 * What is to be typed at a firewall to tighten a rule, typed in a network of its own: what the firewall lists afterwards proves
 * the change, and what takes it back leaves what was there. Needs root, nft and iptables; where one is missing, this is left out
 * and says so.
 */
const canTry =
  process.getuid?.() === 0 &&
  ['nft', 'iptables-save', 'unshare'].every((name) => spawnSync('which', [name]).status === 0);

/** Runs lines in a network of their own; what each list command prints, in their order. */
function typed(list: string, ...parts: readonly (readonly string[])[]): readonly string[] {
  const mark = '==listed==';
  const script = parts.map((lines) => [...lines, list, `echo '${mark}'`].join('\n')).join('\n');
  const run = spawnSync('unshare', ['-n', 'sh', '-e'], { input: script, encoding: 'utf8' });
  if (run.status !== 0) throw new Error(`${run.stderr}\n${script}`);
  return run.stdout.split(`${mark}\n`).slice(0, parts.length);
}

function read(text: string): RuleSet {
  const told = readRuleSet(text, 'auto');
  if (!told.ok) throw new Error(`${told.says}\n${text}`);
  return told.ruleSet;
}

const need = (source: string, destination: string, port: number): NeededFlows => ({
  linkId: `${source} ${port}`,
  hook: 'forward',
  flows: [
    regionOf({
      inInterface: [{ from: 'lan0', to: 'lan0\0' }],
      outInterface: [{ from: 'wan0', to: 'wan0\0' }],
      source: onePoint(readAddress(source) ?? 0),
      destination: onePoint(readAddress(destination) ?? 0),
      protocol: onePoint(protocol.tcp),
      destinationPort: onePoint(port),
      state: onePoint(0),
      segment: onePoint(0),
      mark: onePoint(0),
      isTranslated: onePoint(0),
      direction: onePoint(0),
    }),
  ],
});
const needs = [need('10.4.0.5', '10.1.0.7', 4840), need('10.4.0.6', '10.1.0.8', 4841)];

function changes(ruleSet: RuleSet): readonly PassageChange[] {
  return worthOfRules(ruleSet, needs).flatMap((worth) => tightened(ruleSet, worth, 'wall') ?? []);
}

const nftRules = (rules: readonly string[]): readonly string[] => [
  `nft -f - <<'END'\ntable inet wall {\n chain forward {\n  type filter hook forward priority filter; policy drop;\n  ${rules.join('\n  ')}\n }\n}\nEND`,
];
const iptablesRules = (rules: readonly string[]): readonly string[] => [
  `iptables-restore <<'END'\n*filter\n:INPUT ACCEPT [0:0]\n:FORWARD DROP [0:0]\n:OUTPUT ACCEPT [0:0]\n${rules.map((rule) => `-A FORWARD ${rule}\n`).join('')}COMMIT\nEND`,
];

const kinds = {
  nft: {
    list: 'nft list ruleset',
    load: nftRules([
      'ct state established,related accept',
      'iifname "lan0" ip saddr 10.4.0.0/16 tcp dport 4840-4850 accept comment "what\'s open, since $ever"',
      'ip saddr 10.4.0.5 tcp dport 4840 accept',
      'tcp dport { 22, 3389 } accept',
      'tcp dport { 22, 3389 } accept',
      'udp dport 161 limit rate 20/second accept',
    ]),
  },
  'nft, as JSON': { list: 'nft -j list ruleset', load: nftRules(['meta l4proto tcp accept', 'udp dport 53 accept']) },
  iptables: {
    list: 'iptables-save',
    load: iptablesRules([
      '-m conntrack --ctstate RELATED,ESTABLISHED -j ACCEPT',
      '-i lan0 -o wan0 -m comment --comment "any to any, $(since) it\'s there" -j ACCEPT',
      '-s 10.4.0.5/32 -p tcp -m tcp --dport 4840 -j ACCEPT',
      '-p tcp -m multiport --dports 22,3389 -j ACCEPT',
      '-p tcp -m multiport --dports 22,3389 -j ACCEPT',
    ]),
  },
} as const;

(canTry ? describe : describe.skip)('What tightens a rule, typed at a firewall (needs root, nft and iptables)', () => {
  it.each(Object.entries(kinds))('of %s is proved by what it lists, and taken back', (_, { list, load }) => {
    const [listed = ''] = typed(list, load);
    const ruleSet = read(listed);
    const found = changes(ruleSet);
    expect(found.length).toBeGreaterThan(1);
    for (const change of found) {
      expect([change.what, holdsPassageChange(ruleSet, change)]).toEqual([change.what, false]);
      const [, after = '', back = ''] = typed(list, load, change.commands, change.undo);
      expect([change.what, holdsPassageChange(read(after), change)]).toEqual([change.what, true]);
      expect([change.what, holdsPassageChange(read(back), undoOfPassageChange(change))]).toEqual([change.what, true]);
      expect([change.what, textsOf(read(back))]).toEqual([change.what, textsOf(ruleSet)]);
    }
  });
});

const textsOf = ({ chains }: RuleSet): readonly string[] =>
  [...chains.values()].flatMap(({ rules }) => rules.filter(({ isImplied }) => !isImplied).map(({ text }) => text));
