/** One packet of TCP as it would have been seen on the wire. */
export interface WrittenSegment {
  /** Microseconds since 1970. */
  readonly at: number;
  readonly from: { readonly address: string; readonly port: number };
  readonly to: { readonly address: string; readonly port: number };
  readonly sequence: number;
  readonly acknowledged: number;
  readonly flags: number;
  readonly payload: Uint8Array;
}

export const tcpFlag = { fin: 1, syn: 2, reset: 4, push: 8, acknowledge: 16 } as const;

const rawIp = 101;
const [ipOctets, tcpOctets, packetOctets] = [20, 20, 16];

/** Writes packets of IPv4 as a capture (pcap, microseconds), in the order of their times. */
export function writePackets(segments: readonly WrittenSegment[]): Buffer {
  const head = Buffer.alloc(24);
  head.writeUInt32LE(0xa1b2c3d4, 0);
  head.writeUInt16LE(2, 4);
  head.writeUInt16LE(4, 6);
  head.writeUInt32LE(65_535, 16);
  head.writeUInt32LE(rawIp, 20);
  const inOrder = [...segments].sort((one, other) => one.at - other.at);
  return Buffer.concat([head, ...inOrder.map(packetOf)]);
}

function packetOf(segment: WrittenSegment, index: number): Buffer {
  const { at, from, to, payload } = segment;
  const length = ipOctets + tcpOctets + payload.length;
  const packet = Buffer.alloc(packetOctets + length);
  packet.writeUInt32LE(Math.floor(at / 1e6), 0);
  packet.writeUInt32LE(at % 1e6, 4);
  packet.writeUInt32LE(length, 8);
  packet.writeUInt32LE(length, 12);
  const ip = packet.subarray(packetOctets);
  ip[0] = 0x45;
  ip.writeUInt16BE(length, 2);
  ip.writeUInt16BE((index + 1) & 0xffff, 4);
  ip.writeUInt16BE(0x4000, 6);
  ip[8] = 63;
  ip[9] = 6;
  octetsOf(from.address).copy(ip, 12);
  octetsOf(to.address).copy(ip, 16);
  ip.writeUInt16BE(sumOf(ip.subarray(0, ipOctets), 0), 10);
  const tcp = ip.subarray(ipOctets);
  tcp.writeUInt16BE(from.port, 0);
  tcp.writeUInt16BE(to.port, 2);
  tcp.writeUInt32BE(segment.sequence >>> 0, 4);
  tcp.writeUInt32BE(segment.acknowledged >>> 0, 8);
  tcp[12] = (tcpOctets / 4) << 4;
  tcp[13] = segment.flags;
  tcp.writeUInt16BE(64_240, 14);
  tcp.set(payload, tcpOctets);
  const pseudo = Buffer.alloc(12);
  ip.copy(pseudo, 0, 12, 20);
  pseudo[9] = 6;
  pseudo.writeUInt16BE(tcp.length, 10);
  tcp.writeUInt16BE(sumOf(tcp, addedUp(pseudo)), 16);
  return packet;
}

const octetsOf = (address: string): Buffer => Buffer.from(address.split('.').map(Number));

/** The check sum of IP and TCP (RFC 1071). */
function sumOf(octets: Uint8Array, begin: number): number {
  let sum = begin + addedUp(octets);
  while (sum > 0xffff) sum = (sum & 0xffff) + (sum >>> 16);
  return ~sum & 0xffff;
}
function addedUp(octets: Uint8Array): number {
  let sum = 0;
  for (let at = 0; at < octets.length; at += 2) sum += ((octets[at] ?? 0) << 8) | (octets[at + 1] ?? 0);
  return sum;
}
