import { readFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import type { SecureContextOptions, TLSSocket } from 'node:tls';
import type { TunnelConfiguration } from './configuration.js';
import type { Refusal } from './statistics.js';

/** Keys and certificates of an end, as its files say them now. */
export async function secureContextOf(
  configuration: TunnelConfiguration,
  folder: string,
): Promise<SecureContextOptions> {
  const read = (file: string): Promise<Buffer> => readFile(resolve(folder, file));
  const { certificateFile, keyFile, authorityFile, revokedFile } = configuration;
  const [cert, key, ca, crl] = await Promise.all([
    read(certificateFile),
    read(keyFile),
    read(authorityFile),
    revokedFile === undefined ? undefined : read(revokedFile),
  ]);
  return { cert, key, ca, ...(crl ? { crl } : {}), minVersion: 'TLSv1.3', maxVersion: 'TLSv1.3' };
}

export type Met = { readonly ok: true; readonly peer: string } | { readonly ok: false; readonly refusal: Refusal };

/** Who is at the other end of a secured connection: one that is signed by the authority, and named as a peer. */
export function whoIs(socket: TLSSocket, { peers }: TunnelConfiguration): Met {
  const { fingerprint256 } = socket.getPeerCertificate();
  if (!fingerprint256) return { ok: false, refusal: 'no certificate' };
  if (!socket.authorized) return { ok: false, refusal: 'certificate not valid' };
  const fingerprint = fingerprint256.replaceAll(':', '').toUpperCase();
  const peer = peers.find((each) => each.fingerprint === fingerprint);
  return peer ? { ok: true, peer: peer.name } : { ok: false, refusal: 'peer not named' };
}
