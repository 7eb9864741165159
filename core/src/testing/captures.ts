/** Captures made by hand: packets of TCP between two machines, in any of the file formats and link layers that are read. */

export interface Peer {
  readonly address: string;
  readonly port: number;
}
export const clientPeer: Peer = { address: '10.3.0.21', port: 50_100 };
export const serverPeer: Peer = { address: '10.3.0.40', port: 4840 };

export interface Flags {
  readonly syn?: boolean;
  readonly ack?: boolean;
  readonly fin?: boolean;
  readonly rst?: boolean;
}
export interface Frame {
  /** Microseconds since 1970. */
  readonly at: number;
  /** An IP packet. */
  readonly ip: Uint8Array;
}

export const joinBytes = (...parts: readonly (Uint8Array | readonly number[])[]): Uint8Array => {
  const whole = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
};
export const ascii = (text: string): Uint8Array => new TextEncoder().encode(text);
export const be16 = (value: number): number[] => [(value >>> 8) & 255, value & 255];
export const be32 = (value: number): number[] => [...be16(value >>> 16), ...be16(value)];
export const le16 = (value: number): number[] => be16(value).reverse();
export const le32 = (value: number): number[] => be32(value).reverse();

const isVersion6 = (address: string): boolean => address.includes(':');
function addressBytes(address: string): number[] {
  if (!isVersion6(address)) return address.split('.').map(Number);
  const [head = '', tail = ''] = address.split('::');
  const groups = (text: string): number[] => (text === '' ? [] : text.split(':').map((group) => parseInt(group, 16)));
  const [first, last] = [groups(head), groups(tail)];
  const all = [...first, ...Array<number>(8 - first.length - last.length).fill(0), ...last];
  return all.flatMap(be16);
}

export function tcpSegment(
  from: Peer,
  to: Peer,
  sequence: number,
  acknowledged: number,
  { syn, ack, fin, rst }: Flags,
  payload: Uint8Array = new Uint8Array(),
): Uint8Array {
  const flags = (fin ? 1 : 0) | (syn ? 2 : 0) | (rst ? 4 : 0) | (ack ? 16 : 0);
  const head = [...be16(from.port), ...be16(to.port), ...be32(sequence), ...be32(acknowledged)];
  return joinBytes(head, [0x50, flags], be16(64_000), [0, 0, 0, 0], payload);
}

/** @param more headers between IPv6’s own and what it carries */
export function ipPacket(
  from: string,
  to: string,
  protocol: number,
  payload: Uint8Array,
  {
    more = [],
    identification = 1,
    fragment = 0,
  }: { more?: readonly number[]; identification?: number; fragment?: number } = {},
): Uint8Array {
  if (isVersion6(from)) {
    const next = more.length > 0 ? 0 : protocol;
    const head = [0x60, 0, 0, 0, ...be16(more.length + payload.length), next, 64];
    return joinBytes(head, addressBytes(from), addressBytes(to), more, payload);
  }
  const head = [0x45, 0, ...be16(20 + payload.length), ...be16(identification), ...be16(fragment), 64, protocol, 0, 0];
  return joinBytes(head, addressBytes(from), addressBytes(to), payload);
}

/** A packet of IPv4 in pieces of so many bytes, which must be a multiple of eight. */
export function fragmented(packet: Uint8Array, size: number, identification = 7): Uint8Array[] {
  const payload = packet.subarray(20);
  const pieces: Uint8Array[] = [];
  for (let at = 0; at < payload.length; at += size) {
    const isLast = at + size >= payload.length;
    const head = packet.slice(0, 20);
    const piece = payload.subarray(at, at + size);
    head.set(be16(20 + piece.length), 2);
    head.set(be16(identification), 4);
    head.set(be16((isLast ? 0 : 0x2000) | (at / 8)), 6);
    pieces.push(joinBytes(head, piece));
  }
  return pieces;
}

/** An answer that something could not be reached, with the beginning of the packet that it answers. */
export const unreachable = (from: string, to: string, code: number, packet: Uint8Array): Uint8Array =>
  isVersion6(from)
    ? ipPacket(from, to, 58, joinBytes([1, code, 0, 0, 0, 0, 0, 0], packet))
    : ipPacket(from, to, 1, joinBytes([3, code, 0, 0, 0, 0, 0, 0], packet.subarray(0, 28)));

/** Two machines that talk over TCP; each call adds one packet. */
export class Dialogue {
  readonly frames: Frame[] = [];
  private readonly sequences: [number, number];

  constructor(
    public at: number,
    readonly client: Peer = clientPeer,
    readonly server: Peer = serverPeer,
    sequences: readonly [number, number] = [1000, 0xfffffff0],
  ) {
    this.sequences = [...sequences];
  }

  opened(): this {
    return this.packet(0, { syn: true }).packet(1, { syn: true, ack: true }).packet(0, { ack: true });
  }
  says(from: 0 | 1, bytes: Uint8Array): this {
    return this.packet(from, { ack: true }, bytes);
  }
  closed(first: 0 | 1 = 0): this {
    const other = first === 0 ? 1 : 0;
    return this.packet(first, { fin: true, ack: true })
      .packet(other, { fin: true, ack: true })
      .packet(first, { ack: true });
  }

  packet(from: 0 | 1, flags: Flags, payload: Uint8Array = new Uint8Array()): this {
    this.frames.push({ at: this.at, ip: this.ip(from, flags, payload) });
    const used = payload.length + (flags.syn ? 1 : 0) + (flags.fin ? 1 : 0);
    this.sequences[from] = (this.sequences[from] + used) >>> 0;
    this.at += 1000;
    return this;
  }

  /** The same as the last packet, once more. */
  again(): this {
    const last = this.frames.at(-1);
    if (last) this.frames.push({ ...last, at: this.at });
    this.at += 1000;
    return this;
  }

  /** Sent, and not recorded. */
  lost(from: 0 | 1, payload: Uint8Array): this {
    this.sequences[from] = (this.sequences[from] + payload.length) >>> 0;
    return this;
  }

  waits(microseconds: number): this {
    this.at += microseconds;
    return this;
  }

  private ip(from: 0 | 1, flags: Flags, payload: Uint8Array): Uint8Array {
    const [own, other] = from === 0 ? [this.client, this.server] : [this.server, this.client];
    const acknowledged = flags.ack ? this.sequences[from === 0 ? 1 : 0] : 0;
    const segment = tcpSegment(own, other, this.sequences[from], acknowledged, flags, payload);
    return ipPacket(own.address, other.address, 6, segment);
  }
}

const etherType = (ip: Uint8Array): number[] => ((ip[0] ?? 0) >> 4 === 6 ? [0x86, 0xdd] : [8, 0]);
/** How an IP packet lies in each link layer, by its number in the capture formats. */
export const inLinkLayer: Readonly<
  Record<string, { readonly linkType: number; readonly wrap: (ip: Uint8Array) => Uint8Array }>
> = {
  ethernet: { linkType: 1, wrap: (ip) => joinBytes(new Uint8Array(12), etherType(ip), ip) },
  'ethernet with one tag': {
    linkType: 1,
    wrap: (ip) => joinBytes(new Uint8Array(12), [0x81, 0, 0, 5], etherType(ip), ip),
  },
  'ethernet with two tags': {
    linkType: 1,
    wrap: (ip) => joinBytes(new Uint8Array(12), [0x88, 0xa8, 0, 5, 0x81, 0, 0, 6], etherType(ip), ip),
  },
  'linux cooked': { linkType: 113, wrap: (ip) => joinBytes(new Uint8Array(14), etherType(ip), ip) },
  'linux cooked 2': { linkType: 276, wrap: (ip) => joinBytes(etherType(ip), new Uint8Array(18), ip) },
  raw: { linkType: 101, wrap: (ip) => ip },
  loopback: { linkType: 0, wrap: (ip) => joinBytes(le32((ip[0] ?? 0) >> 4 === 6 ? 30 : 2), ip) },
  'loopback in the order of the network': {
    linkType: 108,
    wrap: (ip) => joinBytes(be32((ip[0] ?? 0) >> 4 === 6 ? 24 : 2), ip),
  },
};

export interface PcapForm {
  readonly isLittle?: boolean;
  readonly isNano?: boolean;
  readonly layer?: string;
  /** Bytes recorded of each packet at most. */
  readonly snapLength?: number;
}

export function pcap(frames: readonly Frame[], form: PcapForm = {}): Uint8Array {
  const { isLittle = true, isNano = false, layer = 'ethernet', snapLength = 65_535 } = form;
  const { linkType, wrap } = inLinkLayer[layer] ?? { linkType: 1, wrap: (ip: Uint8Array) => ip };
  const [word, half] = isLittle ? [le32, le16] : [be32, be16];
  const head = [
    word(isNano ? 0xa1b23c4d : 0xa1b2c3d4),
    half(2),
    half(4),
    word(0),
    word(0),
    word(snapLength),
    word(linkType),
  ];
  const packets = frames.map(({ at, ip }) => {
    const frame = wrap(ip);
    const recorded = frame.subarray(0, snapLength);
    const fraction = (at % 1e6) * (isNano ? 1000 : 1);
    return joinBytes(word(Math.floor(at / 1e6)), word(fraction), word(recorded.length), word(frame.length), recorded);
  });
  return joinBytes(head.flat(), ...packets);
}

const padded = (bytes: Uint8Array): Uint8Array => joinBytes(bytes, new Uint8Array((4 - (bytes.length % 4)) % 4));

/** One section of a pcapng file, each frame by the interface that is named with it. */
export function pcapngSection(
  frames: readonly (Frame & { readonly by?: number })[],
  layers: readonly string[] = ['ethernet'],
  { isLittle = true, resolution = 6 }: { readonly isLittle?: boolean; readonly resolution?: number } = {},
): Uint8Array {
  const [word, half] = isLittle ? [le32, le16] : [be32, be16];
  const block = (type: number, body: Uint8Array): Uint8Array => {
    const size = word(12 + body.length);
    return joinBytes(word(type), size, body, size);
  };
  const section = block(0x0a0d0d0a, joinBytes(word(0x1a2b3c4d), half(1), half(0), word(0xffffffff), word(0xffffffff)));
  const interfaces = layers.map((layer) => {
    const comment = joinBytes(half(1), half(5), padded(ascii('made!')));
    const options = joinBytes(comment, half(9), half(1), [resolution, 0, 0, 0], half(0), half(0));
    return block(1, joinBytes(half(inLinkLayer[layer]?.linkType ?? 0), half(0), word(65_535), options));
  });
  const unknown = block(0x0bad, padded(ascii('skipped')));
  const packets = frames.map(({ at, ip, by = 0 }) => {
    const frame = inLinkLayer[layers[by] ?? '']?.wrap(ip) ?? ip;
    /* In coarser units the same number is a time that no calendar has. */
    const units = BigInt(at) * 10n ** BigInt(Math.max(0, resolution - 6));
    const head = [by, Number(units >> 32n), Number(units & 0xffffffffn), frame.length, frame.length];
    return block(6, joinBytes(...head.map(word), padded(frame)));
  });
  return joinBytes(section, ...interfaces, unknown, ...packets);
}
