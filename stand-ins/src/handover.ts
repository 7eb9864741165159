import { writeFile } from 'node:fs/promises';
import type { Plant } from '@loyal-hinge/core';

/** What the product needs to know to act for the made-up plant's engineer. It holds keys and passwords. */
export interface Handover {
  readonly plant: Plant;
  /** Address and port of the plant's name server. */
  readonly nameServer: string;
  readonly clients: readonly {
    readonly applicationId: string;
    readonly privateKeyPem: string;
    readonly certificatePem: string;
    readonly trustedPem: readonly string[];
  }[];
  readonly passwords: readonly { readonly linkId: string; readonly password: string }[];
  readonly doors: readonly { readonly applicationId: string; readonly url: string; readonly token: string }[];
}

/** Writes the handover for its owner alone. */
export async function writeHandover(file: string, handover: Handover): Promise<void> {
  await writeFile(file, JSON.stringify(handover), { mode: 0o600 });
}
