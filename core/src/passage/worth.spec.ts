import fc from 'fast-check';
import { withEdit } from './changed-rules';
import { readRuleSet } from './read-rule-set';
import type { RuleSet } from './rule-set';
import { judgePacket, readPacket } from './verdict';
import type { Packet, PacketVerdict } from './verdict';
import { worthOfRules } from './worth';

/** All packets that rules made of these values can tell apart, with one of each kind that none of them names. */
const sources = ['10.0.0.1', '10.0.0.2', '10.0.9.9'];
const destinations = ['10.1.0.1', '10.1.0.2', '10.1.9.9'];
const ports = [80, 443, 9];
const payloads = [
  ...ports.flatMap((destinationPort) => ['tcp', 'udp'].map((protocol) => ({ protocol, destinationPort }))),
  { protocol: 'icmp' },
];
const ends = [
  ...sources.flatMap((source) => destinations.map((destination) => ({ source, destination }))),
  { source: 'fd00::1', destination: 'fd00::2' },
];
const packets: readonly Packet[] = ends.flatMap((end) =>
  payloads.flatMap((payload) => ['lan', 'z'].map((from) => packetOf({ in: from, ...end, ...payload }))),
);

function packetOf(fields: object): Packet {
  const read = readPacket({ hook: 'forward', out: 'wan', sourcePort: 2000, state: 'new', ...fields }, null);
  if (!read.ok) throw new Error(read.says);
  return read.packet;
}

const conditions = fc.array(
  fc.constantFrom(
    'ip saddr 10.0.0.1',
    'ip saddr { 10.0.0.1, 10.0.0.2 }',
    'ip saddr != 10.0.0.2',
    'ip daddr 10.1.0.1',
    'ip daddr != { 10.1.0.1, 10.1.0.2 }',
    'tcp dport 80',
    'tcp dport { 80, 443 }',
    'udp dport != 443',
    'iifname "lan"',
    'iifname != "lan"',
    'meta l4proto tcp',
    'ip saddr . tcp dport { 10.0.0.1 . 80, 10.0.0.2 . 443 }',
  ),
  { maxLength: 2 },
);
const rulesOf = (verdicts: readonly string[]) =>
  fc.array(
    fc.tuple(conditions, fc.constantFrom(...verdicts)).map(([when, end]) => [...when, end].join(' ')),
    { minLength: 1, maxLength: 5 },
  );
const ruleSets = fc
  .record({
    main: rulesOf(['accept', 'drop', 'reject', 'jump side', 'goto side', 'counter']),
    side: rulesOf(['accept', 'drop', 'return']),
    policy: fc.constantFrom('accept', 'drop'),
  })
  .map(({ main, side, policy }) => {
    const text = `table inet t {\n chain side {\n  ${side.join('\n  ')}\n }\n chain main {\n  type filter hook forward priority filter; policy ${policy};\n  ${main.join('\n  ')}\n }\n}`;
    const read = readRuleSet(text, 'nft');
    if (!read.ok) throw new Error(read.says);
    return read.ruleSet;
  });

const judged = (ruleSet: RuleSet): readonly PacketVerdict[] => packets.map((packet) => judgePacket(ruleSet, packet));

describe('The worth of rules, held against all packets there are', () => {
  it('is that they never decide just where they decide for no packet', () => {
    fc.assert(
      fc.property(ruleSets, (ruleSet) => {
        const told = judged(ruleSet);
        for (const { rule, worth } of worthOfRules(ruleSet, [])) {
          if (worth === 'silent') continue;
          expect([rule.text, worth === 'shadowed']).toEqual([
            rule.text,
            !told.some((verdict) => verdict.rule === rule),
          ]);
        }
      }),
      { numRuns: 60 },
    );
  });

  it('is that they change nothing just where all packets fare the same without them', () => {
    fc.assert(
      fc.property(ruleSets, (ruleSet) => {
        const told = judged(ruleSet);
        for (const { rule, worth } of worthOfRules(ruleSet, [])) {
          if (worth === 'silent' || worth === 'shadowed') continue;
          const { table, chain, index } = rule;
          const without = withEdit(ruleSet, { kind: 'remove', at: { table, chain, index } });
          const after = judged(without ?? ruleSet);
          const isSame = told.every(({ verdict }, at) => verdict === after[at]?.verdict);
          expect([rule.text, worth === 'redundant']).toEqual([rule.text, isSame]);
        }
      }),
      { numRuns: 60 },
    );
  });
});
