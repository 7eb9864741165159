import { writeFile } from 'node:fs/promises';
import type { Plant } from '@loyal-hinge/core';
import type { ItemOrigin } from '@loyal-hinge/core/field';
import type { StandInConduit, StandInFirewall, StandInService } from './marrowby/firewalls.js';

/** What the product needs to know to act for the made-up plant's engineer. It holds keys and passwords. */
export interface Handover {
  readonly plant: Plant;
  /** The range in which all of it stands, and which may be dialled. */
  readonly range: string;
  /** Address and port of the plant's name server. */
  readonly nameServer: string;
  readonly clients: readonly {
    readonly applicationId: string;
    readonly privateKeyPem: string;
    readonly certificatePem: string;
    readonly trustedPem: readonly string[];
    readonly crlsPem: readonly string[];
  }[];
  /** By the names that links call them. */
  readonly userCertificates: readonly {
    readonly name: string;
    readonly privateKeyPem: string;
    readonly certificatePem: string;
  }[];
  readonly passwords: readonly { readonly linkId: string; readonly password: string }[];
  /** How each server’s lists can be changed; over push management as whom. */
  readonly ways: readonly (
    | {
        readonly applicationId: string;
        readonly way: 'push';
        readonly clientId: string;
        readonly endpointUrl: string;
        readonly userName: string;
        readonly password: string;
        readonly restarts: boolean;
      }
    | { readonly applicationId: string; readonly way: 'files' }
  )[];
  /** Exports that somebody brought from machines, and what these print of accounts. */
  readonly exports: readonly {
    readonly machineId: string;
    readonly files: readonly { readonly name: string; readonly base64: string }[];
  }[];
  /** Firewalls, with their rules as they write them, and conduits. */
  readonly firewalls: readonly StandInFirewall[];
  readonly conduits: readonly StandInConduit[];
  readonly services: readonly StandInService[];
  /** Where the values of items come from. */
  readonly origins: readonly { readonly serverId: string; readonly path: string; readonly origin: ItemOrigin }[];
  /** The plant’s authority; its key is encrypted with a passphrase that is not handed over. */
  readonly authority: {
    readonly certificatePem: string;
    readonly encryptedKeyPem: string;
    readonly formerCertificatePem: string;
    readonly crlPem: string;
    readonly revoked: readonly { readonly serialNumber: string; readonly since: string; readonly reason: string }[];
  };
}

/** Writes the handover for its owner alone. */
export async function writeHandover(file: string, handover: Handover): Promise<void> {
  await writeFile(file, JSON.stringify(handover), { mode: 0o600 });
}
