import { readAddress, sayAddress } from './addresses.js';
import { profiles, regionOf, states } from './flow-set.js';
import type { FlowState, Profile, Region } from './flow-set.js';
import { judgeFlows } from './judge.js';
import type { Outcome, PassageHook, PassageVerdict } from './judge.js';
import { numbersFrom, onePoint, onlyPoint } from './ranges.js';
import type { Ranges } from './ranges.js';
import { protocol, protocolNumbers } from './rule-set.js';
import type { Rule, RuleSet } from './rule-set.js';

/** One packet at a machine. Interfaces and the hook are those after any translation of its destination, the destination the one before. */
export interface Packet {
  readonly hook: PassageHook;
  /** Empty: none (what the machine itself sends has come in nowhere). */
  readonly in: string;
  readonly out: string;
  /** Points of addresses. */
  readonly source: number | bigint;
  readonly destination: number | bigint;
  readonly protocol: number;
  /** null: any. */
  readonly sourcePort: number | null;
  readonly destinationPort: number | null;
  readonly state: Extract<FlowState, 'new' | 'established'>;
  /** Of a Windows machine; null: not known. */
  readonly profile: Profile | null;
  /** Whether the destination is an address of the machine itself; null: not known. */
  readonly isLocal: boolean | null;
}

export interface PacketVerdict {
  readonly verdict: PassageVerdict;
  /** Where it goes instead; absent: where it wanted. */
  readonly translated: { readonly destination: string; readonly destinationPort: number | null } | null;
  /** null: a policy decides, or not one rule alone. */
  readonly rule: Rule | null;
  /** Of an unknown one. */
  readonly why: string | null;
}

const echoRequest = { 4: 8 * 256, 6: 128 * 256 } as const;

/** A packet as flows: what it doesn’t tell is open. */
export function regionOfPacket(packet: Packet): Region {
  const name = (text: string): Ranges => [{ from: text, to: `${text}\0` }];
  const isIcmp = packet.protocol === protocol.icmp || packet.protocol === protocol.icmpv6;
  const port = isIcmp ? echoRequest[packet.protocol === protocol.icmp ? 4 : 6] : packet.destinationPort;
  return regionOf({
    inInterface: name(packet.in),
    outInterface: name(packet.out),
    source: onePoint(packet.source),
    destination: onePoint(packet.destination),
    protocol: onePoint(packet.protocol),
    ...(packet.sourcePort === null ? {} : { sourcePort: onePoint(packet.sourcePort) }),
    ...(port === null ? {} : { destinationPort: onePoint(port) }),
    state: onePoint(states.indexOf(packet.state)),
    segment: onePoint(packet.state === 'new' ? 0 : 1),
    mark: onePoint(0),
    isTranslated: onePoint(0),
    ...(packet.isLocal === null ? {} : { isLocal: onePoint(packet.isLocal ? 1 : 0) }),
    direction: packet.state === 'new' ? onePoint(0) : [numbersFrom(0, 1)],
    ...(packet.profile === null ? {} : { profile: onePoint(profiles.indexOf(packet.profile)) }),
  });
}

/** What becomes of one packet: an answer that holds whatever the packet doesn’t tell, or `unknown`. */
export function judgePacket(ruleSet: RuleSet, packet: Packet): PacketVerdict {
  const outcomes = judgeFlows(ruleSet, packet.hook, [regionOfPacket(packet)]);
  const [first] = outcomes;
  if (!first) return { verdict: 'unknown', translated: null, rule: null, why: 'no packet can have come this way' };
  const unsure = outcomes.find(({ verdict }) => verdict === 'unknown');
  if (unsure) return unknownBy(unsure, unsure.rule, unsure.why);
  const other = outcomes.find(
    (outcome) => outcome.verdict !== first.verdict || keyOf(outcome, packet) !== keyOf(first, packet),
  );
  if (other) {
    const doubt = outcomes.find((outcome) => outcome.doubt)?.doubt;
    if (doubt) return unknownBy(first, doubt.rule.isImplied ? null : doubt.rule, doubt.why);
    return unknownBy(first, first.rule ?? other.rule, 'it depends on what the packet doesn’t tell');
  }
  const isOneRule = outcomes.every(({ rule }) => rule === first.rule);
  const translated = first.verdict === 'accept' ? translatedTo(first, packet) : null;
  if (translated === 'open') return unknownBy(first, first.rule, 'it may be translated to several addresses');
  return { verdict: first.verdict, translated, rule: isOneRule ? first.rule : null, why: null };
}

const unknownBy = (_: Outcome, rule: Rule | null, why: string | null): PacketVerdict => ({
  verdict: 'unknown',
  translated: null,
  rule,
  why,
});

const keyOf = (outcome: Outcome, packet: Packet): string => {
  if (outcome.verdict !== 'accept') return '';
  const told = translatedTo(outcome, packet);
  return told === null ? '' : told === 'open' ? 'open' : `${told.destination} ${told.destinationPort}`;
};

/**
 * An address of the machine itself, where rules lead to that, is not told by rules: the packet’s own destination stands for it
 * where the machine receives it, the loopback address where the machine sends it.
 */
function translatedTo({ translated }: Outcome, packet: Packet): PacketVerdict['translated'] | 'open' {
  if (!translated) return null;
  const ports = translated.ports === null ? packet.destinationPort : onlyPoint(translated.ports);
  if (translated.ports !== null && ports === null) return 'open';
  const destinationPort = typeof ports === 'number' ? ports : null;
  if (translated.addresses === 'own') {
    const loopback = typeof packet.destination === 'bigint' ? '::1' : '127.0.0.1';
    return { destination: packet.hook === 'output' ? loopback : sayAddress(packet.destination), destinationPort };
  }
  const address = translated.addresses === null ? packet.destination : onlyPoint(translated.addresses);
  return address === null ? 'open' : { destination: sayAddress(address), destinationPort };
}

export type ReadPacket = { readonly ok: true; readonly packet: Packet } | { readonly ok: false; readonly says: string };

/** Reads a packet from the fields of a JSON object; says which of them is impossible. */
export function readPacket(fields: Readonly<Record<string, unknown>>, profile: Profile | null): ReadPacket {
  const wrong = (says: string): ReadPacket => ({ ok: false, says });
  const { hook, state } = fields;
  if (hook !== 'forward' && hook !== 'input' && hook !== 'output')
    return wrong('“hook” must be "forward", "input" or "output".');
  if (state !== 'new' && state !== 'established') return wrong('“state” must be "new" or "established".');
  const source = typeof fields['source'] === 'string' ? readAddress(fields['source']) : null;
  const destination = typeof fields['destination'] === 'string' ? readAddress(fields['destination']) : null;
  if (source === null) return wrong('“source” must be an IP address.');
  if (destination === null) return wrong('“destination” must be an IP address.');
  if (typeof source !== typeof destination)
    return wrong('“source” and “destination” must be of one family of addresses.');
  const names: string[] = [];
  for (const [name, isMeant] of [
    ['in', hook !== 'output'],
    ['out', hook !== 'input'],
  ] as const) {
    const given = fields[name] ?? '';
    if (typeof given !== 'string' || given.length > 64 || given.includes('\0'))
      return wrong(`“${name}” must be the name of an interface.`);
    names.push(isMeant ? given : '');
  }
  const number = protocolIn(fields['protocol'], typeof source === 'bigint');
  if (number === null) return wrong('“protocol” must be a protocol’s name, such as "tcp", or its number.');
  const ports = (['sourcePort', 'destinationPort'] as const).map((name) => {
    const port = fields[name] ?? null;
    return port === null || (typeof port === 'number' && Number.isInteger(port) && port >= 0 && port <= 65_535)
      ? port
      : wrong(`“${name}” must be a number from 0 to 65535.`);
  });
  const bad = ports.find((port) => typeof port === 'object' && port !== null);
  if (bad) return bad;
  const [sourcePort, destinationPort] = ports as (number | null)[];
  return {
    ok: true,
    packet: {
      hook,
      state,
      source,
      destination,
      in: names[0] ?? '',
      out: names[1] ?? '',
      protocol: number,
      sourcePort: sourcePort ?? null,
      destinationPort: destinationPort ?? null,
      profile,
      isLocal: null,
    },
  };
}

/** `icmp` is that of the packet’s family. */
function protocolIn(given: unknown, isSix: boolean): number | null {
  if (typeof given === 'number') return Number.isInteger(given) && given >= 0 && given <= 255 ? given : null;
  if (typeof given !== 'string') return null;
  const name = given.toLowerCase();
  if (name === 'icmp' && isSix) return protocol.icmpv6;
  return /^\d{1,3}$/.test(name) && Number(name) < 256 ? Number(name) : (protocolNumbers[name] ?? null);
}
