/** Rule sets and packets made by chance, from pools small enough that rules and packets often meet. */

export class Chance {
  constructor(private state: number) {}

  /** Mulberry32: the same numbers for the same beginning. */
  next(): number {
    this.state = (this.state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(this.state ^ (this.state >>> 15), 1 | this.state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32;
  }
  below(end: number): number {
    return Math.floor(this.next() * end);
  }
  is(share: number): boolean {
    return this.next() < share;
  }
  one<Value>(of: readonly Value[]): Value {
    const value = of[this.below(of.length)];
    if (value === undefined) throw new RangeError('nothing to choose from');
    return value;
  }
  some<Value>(of: readonly Value[], most: number): Value[] {
    return [...new Set(Array.from({ length: 1 + this.below(most) }, () => this.one(of)))];
  }
}

export interface MadePacket {
  readonly hook: 'forward' | 'input' | 'output';
  readonly in: string;
  readonly out: string;
  readonly source: string;
  readonly destination: string;
  readonly protocol: number;
  readonly sourcePort?: number;
  readonly destinationPort?: number;
  readonly state: 'new' | 'established';
}

export const interfaces = ['lan0', 'lan1', 'wan0'] as const;
const ports = [20, 22, 53, 80, 135, 443, 4840, 4841, 5000, 8080];
const hosts = ['5', '6', '7', '8', '9', '70', '133'];
const addressIn = (chance: Chance, network: number, six: boolean): string =>
  six ? `fd0${network}::${chance.one(hosts)}` : `10.${network}.${chance.below(2)}.${chance.one(hosts)}`;
const ownAddress = (network: number, six: boolean): string => (six ? `fd0${network}::1` : `10.${network}.0.1`);

const tcp = 6;
const udp = 17;
const protocols = [tcp, tcp, tcp, udp, udp, 1] as const;

export function madePacket(chance: Chance, hook: MadePacket['hook'], index: number): MadePacket {
  const six = chance.is(0.35);
  const from = 1 + chance.below(3);
  let to = 1 + chance.below(3);
  if (hook === 'forward') while (to === from) to = 1 + chance.below(3);
  const chosen = chance.one(protocols);
  const protocol = chosen === 1 && six ? 58 : chosen;
  return {
    hook,
    in: hook === 'output' ? '' : `${interfaces[from - 1]}`,
    out: hook === 'input' ? '' : `${interfaces[to - 1]}`,
    source: hook === 'output' ? ownAddress(to, six) : addressIn(chance, from, six),
    destination: hook === 'input' ? ownAddress(from, six) : addressIn(chance, to, six),
    protocol,
    ...(protocol === tcp || protocol === udp
      ? { sourcePort: 1024 + (index % 64_000), destinationPort: chance.one(ports) + chance.below(2) }
      : {}),
    state: 'new',
  };
}

const prefixes4 = [
  '10.1.0.0/16',
  '10.2.0.0/16',
  '10.3.0.0/16',
  '10.1.0.0/24',
  '10.2.1.0/24',
  '10.0.0.0/8',
  '10.3.1.0/25',
  '10.1.0.4/30',
];
const prefixes6 = ['fd01::/64', 'fd02::/64', 'fd03::/64', 'fd00::/8', 'fd01::/120', 'fd03::4/126'];
const address4 = (chance: Chance): string => addressIn(chance, 1 + chance.below(3), false);
const address6 = (chance: Chance): string => addressIn(chance, 1 + chance.below(3), true);
const range4 = (chance: Chance): string => {
  const network = 1 + chance.below(3);
  return `10.${network}.0.${chance.below(8)}-10.${network}.1.${8 + chance.below(200)}`;
};
const anyAddresses = (chance: Chance, six: boolean): string => {
  const kind = chance.below(6);
  if (kind < 2) return chance.one(six ? prefixes6 : prefixes4);
  if (kind === 2) return six ? 'fd01::2-fd01::90' : range4(chance);
  return six ? address6(chance) : address4(chance);
};
const portRange = (chance: Chance): string => {
  const from = chance.one(ports);
  return chance.is(0.5) ? `${from}` : `${from}-${from + 1 + chance.below(500)}`;
};
const listOf = (values: readonly string[]): string => `{ ${values.join(', ')} }`;
const not = (chance: Chance): string => (chance.is(0.2) ? '!= ' : '');

/** One condition in nft’s own text. */
function nftCondition(chance: Chance, hook: string): string {
  const six = chance.is(0.3);
  const ip = six ? 'ip6' : 'ip';
  switch (chance.below(19)) {
    case 0:
      return `${ip} saddr ${not(chance)}${anyAddresses(chance, six)}`;
    case 1:
      return `${ip} daddr ${not(chance)}${anyAddresses(chance, six)}`;
    case 2:
      return `${ip} saddr ${not(chance)}${listOf(chance.some(six ? ['fd01::5', 'fd01::6', 'fd02::/64', 'fd03::8'] : ['10.1.0.0/24', '10.2.0.5', '10.2.1.0/24', '10.3.0.7', '10.3.1.5-10.3.1.9'], 3))}`;
    case 3:
    case 4:
      return `${chance.one(['tcp', 'udp'])} dport ${not(chance)}${portRange(chance)}`;
    case 5:
      return `tcp dport ${not(chance)}${listOf(chance.some(['22', '80', '135', '443-445', '4840-4841', '5000-5100'], 4))}`;
    case 6:
      return `meta l4proto ${not(chance)}${chance.one(['tcp', 'udp', 'icmp', '{ tcp, udp }', '{ icmp, ipv6-icmp }'])}`;
    case 7:
      return `iifname ${not(chance)}${chance.one(['"lan0"', '"lan*"', '{ "lan0", "wan0" }', '"wan0"'])}`;
    case 8:
      return `oifname ${not(chance)}${chance.one(['"lan1"', '"lan*"', '{ "lan1", "wan0" }', '"wan0"'])}`;
    case 9:
      return `meta nfproto ${chance.one(['ipv4', 'ipv6'])}`;
    case 10:
      return chance.one([
        'icmp type echo-request',
        'icmpv6 type echo-request',
        'icmp type { echo-request, echo-reply }',
        'icmp type echo-reply',
      ]);
    case 11:
      return chance.one([
        'ct state new',
        'ct state established,related',
        'ct state { new, established }',
        'ct state != invalid',
        'ct state invalid,untracked',
      ]);
    case 12:
      return chance.one([
        'tcp flags syn',
        'tcp flags & (fin|syn|rst|ack) == syn',
        'tcp flags & (syn|ack) != syn',
        'tcp flags ack',
      ]);
    case 13:
      return `meta l4proto { tcp, udp } th dport ${portRange(chance)}`;
    case 14:
      return `ip saddr . tcp dport ${not(chance)}{ 10.1.0.0/24 . 80, 10.2.0.5 . 22-443, 10.3.0.0/16 . 4840 }`;
    case 15:
      return chance.one([
        'ip saddr @places',
        'ip daddr @places',
        'ip saddr != @places',
        'tcp dport @doors',
        'ip saddr . ip daddr . tcp dport @pairs',
      ]);
    case 16:
      return chance.one(['meta mark 0x1', 'meta mark & 0x2 == 0x2', 'meta mark != 0', 'meta mark 0']);
    case 17:
      return chance.one([
        'fib daddr type local',
        'ct status dnat',
        'ct direction original',
        'ip frag-off & 0x1fff != 0',
      ]);
    default:
      return hook === 'forward'
        ? `tcp dport ${chance.one(['>=', '<', '>', '<='])} ${chance.one(ports)}`
        : `udp sport ${chance.one(['>=', '<'])} 1100`;
  }
}

function nftEnd(chance: Chance, chain: string, canReject: boolean): string {
  const kind = chance.below(12);
  if (kind < 4) return 'accept';
  if (kind < 6) return 'drop';
  if (kind === 6)
    return canReject
      ? chance.one([
          'reject',
          'reject with tcp reset',
          'reject with icmp type admin-prohibited',
          'reject with icmpx type host-unreachable',
        ])
      : 'drop';
  if (kind === 7)
    return chain === 'deep' ? 'return' : `jump ${chain === 'side' ? 'deep' : chance.one(['side', 'deep'])}`;
  if (kind === 8)
    return chain === 'deep' ? 'counter' : `goto ${chain === 'side' ? 'deep' : chance.one(['side', 'deep'])}`;
  if (kind === 9) return chain.startsWith('base') ? 'counter accept' : 'return';
  if (kind === 10) return `meta mark set ${chance.one(['0x1', '0x2', '0x3', 'meta mark | 0x4', 'meta mark & 0x1'])}`;
  return chance.one(['counter', 'continue', 'log prefix "seen "']);
}

function nftRule(chance: Chance, chain: string, hook: string, canReject: boolean): string {
  if (chance.is(0.12)) {
    const map = chance.one([
      'tcp dport vmap { 22 : accept, 80-90 : drop, 4840 : jump deep }',
      'iifname . oifname vmap { "lan0" . "wan0" : accept, "lan1" . "wan0" : drop }',
      'ip saddr vmap { 10.1.0.0/24 : accept, 10.2.0.0/16 : drop, 10.3.0.5 : goto deep }',
      'ct state vmap { established : accept, invalid : drop }',
      'tcp dport vmap @ways',
      'meta l4proto vmap { udp : drop, icmp : accept }',
    ]);
    if (chain !== 'deep' || !map.includes('deep')) return map;
  }
  const conditions = Array.from({ length: chance.below(3) + (chance.is(0.8) ? 1 : 0) }, () =>
    nftCondition(chance, hook),
  );
  return [...conditions, nftEnd(chance, chain, canReject)].join(' ');
}

const rulesOf = (chance: Chance, most: number, make: () => string): string =>
  Array.from({ length: 1 + chance.below(most) }, () => `    ${make()}`).join('\n');

function nftTranslation(chance: Chance): string {
  const six = chance.is(0.25);
  const conditions = [
    nftCondition(chance, 'nat'),
    ...(chance.is(0.5) ? [`${chance.one(['tcp', 'udp'])} dport ${portRange(chance)}`] : []),
  ].join(' ');
  switch (chance.below(7)) {
    case 0:
      return `${conditions} dnat ${six ? 'ip6 to fd03::9' : 'ip to 10.3.0.9'}`;
    case 1:
      return `tcp dport ${portRange(chance)} dnat ${six ? 'ip6 to [fd03::9]:8081' : 'ip to 10.3.0.9:8081'}`;
    case 2:
      return 'dnat ip to tcp dport map { 80 : 10.3.0.5, 443 : 10.2.0.6 }';
    case 3:
      return 'dnat ip to tcp dport map { 22 : 10.3.0.5 . 2222, 81 : 10.2.0.6 . 8181 }';
    case 4:
      return `${chance.one(['tcp', 'udp'])} dport ${portRange(chance)} redirect to :8082`;
    case 5:
      return `${conditions} accept`;
    default:
      return `iifname ${chance.one(['"lan0"', '"lan*"'])} meta l4proto tcp dnat ip to 10.3.0.6:4840`;
  }
}

/** A rule set for flows at one hook; others are left open, so that answers of rules that reject come out. */
export function madeNft(chance: Chance, hook: MadePacket['hook'], family: 'inet' | 'ip'): string {
  const onlyFour = (text: string): boolean => family === 'inet' || !/ip6|ipv6|icmpv6|fd0|nfproto|icmpx/.test(text);
  const fitting = (make: () => string): string => {
    for (let tries = 0; tries < 50; tries += 1) {
      const text = make();
      if (onlyFour(text)) return text;
    }
    return 'counter';
  };
  const canReject = hook !== 'output';
  const chain = (name: string, head: string, most: number, inFilter: boolean): string =>
    `  chain ${name} {\n${head}${rulesOf(chance, most, () => fitting(() => nftRule(chance, name, hook, canReject && inFilter)))}\n  }\n`;
  const base = (name: string, at: string, priority: number, policy: string): string =>
    chain(`base_${name}`, `    type filter hook ${at} priority ${priority}; policy ${policy};\n`, 6, at === hook);
  const place = hook === 'output' ? 'output' : 'prerouting';
  return `table ${family} made {
  set places { type ipv4_addr; flags interval; elements = { 10.1.0.0/24, 10.2.1.5, 10.3.0.5-10.3.0.8 } }
  set doors { type inet_service; flags interval; elements = { 22, 80-81, 4840-5000 } }
  set pairs { type ipv4_addr . ipv4_addr . inet_service; flags interval; elements = { 10.1.0.0/16 . 10.3.0.0/24 . 80-443, 10.2.0.5 . 10.1.0.6 . 22 } }
  map ways { type inet_service : verdict; flags interval; elements = { 20-22 : drop, 80 : accept, 5000-5001 : jump deep } }
${chain('deep', '', 3, false)}${chain('side', '', 4, false)}${base('main', hook, 0, chance.one(['accept', 'drop', 'drop']))}${chance.is(0.4) ? base('more', hook, chance.one([-10, 10]), 'accept') : ''}${
    chance.is(0.3) ? base('early', place, chance.one([-300, -150, -90]), 'accept') : ''
  }${chance.is(0.5) ? `  chain nat_first {\n    type nat hook ${place} priority ${chance.one([-100, -110])}; policy accept;\n${rulesOf(chance, 4, () => fitting(() => nftTranslation(chance)))}\n  }\n` : ''}${
    chance.is(0.2)
      ? `  chain nat_second {\n    type nat hook ${place} priority -90; policy accept;\n${rulesOf(chance, 3, () => fitting(() => nftTranslation(chance)))}\n  }\n`
      : ''
  }${chance.is(0.2) ? `  chain raw_first {\n    type filter hook ${place} priority -300; policy accept;\n    udp dport ${portRange(chance)} notrack\n  }\n` : ''}${
    hook === 'input'
      ? ''
      : chance.is(0.3)
        ? '  chain nat_last {\n    type nat hook postrouting priority 100; policy accept;\n    oifname "wan0" masquerade\n  }\n'
        : ''
  }}
`;
}

function iptablesCondition(chance: Chance, hook: string, table: string): string {
  const isNot = chance.is(0.2) ? '! ' : '';
  switch (chance.below(14)) {
    case 0:
    case 1:
      return `${isNot}-s ${chance.one([...prefixes4, address4(chance)])}`;
    case 2:
      return `${isNot}-d ${chance.one([...prefixes4, address4(chance)])}`;
    case 3:
      return hook === 'output' ? '' : `${isNot}-i ${chance.one(['lan0', 'lan+', 'wan0'])}`;
    case 4:
      return hook === 'forward' && table === 'filter' ? `${isNot}-o ${chance.one(['lan1', 'lan+', 'wan0'])}` : '';
    case 5:
    case 6: {
      const from = chance.one(ports);
      return `-p ${chance.one(['tcp', 'udp'])} ${isNot}--dport ${chance.is(0.5) ? from : `${from}:${from + chance.below(500)}`}`;
    }
    case 7:
      return `-p tcp -m multiport ${isNot}--dports ${chance.some(['22', '80', '135', '443:445', '4840:4841'], 4).join(',')}`;
    case 8:
      return chance.one([
        '-p icmp',
        '-p icmp --icmp-type echo-request',
        '-p icmp --icmp-type 8/0',
        '-p icmp ! --icmp-type 8',
        '! -p tcp',
      ]);
    case 9:
      return chance.one([
        '-m conntrack --ctstate NEW',
        '-m conntrack --ctstate RELATED,ESTABLISHED',
        '-m state --state NEW,ESTABLISHED',
        '-m conntrack ! --ctstate INVALID',
        '-m conntrack --ctstate DNAT',
      ]);
    case 10:
      return chance.one([
        '-p tcp --syn',
        '-p tcp ! --syn',
        '-p tcp --tcp-flags SYN,ACK SYN',
        '-p tcp --tcp-flags ALL ACK',
      ]);
    case 11:
      return `-m iprange ${isNot}--src-range ${range4(chance)}`;
    case 12:
      return chance.one([
        '-m mark --mark 0x1',
        '-m mark --mark 0x2/0x2',
        '-m mark ! --mark 0x0',
        '-m comment --comment "a \\"b\\" -j DROP"',
      ]);
    default:
      return hook === 'output'
        ? ''
        : chance.one(['-m addrtype --dst-type LOCAL', '-m addrtype ! --dst-type LOCAL', '! -f']);
  }
}

/** Conditions that don’t name a protocol twice. */
function iptablesConditions(chance: Chance, hook: string, table: string): string {
  const conditions: string[] = [];
  for (let count = chance.below(3) + 1; count > 0; count -= 1) {
    const condition = iptablesCondition(chance, hook, table);
    const option = (text: string): string =>
      /(?:^| )(-[psdiof])(?: |$)/.exec(text)?.[1] ?? /-m \S+/.exec(text)?.[0] ?? text;
    if (
      !conditions.some(
        (other) =>
          option(other) === option(condition) ||
          (other.includes('-p ') && condition.includes('-p ')) ||
          (/-m (conntrack|state)/.test(other) && /-m (conntrack|state)/.test(condition)),
      )
    )
      conditions.push(condition);
  }
  return conditions.filter((text) => text !== '').join(' ');
}

function iptablesTarget(chance: Chance, chain: string): string {
  const kind = chance.below(11);
  if (kind < 4) return '-j ACCEPT';
  if (kind < 6) return '-j DROP';
  if (kind === 6) return chance.one(['-j REJECT', '-j REJECT --reject-with icmp-host-prohibited']);
  if (kind === 7) return chain === 'deep' ? '-j RETURN' : `-j ${chain === 'side' ? 'deep' : 'side'}`;
  if (kind === 8) return chain === 'deep' ? '' : `-g deep`;
  if (kind === 9) return '-j RETURN';
  return '-j LOG --log-prefix "a b "';
}

/** As iptables-restore takes it. */
export function madeIptables(chance: Chance, hook: 'forward' | 'input' | 'output'): string {
  const builtIn = hook.toUpperCase();
  const place = hook === 'output' ? 'OUTPUT' : 'PREROUTING';
  const rules = (chain: string, most: number): string =>
    Array.from({ length: 1 + chance.below(most) }, () => {
      let target = iptablesTarget(chance, chain);
      if (hook === 'output' && target.startsWith('-j REJECT')) target = '-j DROP';
      return `-A ${chain} ${iptablesConditions(chance, hook, 'filter')} ${target}`.replace(/ +/g, ' ').trim();
    }).join('\n');
  const translations = Array.from({ length: 1 + chance.below(4) }, () => {
    const target = chance.one([
      '-j DNAT --to-destination 10.3.0.9:8081',
      '-j DNAT --to-destination 10.3.0.9',
      '-j REDIRECT --to-ports 8082',
      '-j ACCEPT',
      '-j DNAT --to-destination 10.2.0.6:4840',
      '-j RETURN',
    ]);
    const from = chance.one(ports);
    const head = hook === 'output' || chance.is(0.5) ? '' : `-i ${chance.one(['lan0', 'lan+'])} `;
    return `-A ${place} ${head}-p ${chance.one(['tcp', 'udp'])} --dport ${from}:${from + chance.below(300)} ${chance.is(0.3) ? `-s ${chance.one(prefixes4)} ` : ''}${target}`;
  }).join('\n');
  const marks = Array.from({ length: 1 + chance.below(2) }, () =>
    `-A ${place} ${iptablesConditions(chance, hook, 'mangle').replace(/-m conntrack --ctstate DNAT/, '')} -j MARK --set-xmark ${chance.one(['0x1/0xffffffff', '0x2/0x2', '0x3/0xffffffff'])}`.replace(
      / +/g,
      ' ',
    ),
  ).join('\n');
  return `*filter
:INPUT ACCEPT [0:0]
:FORWARD ACCEPT [0:0]
:OUTPUT ACCEPT [0:0]
:${builtIn} ${chance.one(['ACCEPT', 'DROP', 'DROP'])} [0:0]
:deep - [0:0]
:side - [0:0]
${rules(builtIn, 7)}
${rules('side', 4)}
${rules('deep', 3)}
COMMIT
${chance.is(0.5) ? `*nat\n:${place} ACCEPT [0:0]\n${translations}\nCOMMIT\n` : ''}${chance.is(0.3) ? `*mangle\n:${place} ACCEPT [0:0]\n${marks}\nCOMMIT\n` : ''}${
    chance.is(0.2) ? `*raw\n:${place} ACCEPT [0:0]\n-A ${place} -p udp --dport 53:90 -j NOTRACK\nCOMMIT\n` : ''
  }`;
}
