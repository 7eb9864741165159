import type { Certificate } from '../trust/certificate.js';
import type { Crl } from '../trust/crl.js';
import { readCrl } from '../trust/crl.js';
import type { KnownLists, PlantTrust, TrustLink, TrustParty } from '../trust/plant-trust/plant-trust.js';
import { certify, party, read, revoke, rootOf } from './pki.js';
import type { CrlWish, Party, Wish } from './pki.js';

/** A small works with one authority: applications by name, with certificates that it signed or that they signed themselves. */
export interface Works {
  readonly authority: Party;
  readonly root: Certificate;
  /** A self-signed certificate. */
  own(name: string, wish?: Wish): Promise<Certificate>;
  /** A certificate that the authority signed. */
  signed(name: string, wish?: Wish): Promise<Certificate>;
  crl(wish?: CrlWish): Promise<Crl>;
}

export const day = 86_400_000;
export const noon = Date.parse('2026-03-01T12:00:00.000Z');

export async function works(name = 'Works CA'): Promise<Works> {
  const authority = await party(name);
  return {
    authority,
    root: read(await rootOf(authority)),
    own: async (name, wish = {}) => {
      const self = await party(name);
      return read(await certify(self, self, wish));
    },
    signed: async (name, wish = {}) => read(await certify(await party(name), authority, wish)),
    crl: async (wish = {}) => crlIn(await revoke(authority, wish)),
  };
}

export function crlIn(der: Uint8Array): Crl {
  const result = readCrl(der);
  if (!result.ok) throw new Error(result.says);
  return result.crl;
}

export const lists = (differs: Partial<KnownLists> = {}): KnownLists => ({
  trusted: [],
  issuers: [],
  trustedCrls: [],
  issuerCrls: [],
  rejected: [],
  ...differs,
});

/** An application that shows a certificate and holds lists; the URI is the one that the certificates of `works` carry. */
export const member = (
  name: string,
  certificate: Certificate | null,
  held: KnownLists | null = lists(),
  differs: Partial<TrustParty> = {},
): TrustParty => ({
  applicationId: name,
  name,
  applicationUri: `urn:works.example:${name}`,
  certificate,
  lists: held,
  way: 'held',
  restarts: false,
  waivers: [],
  ...differs,
});

export const wantedLink = (clientId: string, serverId: string, host: string | null = null): TrustLink => ({
  linkId: `${clientId}--${serverId}`,
  name: `${clientId} to ${serverId}`,
  clientId,
  serverId,
  host,
  secured: true,
});

export const plantOf = (
  parties: readonly TrustParty[],
  links: readonly TrustLink[],
  crlsDemanded = false,
): PlantTrust => ({ parties, links, crlsDemanded, at: noon });
