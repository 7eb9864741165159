import { otherSide } from '@loyal-hinge/core';
import type { TunnelPlace, TunnelSide } from '@loyal-hinge/core';
import type { TunnelConfiguration, TunnelLimits } from '@loyal-hinge/contract/line';
import { slug } from '../system/slug.js';

/** A tunnel with all that its ends have to know. */
export interface PlannedTunnel {
  readonly id: string;
  readonly address: string;
  readonly port: number;
  readonly limits: TunnelLimits;
  /** SHA-256 of the certificates by which each end may be known, in hexadecimal digits. */
  readonly fingerprints: Readonly<Record<TunnelSide, readonly string[]>>;
  readonly links: readonly {
    readonly linkId: string;
    /** The end at the client’s side. */
    readonly side: TunnelSide;
    readonly entrance: TunnelPlace;
    readonly target: TunnelPlace;
  }[];
}

/** What one end shall hold; null: who is at the other end is not known yet. */
export function endConfiguration(
  { id, address, port, limits, fingerprints, links }: PlannedTunnel,
  side: TunnelSide,
  isRevokedKnown: boolean,
): TunnelConfiguration | null {
  const peers = fingerprints[otherSide(side)];
  if (peers.length === 0) return null;
  return {
    name: endName(id, side),
    meets: { by: side === 'listens' ? 'listening' : 'dialling', address, port },
    certificateFile: 'certificate.pem',
    keyFile: 'key.pem',
    authorityFile: 'authority.pem',
    ...(isRevokedKnown ? { revokedFile: 'revoked.pem' } : {}),
    peers: peers.map((fingerprint) => ({ name: endName(id, otherSide(side)), fingerprint })),
    entrances: links
      .filter((link) => link.side === side)
      .map(({ linkId, entrance }) => ({ name: `from-${slug(linkId)}`, ...entrance, target: `to-${slug(linkId)}` })),
    targets: links
      .filter((link) => link.side !== side)
      .map(({ linkId, target }) => ({ name: `to-${slug(linkId)}`, ...target })),
    limits,
  };
}

const endName = (id: string, side: TunnelSide): string => `${slug(id)}-${side}`;
