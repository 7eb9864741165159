import fc from 'fast-check';
import { withEdit } from './changed-rules';
import { regionOf } from './flow-set';
import { onePoint } from './ranges';
import { readAddress } from './addresses';
import { readRuleSet } from './read-rule-set';
import { holdsPassageChange, undoOfPassageChange } from './rule-order';
import type { PassageChange } from './rule-order';
import type { RuleSet } from './rule-set';
import { protocol } from './rule-set';
import { narrowed, tightened } from './tightened-rules';
import { judgePacket, readPacket } from './verdict';
import { worthOfRules } from './worth';
import type { NeededFlows, RuleWorth } from './worth';

function read(text: string): RuleSet {
  const told = readRuleSet(text, 'auto');
  if (!told.ok) throw new Error(told.says);
  return told.ruleSet;
}

interface Need {
  readonly in: string;
  readonly source: string;
  readonly destination: string;
  readonly port: number;
}
const named = (name: string) => [{ from: name, to: `${name}\0` }];
const needOf = (need: Need, hook: NeededFlows['hook'] = 'forward'): NeededFlows => ({
  linkId: JSON.stringify(need),
  hook,
  flows: [
    regionOf({
      ...(hook === 'forward' ? { inInterface: named(need.in), outInterface: named('wan') } : { isLocal: onePoint(1) }),
      source: onePoint(readAddress(need.source) ?? 0),
      destination: onePoint(readAddress(need.destination) ?? 0),
      protocol: onePoint(protocol.tcp),
      destinationPort: onePoint(need.port),
      state: onePoint(0),
      segment: onePoint(0),
      mark: onePoint(0),
      isTranslated: onePoint(0),
      direction: onePoint(0),
    }),
  ],
});
const board: Need = { in: 'lan', source: '10.0.0.1', destination: '10.1.0.1', port: 4840 };
const trend: Need = { in: 'dmz', source: '10.0.0.2', destination: '10.1.0.2', port: 4841 };

const worthAt = (ruleSet: RuleSet, index: number, needs = [board, trend], hook?: NeededFlows['hook']): RuleWorth => {
  const worth = worthOfRules(
    ruleSet,
    needs.map((need) => needOf(need, hook)),
  ).find(({ rule }) => rule.index === index);
  if (!worth) throw new Error(`no rule ${index}`);
  return worth;
};
const tightenedAt = (text: string, index: number): PassageChange => {
  const ruleSet = read(text);
  const change = tightened(ruleSet, worthAt(ruleSet, index), 'wall');
  if (!change) throw new Error('nothing to tighten');
  return change;
};

const nft = (...rules: readonly string[]): string =>
  `table inet t {\n chain main {\n  type filter hook forward priority filter; policy drop;\n  ${rules.join('\n  ')}\n }\n}`;
const iptables = (...rules: readonly string[]): string =>
  `*filter\n:INPUT ACCEPT [0:0]\n:FORWARD DROP [0:0]\n:OUTPUT ACCEPT [0:0]\n${rules.map((rule) => `-A FORWARD ${rule}\n`).join('')}COMMIT\n`;

describe('A rule that lets through more than is needed', () => {
  const places = ['lan', 'dmz', 'z'];
  const addresses = [1, 2, 3];
  const ports = [4840, 4841, 22];
  const packets = places.flatMap((from) =>
    addresses.flatMap((client) =>
      addresses.flatMap((server) =>
        ports.map((port) => ({ in: from, source: `10.0.0.${client}`, destination: `10.1.0.${server}`, port })),
      ),
    ),
  );
  const verdictOf = (ruleSet: RuleSet, { port, ...packet }: Need): string => {
    const told = readPacket(
      {
        hook: 'forward',
        out: 'wan',
        protocol: 'tcp',
        destinationPort: port,
        state: 'new',
        sourcePort: 2000,
        ...packet,
      },
      null,
    );
    return told.ok ? judgePacket(ruleSet, told.packet).verdict : told.says;
  };
  const conditions = (form: 'nft' | 'iptables') =>
    fc.tuple(
      fc.constantFrom(
        ...(form === 'nft' ? ['', 'iifname "lan"', 'iifname { "lan", "dmz" }'] : ['', '-i lan', '-i dmz']),
      ),
      fc.constantFrom(...(form === 'nft' ? ['', 'ip saddr 10.0.0.0/24'] : ['', '-s 10.0.0.0/24'])),
      fc.constantFrom(...(form === 'nft' ? ['', 'tcp dport 4840-4841'] : ['', '-p tcp -m tcp --dport 4840:4841'])),
      fc.constantFrom('accept', 'drop'),
    );
  const ruleSets = fc.oneof(
    fc
      .array(conditions('nft'), { minLength: 1, maxLength: 4 })
      .map((rules) => read(nft(...rules.map((parts) => parts.filter((part) => part !== '').join(' '))))),
    fc
      .array(conditions('iptables'), { minLength: 1, maxLength: 4 })
      .map((rules) => read(iptables(...rules.map(([a, b, c, end]) => `${a} ${b} ${c} -j ${end.toUpperCase()}`)))),
  );
  const needs = fc.uniqueArray(fc.constantFrom(...packets.filter(({ port }) => port !== 22)), { maxLength: 5 });

  it('is narrowed so that every link fares as before, and nothing gets through that did not', () => {
    let narrow = 0;
    fc.assert(
      fc.property(ruleSets, needs, (ruleSet, wanted) => {
        for (const worth of worthOfRules(
          ruleSet,
          wanted.map((need) => needOf(need)),
        )) {
          if (worth.worth !== 'too-wide') continue;
          narrow += 1;
          const after = narrowed(ruleSet, worth).edits.reduce<RuleSet | null>(
            (set, edit) => set && withEdit(set, edit),
            ruleSet,
          );
          if (!after) throw new Error(`unreadable: ${narrowed(ruleSet, worth).rules.join('\n')}`);
          for (const packet of packets) {
            const [was, is] = [verdictOf(ruleSet, packet), verdictOf(after, packet)];
            const isNeeded = wanted.some((need) => JSON.stringify(need) === JSON.stringify(packet));
            expect([packet, is]).toEqual([packet, isNeeded || is === 'accept' ? was : is]);
          }
        }
      }),
      { numRuns: 150 },
    );
    expect(narrow).toBeGreaterThan(20);
  });

  it('is narrowed to what it sees itself where a destination is translated before it', () => {
    const translating = (...rules: readonly string[]) =>
      `*nat\n:PREROUTING ACCEPT [0:0]\n:INPUT ACCEPT [0:0]\n:OUTPUT ACCEPT [0:0]\n:POSTROUTING ACCEPT [0:0]\n-A PREROUTING -d 10.1.0.1/32 -p tcp -m tcp --dport 4840 -j DNAT --to-destination 10.1.0.9:4850\nCOMMIT\n${iptables(...rules)}`;
    const ruleSet = read(translating('-i lan -j ACCEPT'));
    const worth = worthOfRules(ruleSet, [needOf(board)]).find(({ rule }) => rule.chain === 'FORWARD');
    if (!worth) throw new Error('no rule');
    const { rules, edits } = narrowed(ruleSet, worth);
    expect(rules).toEqual(['-A FORWARD -s 10.0.0.1 -d 10.1.0.9 -i lan -o wan -p tcp -m tcp --dport 4850 -j ACCEPT']);
    const after = edits.reduce<RuleSet | null>((set, edit) => set && withEdit(set, edit), ruleSet);
    expect([ruleSet, after ?? ruleSet, read(translating())].map((set) => verdictOf(set, board))).toEqual([
      'accept',
      'accept',
      'drop',
    ]);
  });

  it('gives way to rules with their addresses, ports and interfaces, typed so that nothing is cut off in between', () => {
    const change = tightenedAt(nft('iifname "lan" ip daddr 10.1.0.0/16 accept comment "it\'s old"', 'drop'), 0);
    expect(change.kind === 'replace-rules' && change.by).toEqual([
      'iifname "lan" oifname "wan" ip saddr 10.0.0.1 ip daddr 10.1.0.1 tcp dport 4840 accept comment "narrowed rule 1 of main"',
    ]);
    expect(change.commands).toEqual([
      `H=$(nft -a list chain inet t main | grep -F -- 'iifname "lan" ip daddr 10.1.0.0/16 accept comment "it'\\''s old" # handle ' | sed -n '1s/.* //p')`,
      `nft 'insert rule inet t main handle '"$H"' iifname "lan" oifname "wan" ip saddr 10.0.0.1 ip daddr 10.1.0.1 tcp dport 4840 accept comment "narrowed rule 1 of main"'`,
      'nft delete rule inet t main handle "$H"',
    ]);
  });

  it('is given to iptables with every word that a shell could take for more in quotes', () => {
    const change = tightenedAt(iptables('-i lan -m comment --comment "$(reboot) now" -j ACCEPT'), 0);
    expect(change.commands).toEqual([
      `iptables -I FORWARD 1 -s 10.0.0.1 -d 10.1.0.1 -i lan -o wan -p tcp -m tcp --dport 4840 -m comment --comment "narrowed rule 1 of FORWARD" -j ACCEPT`,
      `iptables -D FORWARD -i lan -m comment --comment '$(reboot) now' -j ACCEPT`,
    ]);
    expect(change.undo[0]).toBe(`iptables -I FORWARD 1 -i lan -m comment --comment '$(reboot) now' -j ACCEPT`);
  });

  it('is switched off at Windows by its name where no other rule has that', () => {
    const rule = (name: string) => `Action=Allow|Active=TRUE|Dir=In|Protocol=6|Name=${name}`;
    const key = 'HKEY_LOCAL_MACHINE\\SYSTEM\\CurrentControlSet\\Services\\SharedAccess\\Parameters\\FirewallPolicy';
    const set = (...names: readonly string[]) =>
      read(
        `Windows Registry Editor Version 5.00\r\n\r\n[${key}\\FirewallRules]\r\n${names.map((name, at) => `"r${at}"="v2.31|${rule(name)}|"\r\n`).join('')}`,
      );
    const commandsOf = (ruleSet: RuleSet) =>
      tightened(ruleSet, worthAt(ruleSet, 0, [board], 'input'), 'wall')?.commands;
    expect(commandsOf(set('All of TCP'))).toEqual([
      'netsh advfirewall firewall add rule name="narrowed rule 1 of In" dir=in action=allow protocol=TCP localport=4840 remoteip=10.0.0.1',
      'netsh advfirewall firewall set rule name="All of TCP" dir=in new enable=no',
    ]);
    expect(commandsOf(set('All & more'))).toEqual([]);
  });
});

describe('A rule that nobody needs', () => {
  const wide = 'tcp dport 4840 accept';
  const shadowed = 'ip saddr 10.0.0.1 tcp dport 4840 accept';

  it('goes, and comes back to its place', () => {
    const change = tightenedAt(nft(wide, shadowed, 'drop'), 1);
    expect(change).toMatchObject({ rules: [shadowed], by: [], what: 'rule 2 of main, it is never reached' });
    expect(change.undo).toEqual([`nft 'insert rule inet t main index 1 ${shadowed}'`]);
    expect(tightenedAt(nft(wide, shadowed), 1).undo).toEqual([`nft 'add rule inet t main ${shadowed}'`]);
  });

  it('is gone by the proof where it stands there no longer, and back where it does', () => {
    const change = tightenedAt(nft(wide, shadowed, 'drop'), 1);
    expect(holdsPassageChange(read(nft(wide, shadowed, 'drop')), change)).toBe(false);
    expect(holdsPassageChange(read(nft(wide, 'drop')), change)).toBe(true);
    const back = undoOfPassageChange(change);
    expect(undoOfPassageChange(back)).toEqual(change);
    expect(holdsPassageChange(read(nft(wide, shadowed, 'drop')), back)).toBe(true);
  });

  it('leaves the other one where it stands there twice', () => {
    const change = tightenedAt(nft(wide, wide, 'drop'), 1);
    expect(change.commands[0]).toContain("sed -n '2s/");
    expect(holdsPassageChange(read(nft(wide, wide, 'drop')), change)).toBe(false);
    expect(holdsPassageChange(read(nft(wide, 'drop')), change)).toBe(true);
    expect(tightenedAt(iptables('-p tcp -j ACCEPT', '-p tcp -j ACCEPT'), 1).commands).toEqual([
      'iptables -D FORWARD 2',
    ]);
  });

  it('is one that is worth what it is, where there is nothing to change', () => {
    const ruleSet = read(nft('iifname "lan" ip saddr 10.0.0.1 ip daddr 10.1.0.1 tcp dport 4840 accept'));
    expect(tightened(ruleSet, worthAt(ruleSet, 0), 'wall')).toBeNull();
  });
});

describe('A narrowed rule', () => {
  const wide = 'ip daddr 10.1.0.0/16 accept';
  const change = tightenedAt(nft(wide, 'drop'), 0);
  const narrow = change.kind === 'replace-rules' ? change.by : [];

  it('is proved where the wide one is gone and links still get through', () => {
    expect(holdsPassageChange(read(nft(wide, 'drop')), change)).toBe(false);
    expect(holdsPassageChange(read(nft(...narrow, wide, 'drop')), change)).toBe(false);
    expect(holdsPassageChange(read(nft('drop')), change)).toBe(false);
    expect(holdsPassageChange(read(nft(...narrow, 'drop')), change)).toBe(true);
    expect(holdsPassageChange(read(nft('ip saddr 10.0.0.0/24 tcp dport 4840-4841 accept', 'drop')), change)).toBe(true);
  });

  it('is undone where the wide one stands there again', () => {
    const back = undoOfPassageChange(change);
    expect(holdsPassageChange(read(nft(wide, 'drop')), back)).toBe(true);
    expect(holdsPassageChange(read(nft(...narrow, 'drop')), back)).toBe(false);
  });
});
