import { createPrivateKey, createPublicKey, webcrypto } from 'node:crypto';
import { hostname, networkInterfaces } from 'node:os';
import { algorithmOf, importPrivateKey, makeSigningRequest } from '@loyal-hinge/core/issuing';
import type { KeyKind } from '@loyal-hinge/core/issuing';

/** What a request asks for, beside its key. */
export interface RequestWish {
  readonly commonName: string;
  readonly applicationUri: string;
  readonly hosts: readonly string[];
}

/** A request (PKCS#10, DER) for a key that lies here, in PEM; null: no request is made for keys of its kind. */
export async function requestForKey(keyPem: string, { commonName, ...wish }: RequestWish): Promise<Uint8Array | null> {
  const key = createPrivateKey(keyPem);
  const { asymmetricKeyType: type, asymmetricKeyDetails: about } = key;
  const kind: KeyKind | null =
    type === 'rsa' ? 'RSA 2048' : type === 'ec' && about?.namedCurve === 'prime256v1' ? 'P-256' : null;
  if (kind === null) return null;
  const [pkcs8, spki] = [
    key.export({ format: 'der', type: 'pkcs8' }),
    createPublicKey(key).export({ format: 'der', type: 'spki' }),
  ];
  const keys = {
    privateKey: await importPrivateKey(kind, pkcs8),
    publicKey: await webcrypto.subtle.importKey('spki', spki, algorithmOf(kind), true, ['verify']),
  };
  return makeSigningRequest({ subject: { commonName, organization: '' }, ...wish, kind, keys });
}

/** The names and addresses that this computer goes by. */
export function namesHere(): readonly string[] {
  const addresses = Object.values(networkInterfaces()).flatMap((all) =>
    (all ?? []).filter(({ address }) => !address.startsWith('fe80')).map(({ address }) => address),
  );
  return [...new Set([hostname(), 'localhost', ...addresses])].slice(0, 20);
}
