import { readFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import type { SecureContextOptions, TLSSocket } from 'node:tls';
import { readCrl, readPem } from '@loyal-hinge/core';
import type { Refusal, TunnelConfiguration } from '@loyal-hinge/contract/line';

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

/** Who was met at the other end of a secured connection. */
export interface Peer {
  readonly name: string;
  readonly fingerprint: string;
  /** In hexadecimal digits. */
  readonly serialNumber: string;
}
export type Met = { readonly ok: true; readonly peer: Peer } | { readonly ok: false; readonly refusal: Refusal };

/** Who is at the other end of a secured connection: one that is signed by the authority, and named as a peer. */
export function whoIs(socket: TLSSocket, { peers }: TunnelConfiguration): Met {
  const { fingerprint256, serialNumber } = socket.getPeerCertificate();
  if (!fingerprint256) return { ok: false, refusal: 'no certificate' };
  if (!socket.authorized) return { ok: false, refusal: 'certificate not valid' };
  const fingerprint = fingerprint256.replaceAll(':', '').toUpperCase();
  const peer = peers.find((each) => each.fingerprint === fingerprint);
  return peer
    ? { ok: true, peer: { name: peer.name, fingerprint, serialNumber } }
    : { ok: false, refusal: 'peer not named' };
}

/**
 * Whether somebody who was let in would be so still: `renewed` has another certificate by now, `no` is not named any more, or revoked
 * meanwhile.
 */
export async function isLetInStill(
  peer: Peer,
  configuration: TunnelConfiguration,
  folder: string,
): Promise<'yes' | 'renewed' | 'no'> {
  const named = configuration.peers.filter(({ name }) => name === peer.name);
  if (named.length === 0) return 'no';
  const standing = named.some(({ fingerprint }) => fingerprint === peer.fingerprint) ? 'yes' : 'renewed';
  if (configuration.revokedFile === undefined) return standing;
  const read = readPem(await readFile(resolve(folder, configuration.revokedFile), 'utf8'));
  const lists = (read.ok ? read.blocks : []).map(({ der }) => readCrl(der));
  const serial = BigInt(`0x${peer.serialNumber}`);
  const isRevoked = lists.some(
    (list) => list.ok && [...list.crl.revoked.keys()].some((each) => BigInt(`0x${each}`) === serial),
  );
  return isRevoked ? 'no' : standing;
}
