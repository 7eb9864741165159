import { be16, be32, joinBytes, le32 } from '../../testing/captures';
import { ipStart, linkTypeNamed, noIp, unknownLinkType } from './link-layer';

const addresses = new Uint8Array(12);
const payload = [0x45, 0, 0, 20];

/** Where IP begins in a packet of a link layer that lies among other bytes, counted from its beginning. */
function begins(linkType: number, ...parts: readonly (Uint8Array | readonly number[])[]): number {
  const [before, packet] = [[1, 2, 3], joinBytes(...parts)];
  const bytes = joinBytes(before, packet, [0x08, 0, 0x45]);
  const view = new DataView(bytes.buffer);
  const at = ipStart(view, before.length, before.length + packet.length, linkType);
  return at < 0 ? at : at - before.length;
}

describe('the place at which an IP packet begins', () => {
  it('is behind the kind of an Ethernet frame, and behind up to four tags of virtual networks', () => {
    expect(begins(1, addresses, be16(0x0800), payload)).toBe(14);
    expect(begins(1, addresses, be16(0x86dd), payload)).toBe(14);
    const tag = (type: number): number[] => [...be16(type), ...be16(7)];
    expect(begins(1, addresses, tag(0x8100), be16(0x0800), payload)).toBe(18);
    const four = [0x88a8, 0x9100, 0x8100, 0x8100].flatMap(tag);
    expect(begins(1, addresses, four, be16(0x0800), payload)).toBe(30);
    expect(begins(1, addresses, four, tag(0x8100), be16(0x0800), payload)).toBe(noIp);
  });

  it('is none where something else is carried, or the frame is cut off, whatever lies behind it', () => {
    expect(begins(1, addresses, be16(0x0806), payload)).toBe(noIp);
    for (let length = 0; length < 12; length += 1) expect(begins(1, addresses.subarray(0, length))).toBe(noIp);
    expect(begins(1, addresses, [0x08])).toBe(noIp);
    expect(begins(1, addresses, be16(0x8100), [0])).toBe(noIp);
    expect(begins(276, new Uint8Array(19))).toBe(noIp);
    expect(begins(0, [2, 0, 0])).toBe(noIp);
  });

  it('is behind the heads that Linux makes up for any device', () => {
    expect(begins(113, new Uint8Array(14), be16(0x0800), payload)).toBe(16);
    expect(begins(276, be16(0x0800), new Uint8Array(18), payload)).toBe(20);
    expect(begins(276, be16(0x0806), new Uint8Array(18), payload)).toBe(noIp);
  });

  it('is behind the family of a loopback, in either order of bytes, with each system’s number for IPv6', () => {
    for (const family of [2, 10, 24, 28, 30])
      for (const head of [le32(family), be32(family)]) expect(begins(0, head, payload)).toBe(4);
    expect(begins(108, be32(2), payload)).toBe(4);
    expect(begins(0, le32(7), payload)).toBe(noIp);
  });

  it('is at once where nothing stands before it', () => {
    for (const linkType of [12, 14, 101, 228, 229]) expect(begins(linkType, payload)).toBe(0);
  });

  it('is not known of a link layer that is not read, which is named', () => {
    expect(begins(105, payload)).toBe(unknownLinkType);
    expect([linkTypeNamed(105), linkTypeNamed(9999)]).toEqual([
      'of Wi-Fi',
      'of link-layer type 9999, which is not read',
    ]);
  });
});
