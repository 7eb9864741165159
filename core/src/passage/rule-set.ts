import type { Family } from './addresses.js';
import type { FlowSet } from './flow-set.js';
import type { Ranges } from './ranges.js';

/**
 * A device’s rules, in one shape whatever they were written in: chains of rules, some of them hung into the way of a packet
 * through the machine. Readers (`nftables`, `iptables`, `windows`, `list`) make it, {@link judgeFlows} judges by it.
 */
export const ruleSetFormats = ['nft-json', 'nft', 'iptables', 'windows', 'list'] as const;
export type RuleSetFormat = (typeof ruleSetFormats)[number];

export const hooks = ['ingress', 'prerouting', 'input', 'forward', 'output', 'postrouting', 'egress'] as const;
export type Hook = (typeof hooks)[number];

/** What ends a rule. `unknown`: what the rule does can’t be told. */
export type End =
  | { readonly kind: 'accept' | 'drop' | 'return' | 'continue' }
  | { readonly kind: 'reject'; readonly how: string }
  | { readonly kind: 'jump' | 'goto'; readonly chain: string }
  | { readonly kind: 'unknown'; readonly why: string };

/** What a rule does to a packet or its connection, and goes on. */
export type Effect =
  | {
      readonly kind: 'translate';
      readonly end: 'source' | 'destination';
      /** null: as it is; `own`: an address of the machine itself, which rules don’t tell. */
      readonly addresses: Ranges | 'own' | null;
      readonly ports: Ranges | null;
    }
  /** `mark = (mark & keep) ^ flip`; null: to what rules don’t tell. */
  | { readonly kind: 'mark'; readonly to: { readonly keep: number; readonly flip: number } | null }
  | { readonly kind: 'untrack' }
  /** Puts something into a set; what is looked up in it afterwards may be there. */
  | { readonly kind: 'fill'; readonly set: string };

export type RuleStep =
  | { readonly kind: 'match'; readonly when: FlowSet }
  /** Goes on where some bits of the mark are as wanted, or just where they are not. */
  | { readonly kind: 'mark-bits'; readonly mask: number; readonly values: readonly number[]; readonly isNot: boolean }
  /** Goes on for some packets and not for others, by what is not known here (how many came before, whose process it is). */
  | { readonly kind: 'maybe'; readonly why: string }
  /** Goes on by the first that fits; where none does, the rule doesn’t match. */
  | { readonly kind: 'choose'; readonly from: readonly { readonly when: FlowSet; readonly then: Effect | End }[] }
  /** Looks something up in a set that rules may have filled on the way. */
  | { readonly kind: 'looked-up'; readonly set: string; readonly step: RuleStep }
  | Effect
  | End;

export interface Rule {
  readonly table: string;
  readonly chain: string;
  /** In its chain, from 0. */
  readonly index: number;
  /** As the device writes it. */
  readonly text: string;
  readonly steps: readonly RuleStep[];
  /** Stands in no rule set: what the firewall does by itself. It is never named as the rule that decides. */
  readonly isImplied?: true;
}

export interface BaseChain {
  readonly hook: Hook;
  /** Lower ones come first. */
  readonly priority: number;
  readonly type: 'filter' | 'nat' | 'route';
  readonly policy: 'accept' | 'drop';
  /** Interfaces at which an ingress or egress chain hangs; empty: all. */
  readonly devices: readonly string[];
  /** Why it can’t be told whether the chain is in the way at all; absent: it is. */
  readonly unsure?: string | undefined;
}

export interface Chain {
  /** Unique in the rule set; what jumps name. */
  readonly key: string;
  readonly table: string;
  readonly name: string;
  /** null: both. */
  readonly family: Family | null;
  readonly base: BaseChain | null;
  readonly rules: readonly Rule[];
}

/** Something that was passed over or not understood. */
export interface RuleSetNote {
  /** From 1; 0: it stands at no line. */
  readonly line: number;
  readonly says: string;
}

export interface RuleSet {
  readonly format: RuleSetFormat;
  readonly chains: ReadonlyMap<string, Chain>;
  readonly notes: readonly RuleSetNote[];
  /** Reads a rule as the device writes it, as one of a chain; null: nothing can be read from it. */
  readonly readRule: (chain: Chain, index: number, text: string) => Rule | null;
  /** Of these it says all; packets of others go by rules that are not here. */
  readonly families: readonly Family[];
}

export type ReadRuleSet =
  | { readonly ok: true; readonly ruleSet: RuleSet }
  /** It is no rule set, or not whole: what is wrong and what to do. */
  | { readonly ok: false; readonly line: number; readonly says: string };

/** Numbers of IP protocols (IANA) by the names that rule sets use. */
export const protocolNumbers: Readonly<Record<string, number>> = {
  ip: 0,
  icmp: 1,
  igmp: 2,
  ipip: 4,
  ipencap: 4,
  tcp: 6,
  egp: 8,
  udp: 17,
  dccp: 33,
  ipv6: 41,
  'ipv6-route': 43,
  'ipv6-frag': 44,
  rsvp: 46,
  gre: 47,
  esp: 50,
  ah: 51,
  icmpv6: 58,
  'ipv6-icmp': 58,
  'ipv6-nonxt': 59,
  'ipv6-opts': 60,
  eigrp: 88,
  ospf: 89,
  ospfigp: 89,
  pim: 103,
  comp: 108,
  ipcomp: 108,
  vrrp: 112,
  l2tp: 115,
  sctp: 132,
  mh: 135,
  'mobility-header': 135,
  udplite: 136,
};
export const protocol = { icmp: 1, tcp: 6, udp: 17, dccp: 33, icmpv6: 58, sctp: 132, udplite: 136 } as const;
/** Protocols with ports at the same place. */
export const portProtocols = [protocol.tcp, protocol.udp, protocol.dccp, protocol.sctp, protocol.udplite];

/** Ports by the names that rule sets use now and then (IANA); those that plants meet. */
export const portNumbers: Readonly<Record<string, number>> = {
  'ftp-data': 20,
  ftp: 21,
  ssh: 22,
  telnet: 23,
  smtp: 25,
  domain: 53,
  bootps: 67,
  bootpc: 68,
  tftp: 69,
  http: 80,
  kerberos: 88,
  pop3: 110,
  sunrpc: 111,
  ntp: 123,
  epmap: 135,
  'netbios-ns': 137,
  'netbios-dgm': 138,
  'netbios-ssn': 139,
  imap2: 143,
  snmp: 161,
  'snmp-trap': 162,
  ldap: 389,
  https: 443,
  'microsoft-ds': 445,
  syslog: 514,
  'dhcpv6-client': 546,
  'dhcpv6-server': 547,
  ldaps: 636,
  'iso-tsap': 102,
  'ms-sql-s': 1433,
  openvpn: 1194,
  nfs: 2049,
  mysql: 3306,
  postgresql: 5432,
  mdns: 5353,
  mmcc: 5050,
  'http-alt': 8080,
};

/** Types of ICMP messages (RFC 792; RFC 4443, 4861) by the names that rule sets use. */
export const icmpTypes: Readonly<Record<4 | 6, Readonly<Record<string, number>>>> = {
  4: {
    'echo-reply': 0,
    'destination-unreachable': 3,
    'source-quench': 4,
    redirect: 5,
    'echo-request': 8,
    'router-advertisement': 9,
    'router-solicitation': 10,
    'time-exceeded': 11,
    'parameter-problem': 12,
    'timestamp-request': 13,
    'timestamp-reply': 14,
    'info-request': 15,
    'info-reply': 16,
    'address-mask-request': 17,
    'address-mask-reply': 18,
  },
  6: {
    'destination-unreachable': 1,
    'packet-too-big': 2,
    'time-exceeded': 3,
    'parameter-problem': 4,
    'echo-request': 128,
    'echo-reply': 129,
    'mld-listener-query': 130,
    'mld-listener-report': 131,
    'mld-listener-done': 132,
    'mld-listener-reduction': 132,
    'nd-router-solicit': 133,
    'nd-router-advert': 134,
    'nd-neighbor-solicit': 135,
    'nd-neighbor-advert': 136,
    'nd-redirect': 137,
    'router-renumbering': 138,
    'ind-neighbor-solicit': 141,
    'ind-neighbor-advert': 142,
    'mld2-listener-report': 143,
    'router-solicitation': 133,
    'router-advertisement': 134,
    'neighbour-solicitation': 135,
    'neighbor-solicitation': 135,
    'neighbour-advertisement': 136,
    'neighbor-advertisement': 136,
  },
};

/** Codes of “destination unreachable” (RFC 792, RFC 4443) by the names that rule sets use. */
export const icmpCodes: Readonly<Record<4 | 6, Readonly<Record<string, number>>>> = {
  4: {
    'net-unreachable': 0,
    'host-unreachable': 1,
    'prot-unreachable': 2,
    'port-unreachable': 3,
    'frag-needed': 4,
    'net-prohibited': 9,
    'host-prohibited': 10,
    'admin-prohibited': 13,
  },
  6: {
    'no-route': 0,
    'admin-prohibited': 1,
    'addr-unreachable': 3,
    'port-unreachable': 4,
    'policy-fail': 5,
    'reject-route': 6,
  },
};
