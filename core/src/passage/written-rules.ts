import { familyOf, sayAddresses, sayNumbers } from './addresses.js';
import type { Family } from './addresses.js';
import { pointsIn } from './flow-set.js';
import type { FlowSet, Region } from './flow-set.js';
import { cutRanges, onePoint } from './ranges.js';
import type { Ranges } from './ranges.js';
import { protocol } from './rule-set.js';
import type { Chain, RuleSet } from './rule-set.js';

/** Connections that one rule can say: between addresses of one family, to ports of one protocol. */
export interface Box {
  /** Interfaces; empty: whichever. */
  readonly in: string;
  readonly out: string;
  readonly family: Family;
  readonly source: Ranges;
  readonly destination: Ranges;
  readonly protocol: 'tcp' | 'udp';
  readonly ports: Ranges;
}

/** One box a pair of interfaces, so that none is let through to where another wants to go. */
export function exactBoxes(flows: FlowSet): readonly Box[] {
  return flows.flatMap((region) =>
    interfacesIn(region, 'inInterface').flatMap((from) =>
      interfacesIn(region, 'outInterface').flatMap((to) =>
        protocolsIn(region).map((by) => ({
          in: from,
          out: to,
          family: familyOf(pointsIn(region, 'source')?.[0]?.from ?? 0),
          source: pointsIn(region, 'source') ?? [],
          destination: pointsIn(region, 'destination') ?? [],
          protocol: by,
          ports: pointsIn(region, 'destinationPort') ?? [],
        })),
      ),
    ),
  );
}

/** What is needed is of TCP or UDP. */
const protocolsIn = (region: Region): readonly Box['protocol'][] =>
  (['tcp', 'udp'] as const).filter((name) => {
    const points = pointsIn(region, 'protocol');
    return points === null || cutRanges(points, onePoint(protocol[name])).length > 0;
  });

/** By their names; one that is empty: whichever. */
function interfacesIn(region: Region, end: 'inInterface' | 'outInterface'): readonly string[] {
  const names = pointsIn(region, end)?.map(({ from, to }) => (String(to) === `${String(from)}\0` ? String(from) : ''));
  return names === undefined || names.includes('') ? [''] : names;
}

/** Rules that let a box through, in the device’s own words; of most devices one is enough. */
export function ruleTexts(ruleSet: RuleSet, chain: Chain, box: Box, hook: string, name: string): readonly string[] {
  switch (ruleSet.format) {
    case 'nft':
    case 'nft-json':
      return [`${nftRule(box)} accept${name === '' ? '' : ` comment "${name}"`}`];
    case 'iptables':
      return iptablesRules(box, name).map((text) => `-A ${chain.name} ${text}`);
    case 'windows':
      return [windowsRule(box, hook === 'input', name === '' ? 'OPC' : name)];
    default:
      return [listedRule(box, hook, name)];
  }
}

const braced = (parts: readonly string[]): string =>
  parts.length === 1 ? (parts[0] ?? '') : `{ ${parts.join(', ')} }`;

function nftRule({ in: from, out, family, source, destination, protocol: by, ports }: Box): string {
  const ip = family === 6 ? 'ip6' : 'ip';
  const places = `${from === '' ? '' : `iifname "${from}" `}${out === '' ? '' : `oifname "${out}" `}`;
  return `${places}${ip} saddr ${braced(sayAddresses(source))} ${ip} daddr ${braced(sayAddresses(destination))} ${by} dport ${braced(sayNumbers(ports))}`;
}

/** One rule a pair of addresses: iptables takes no lists of them. */
function iptablesRules(
  { in: from, out, source, destination, protocol: by, ports }: Box,
  name: string,
): readonly string[] {
  const places = `${from === '' ? '' : `-i ${from} `}${out === '' ? '' : `-o ${out} `}`;
  const said = sayNumbers(ports).map((text) => text.replace('-', ':'));
  const port = said.length === 1 ? `-m ${by} --dport ${said[0] ?? ''}` : `-m multiport --dports ${said.join(',')}`;
  return sayAddresses(source).flatMap((client) =>
    sayAddresses(destination).map(
      (server) =>
        `-s ${client} -d ${server} ${places}-p ${by} ${port}${name === '' ? '' : ` -m comment --comment "${name}"`} -j ACCEPT`,
    ),
  );
}

function windowsRule({ family, source, destination, protocol: by, ports }: Box, isIn: boolean, name: string): string {
  const remote = sayAddresses(isIn ? source : destination).map((text) => `RA${family}=${text}`);
  const written = sayNumbers(ports).map((text) => `${isIn ? 'L' : 'R'}Port${text.includes('-') ? '2_10' : ''}=${text}`);
  return `v2.30|Action=Allow|Active=TRUE|Dir=${isIn ? 'In' : 'Out'}|Protocol=${protocol[by]}|${[...written, ...remote].join('|')}|Name=${name}|`;
}

const listedRule = (
  { in: from, out, source, destination, protocol: by, ports }: Box,
  hook: string,
  name: string,
): string =>
  `action=accept, hook=${hook}${from === '' ? '' : `, in=${from}`}${out === '' ? '' : `, out=${out}`}, source=${sayAddresses(source).join(' ')}, destination=${sayAddresses(destination).join(' ')}, protocol=${by}, destinationPort=${sayNumbers(ports).join(' ')}${name === '' ? '' : `, comment=${name}`}`;

/** A rule of Windows as its own program takes it, for `netsh advfirewall firewall add rule`. */
export function windowsWords({ source, destination, protocol: by, ports }: Box, isIn: boolean, name: string): string {
  const remote = sayAddresses(isIn ? source : destination).join(',');
  return `name="${name}" dir=${isIn ? 'in' : 'out'} action=allow protocol=${by.toUpperCase()} ${isIn ? 'localport' : 'remoteport'}=${sayNumbers(ports).join(',')} remoteip=${remote}`;
}

/** A text as one word of a shell. */
export const shellWord = (text: string): string => `'${text.replaceAll("'", "'\\''")}'`;

/** How nft names a chain: family, table and name. */
export function nftPlace({ key, name }: Chain): string {
  const [family = 'inet', table = ''] = key.split('\0');
  return `${family} ${table} ${name}`;
}

/** The program and the table that a rule of iptables is given to. */
export const iptablesProgram = (chain: Chain, family: Family): string =>
  `${family === 6 ? 'ip6tables' : 'iptables'}${chain.table === 'filter' ? '' : ` -t ${chain.table}`}`;

/** Prints the handles of an nftables rule by its comment. */
export const handlesByComment = (place: string, comment: string): string =>
  `$(nft -a list chain ${place} | sed -n 's/.*comment "${comment}" # handle //p')`;
