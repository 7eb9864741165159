/** Keys that authorities and applications are made with. */
export const keyKinds = ['RSA 2048', 'RSA 3072', 'RSA 4096', 'P-256'] as const;
export type KeyKind = (typeof keyKinds)[number];

type Algorithm = RsaHashedKeyGenParams | (EcKeyGenParams & { readonly hash: string });

/** WebCrypto’s parameters of a kind of key; RSA signs with PKCS#1 v1.5 and SHA-256, as every OPC UA application can verify. */
export function algorithmOf(kind: KeyKind): Algorithm {
  if (kind === 'P-256') return { name: 'ECDSA', namedCurve: 'P-256', hash: 'SHA-256' };
  return {
    name: 'RSASSA-PKCS1-v1_5',
    hash: 'SHA-256',
    publicExponent: new Uint8Array([1, 0, 1]),
    modulusLength: Number(kind.slice(4)),
  };
}

export const signatureOf = (kind: KeyKind) =>
  kind === 'P-256'
    ? ({ name: 'ECDSA', hash: 'SHA-256' } as const)
    : ({ name: 'RSASSA-PKCS1-v1_5', hash: 'SHA-256' } as const);

/** A private key from PKCS#8 DER; throws where the key is of another kind. */
export const importPrivateKey = (kind: KeyKind, pkcs8: Uint8Array): Promise<CryptoKey> =>
  crypto.subtle.importKey('pkcs8', Uint8Array.from(pkcs8), algorithmOf(kind), true, ['sign']);

export const makeKeys = (kind: KeyKind): Promise<CryptoKeyPair> =>
  crypto.subtle.generateKey(algorithmOf(kind), true, ['sign', 'verify']) as Promise<CryptoKeyPair>;

/** PKCS#8 of a private key, SubjectPublicKeyInfo of a public one. */
export const exportKey = async (format: 'pkcs8' | 'spki', key: CryptoKey): Promise<Uint8Array> =>
  new Uint8Array(await crypto.subtle.exportKey(format, key));

/** A random positive serial number of 16 octets. */
export function freshSerialNumber(): string {
  const octets = crypto.getRandomValues(new Uint8Array(16));
  octets[0] = ((octets[0] ?? 0) & 0x3f) | 0x40;
  return [...octets].map((octet) => octet.toString(16).padStart(2, '0')).join('');
}
