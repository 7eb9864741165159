import { readCertificate, readCrl } from '@loyal-hinge/core';
import type { RevocationReason } from '@loyal-hinge/core';
import type { Queryable } from '../../database/database.js';
import type { SecretStore } from '../../secrets/sealing.js';
import { keepCrl } from '../../certificates/crls.js';
import { keepCertificate } from '../../certificates/store.js';
import { kindOf } from './given.js';
import { authorityKeyOf, keepAuthority, noteCrl, noteRevoked } from './store.js';

/** Takes over what an authority had signed and revoked before it came here. */
export async function takeOverAuthority(
  tx: Queryable,
  secrets: SecretStore,
  given: {
    readonly certificate: Uint8Array;
    readonly encryptedKeyPem: string | null;
    readonly crl: Uint8Array | null;
    readonly revoked: readonly {
      readonly serialNumber: string;
      readonly since: string;
      readonly reason: RevocationReason;
    }[];
    readonly isCurrent: boolean;
  },
): Promise<void> {
  const read = readCertificate(given.certificate);
  if (!read.ok) throw new Error(read.says);
  const thumbprint = (await keepCertificate(tx, given.certificate)) ?? '';
  const keyKind = given.encryptedKeyPem === null ? null : kindOf(read.certificate);
  await keepAuthority(tx, { thumbprint, keyKind, isCurrent: given.isCurrent });
  if (given.encryptedKeyPem !== null) await secrets.keep(tx, authorityKeyOf(thumbprint), given.encryptedKeyPem, null);
  for (const { serialNumber, since, reason } of given.revoked)
    await noteRevoked(tx, thumbprint, serialNumber, since, reason);
  if (!given.crl) return;
  const [crlId, crl] = [await keepCrl(tx, given.crl), readCrl(given.crl)];
  if (crlId && crl.ok) await noteCrl(tx, [thumbprint], Number.parseInt(crl.crl.number ?? '0', 16), crlId);
}
