import { judgePacket, readPacket } from './verdict';
import { readRuleSet } from './read-rule-set';
import type { PacketVerdict } from './verdict';
import type { RuleSetFormat } from './rule-set';

const packet = {
  hook: 'forward',
  in: 'lan0',
  out: 'wan0',
  source: '10.1.0.5',
  destination: '10.3.0.7',
  protocol: 'tcp',
  sourcePort: 40_000,
  destinationPort: 4840,
  state: 'new',
};

function told(rules: string, change: object = {}, format: RuleSetFormat | 'auto' = 'auto'): PacketVerdict {
  const read = readRuleSet(rules, format);
  if (!read.ok) throw new Error(read.says);
  const asked = readPacket({ ...packet, ...change }, null);
  if (!asked.ok) throw new Error(asked.says);
  return judgePacket(read.ruleSet, asked.packet);
}
const nft = (chain: string, more = ''): string => `table inet t {
${more}
  chain forward {
    type filter hook forward priority filter; policy drop;
    ${chain.split(';').join('\n    ')}
  }
}`;
const verdictBy = (rules: string, change: object = {}): string => {
  const { verdict, rule } = told(rules, change);
  return `${verdict}${rule ? ` by ${rule.index}` : ''}`;
};

describe('A packet at rules', () => {
  it('goes by the first rule that fits, and by the policy where none does', () => {
    const rules = nft('tcp dport 22 drop; ip saddr 10.1.0.0/16 tcp dport { 80, 4840-4845 } accept; drop');
    expect(verdictBy(rules)).toBe('accept by 1');
    expect(verdictBy(rules, { destinationPort: 22 })).toBe('drop by 0');
    expect(verdictBy(nft('tcp dport 22 accept'))).toBe('drop');
  });

  it('is dropped by a later chain although an earlier one accepts it', () => {
    const more = 'chain late {\n type filter hook forward priority 10; policy accept;\n ip daddr 10.3.0.7 drop\n }';
    expect(verdictBy(nft('accept', more))).toBe('drop by 0');
  });

  it('comes back from a chain that it was sent to, and doesn’t where it was sent for good', () => {
    const side = 'chain side {\n tcp dport 22 accept\n }';
    expect(verdictBy(nft('jump side; tcp dport 4840 accept', side))).toBe('accept by 1');
    expect(verdictBy(nft('goto side; tcp dport 4840 accept', side))).toBe('drop');
  });

  it('is judged by where its destination was translated to, and the answer says so', () => {
    const more =
      'chain pre {\n type nat hook prerouting priority dstnat; policy accept;\n tcp dport 4841 dnat ip to 10.3.0.9:4840\n }';
    const { verdict, translated } = told(nft('ip daddr 10.3.0.9 tcp dport 4840 accept', more), {
      destinationPort: 4841,
    });
    expect(verdict).toBe('accept');
    expect(translated).toEqual({ destination: '10.3.0.9', destinationPort: 4840 });
    expect(told(nft('ip daddr 10.3.0.9 accept', more)).translated).toBeNull();
  });

  it('is told for every port of the source, or not at all', () => {
    const rules = nft('tcp sport 0-1023 drop; accept');
    expect(told(rules, { sourcePort: undefined })).toMatchObject({ verdict: 'unknown', rule: { index: 0 } });
    expect(verdictBy(rules)).toBe('accept by 1');
    expect(told(nft('tcp sport 0-1023 drop'), { sourcePort: undefined })).toMatchObject({
      verdict: 'drop',
      rule: null,
    });
  });

  it('is unknown where a rule can’t be understood, and the rule is named', () => {
    expect(told(nft('tcp dport 22 accept; tcp dport 4840 frobnicate 7 accept'))).toMatchObject({
      verdict: 'unknown',
      rule: { index: 1 },
    });
    expect(verdictBy(nft('tcp dport 4840 accept; frobnicate'))).toBe('accept by 0');
  });

  it('is unknown where it depends on how many came before, and told where it doesn’t', () => {
    expect(told(nft('tcp dport 4840 limit rate 5/second accept'))).toMatchObject({
      verdict: 'unknown',
      rule: { index: 0 },
    });
    expect(told(nft('tcp dport 4840 limit rate 5/second accept; accept')).verdict).toBe('accept');
    expect(told(nft('limit rate 5/second log; accept'))).toMatchObject({ verdict: 'accept', rule: { index: 1 } });
  });

  it('has no state yet in chains before conntrack, and none after notrack', () => {
    const raw = (rule: string): string =>
      `chain raw {\n type filter hook prerouting priority raw; policy accept;\n ${rule}\n }`;
    expect(verdictBy(nft('accept', raw('ct state new drop')))).toBe('accept by 0');
    expect(verdictBy(nft('ct state new drop; accept', raw('notrack')))).toBe('accept by 1');
    expect(verdictBy(nft('ct state untracked accept', raw('notrack')))).toBe('accept by 0');
  });

  it('carries the mark that a rule has put on it', () => {
    expect(verdictBy(nft('meta mark set 0x5; meta mark & 0x4 == 0x4 accept'))).toBe('accept by 1');
    expect(verdictBy(nft('meta mark set 0x5; meta mark & 0x2 == 0x2 accept'))).toBe('drop');
    expect(verdictBy(nft('meta mark set 0x5; meta mark set meta mark & 0x1; meta mark 0x1 accept'))).toBe(
      'accept by 2',
    );
  });

  it('that the machine itself sends leaves by the interface that is told, unless it was translated', () => {
    const sent = { hook: 'output', in: '', out: 'wan0' };
    const output = (rules: string, more = ''): string =>
      `table inet t {\n${more}\n chain output {\n  type filter hook output priority filter; policy accept;\n  ${rules}\n }\n}`;
    expect(verdictBy(output('oifname "lan0" drop'), sent)).toBe('accept');
    expect(verdictBy(output('oifname "wan0" drop'), sent)).toBe('drop by 0');
    const nat =
      'chain nat {\n type nat hook output priority -100; policy accept;\n tcp dport 4841 dnat ip to 10.3.0.9\n }';
    expect(verdictBy(output('oifname "lan0" drop', nat), sent)).toBe('accept');
    /* By which interface it was to leave before, nobody knows. */
    expect(told(output('oifname "lan0" drop', nat), { ...sent, destinationPort: 4841 }).verdict).toBe('unknown');
  });

  it('that is passed on meets no rule for what is for the machine itself', () => {
    const early =
      'chain early {\n type filter hook prerouting priority mangle; policy accept;\n fib daddr type local tcp dport 4840 drop\n }';
    expect(verdictBy(nft('accept', early))).toBe('accept by 0');
    const input = `table inet t {\n${early}\n}`;
    expect(verdictBy(input, { hook: 'input', out: '' })).toBe('drop by 0');
  });

  it('is unknown where a listing doesn’t tell whether a chain is in the way, and it matters', () => {
    const chain = {
      family: 'netdev',
      table: 'edge',
      name: 'in',
      type: 'filter',
      hook: 'ingress',
      prio: 0,
      policy: 'accept',
    };
    const rule = {
      family: 'netdev',
      table: 'edge',
      chain: 'in',
      expr: [
        { match: { op: '==', left: { payload: { protocol: 'tcp', field: 'dport' } }, right: 4840 } },
        { drop: null },
      ],
    };
    const listed = (more: object, flags: object = {}) =>
      JSON.stringify({
        nftables: [{ table: { family: 'netdev', name: 'edge', ...flags } }, { chain: { ...chain, ...more } }, { rule }],
      });
    expect(told(listed({}))).toMatchObject({ verdict: 'unknown', rule: null });
    expect(told(listed({}), { destinationPort: 22 }).verdict).toBe('accept');
    expect(told(listed({ dev: 'lan0' })).verdict).toBe('drop');
    expect(told(listed({ dev: ['wan0'] })).verdict).toBe('accept');
    expect(told(listed({ dev: 'lan0' }, { flags: ['dormant'] })).verdict).toBe('accept');
    expect(told(listed({ dev: 'lan0' }, { flags: 'edge' })).verdict).toBe('unknown');
  });

  it('may be in a set that rules have filled on the way', () => {
    const set = 'set seen { type ipv4_addr; flags dynamic; }';
    expect(told(nft('ip saddr @seen accept', set)).verdict).toBe('drop');
    expect(told(nft('add @seen { ip saddr }; ip saddr @seen accept', set))).toMatchObject({
      verdict: 'unknown',
      rule: { index: 1 },
    });
  });

  it('never goes round in a circle for ever', () => {
    const circle = 'chain a {\n jump b\n }\nchain b {\n jump a\n }';
    expect(told(nft('jump a', circle)).verdict).toBe('unknown');
  });

  it.each([
    ['tcp flags syn / fin,syn,rst,ack accept', 'accept by 0', 'drop'],
    ['tcp flags & (syn | ack) == syn accept', 'accept by 0', 'drop'],
    ['tcp flags ack accept', 'drop', 'accept by 0'],
    ['ct state established,related accept', 'drop', 'accept by 0'],
    ['ct state vmap { established : accept, new : jump side }', 'drop', 'accept by 0'],
    ['ct direction original accept', 'accept by 0', 'unknown by 0'],
  ])('by “%s” is %s when it opens a connection, and %s afterwards', (rule, opening, open) => {
    const side = 'chain side {\n drop\n }';
    const without = (text: string): string => (rule.includes('vmap') ? text.replace(/ by \d/, '') : text);
    expect(without(verdictBy(nft(rule, side)))).toBe(without(opening));
    expect(without(verdictBy(nft(rule, side), { state: 'established' }))).toBe(without(open));
  });

  it('by IPv6 meets rules for IPv6 and for both', () => {
    const six = { source: 'fd01::5', destination: 'fd03::7' };
    expect(verdictBy(nft('ip daddr 10.0.0.0/8 accept; ip6 daddr fd03::/64 tcp dport 4840 accept'), six)).toBe(
      'accept by 1',
    );
    expect(verdictBy(nft('icmpv6 type echo-request accept'), { ...six, protocol: 'icmp' })).toBe('accept by 0');
    expect(verdictBy(nft('meta nfproto ipv4 accept'), six)).toBe('drop');
  });

  it.each([
    [{ source: '10.1.0.300' }, 'source'],
    [{ destination: 'fd00::1' }, 'family'],
    [{ hook: 'sideways' }, 'hook'],
    [{ state: 'old' }, 'state'],
    [{ protocol: 'carrier' }, 'protocol'],
    [{ destinationPort: 70_000 }, 'destinationPort'],
    [{ sourcePort: '80' }, 'sourcePort'],
    [{ in: 7 }, 'in'],
  ])('with impossible fields %j is refused by its field', (change, named) => {
    const read = readPacket({ ...packet, ...change }, null);
    expect(read.ok ? '' : read.says).toContain(named);
  });
});
