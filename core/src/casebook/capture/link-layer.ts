/** Link-layer header types of the capture formats that are read here. */
const linkTypes = {
  loopback: 0,
  ethernet: 1,
  rawBsd: 12,
  rawOpenBsd: 14,
  raw: 101,
  loopbackOpenBsd: 108,
  linuxCooked: 113,
  ipv4: 228,
  ipv6: 229,
  linuxCooked2: 276,
} as const;

const names: Readonly<Record<number, string>> = {
  105: 'of Wi-Fi',
  127: 'of Wi-Fi',
  195: 'of IEEE 802.15.4',
  220: 'of USB',
  249: 'of USB',
};
/** What packets of a link layer that is not read are called. */
export const linkTypeNamed = (linkType: number): string =>
  names[linkType] ?? `of link-layer type ${linkType}, which is not read`;

const etherTypes = { ipv4: 0x0800, ipv6: 0x86dd } as const;
/** Tags of virtual networks, of which several may stand one behind the other (IEEE 802.1Q, 802.1ad). */
const isTag = (etherType: number): boolean => etherType === 0x8100 || etherType === 0x88a8 || etherType === 0x9100;
const mostTags = 4;

/** What {@link ipStart} answers where no IP packet begins. */
export const noIp = -1;
export const unknownLinkType = -2;

/** @returns where the IP packet begins; negative: {@link noIp}, {@link unknownLinkType} */
export function ipStart(view: DataView, from: number, to: number, linkType: number): number {
  switch (linkType) {
    case linkTypes.ethernet:
      return behindEtherType(view, from + 12, to);
    case linkTypes.linuxCooked:
      return behindEtherType(view, from + 14, to);
    case linkTypes.linuxCooked2:
      return to - from < 20 ? noIp : withTags(view, view.getUint16(from), from + 20, to);
    case linkTypes.raw:
    case linkTypes.rawBsd:
    case linkTypes.rawOpenBsd:
    case linkTypes.ipv4:
    case linkTypes.ipv6:
      return from;
    case linkTypes.loopback:
    case linkTypes.loopbackOpenBsd:
      return behindFamily(view, from, to);
    default:
      return unknownLinkType;
  }
}

const behindEtherType = (view: DataView, at: number, to: number): number =>
  at + 2 > to ? noIp : withTags(view, view.getUint16(at), at + 2, to);

function withTags(view: DataView, first: number, from: number, to: number): number {
  let etherType = first;
  let at = from;
  for (let tags = 0; isTag(etherType); tags += 1) {
    if (tags === mostTags || at + 4 > to) return noIp;
    etherType = view.getUint16(at + 2);
    at += 4;
  }
  return etherType === etherTypes.ipv4 || etherType === etherTypes.ipv6 ? at : noIp;
}

/** Four bytes name the family, in the order of whoever recorded; each system has its own number for IPv6. */
function behindFamily(view: DataView, from: number, to: number): number {
  if (to - from < 4) return noIp;
  const family = Math.min(view.getUint32(from, true), view.getUint32(from, false));
  return family === 2 || family === 10 || family === 24 || family === 28 || family === 30 ? from + 4 : noIp;
}
