/** Message security modes (Part 4 §7.20). */
export const securityModes = ['None', 'Sign', 'SignAndEncrypt'] as const;
export type SecurityMode = (typeof securityModes)[number];

/** Security policies of Part 7, weakest first within each family. */
export const securityPolicyNames = [
  'None',
  'Basic128Rsa15',
  'Basic256',
  'Basic256Sha256',
  'Aes128_Sha256_RsaOaep',
  'Aes256_Sha256_RsaPss',
  'ECC_nistP256',
  'ECC_nistP384',
  'ECC_brainpoolP256r1',
  'ECC_brainpoolP384r1',
  'ECC_curve25519',
  'ECC_curve448',
] as const;
export type SecurityPolicyName = (typeof securityPolicyNames)[number];

/** What a policy does its work with, by the names that Part 7 and the algorithms’ own standards use. */
export interface PolicyAlgorithms {
  /** Signs the messages that open a channel, and answers to a nonce. */
  readonly asymmetricSignature: string;
  /** Encrypts the messages that open a channel, and passwords; with elliptic curves a key is agreed upon instead. */
  readonly keyTransport: string;
  readonly symmetricSignature: string;
  readonly symmetricEncryption: string;
  readonly keyDerivation: string;
}

/** Which key the certificate of an application must have. */
export type PolicyKey =
  | { readonly kind: 'RSA'; readonly least: number; readonly most: number }
  | { readonly kind: 'EC' | 'Ed25519' | 'Ed448'; readonly curve: string };

export interface SecurityPolicy {
  readonly name: SecurityPolicyName;
  readonly uri: string;
  /** Greater is better; 0 is no security at all. */
  readonly strength: number;
  /** Version of the standard that deprecated it; null: it is current, or no security at all. */
  readonly deprecatedSince: string | null;
  /** null: it does nothing. */
  readonly algorithms: PolicyAlgorithms | null;
  readonly key: PolicyKey | null;
  /** Hash algorithms that may stand in an application certificate's signature; nobody’s rule where there are none. */
  readonly certificateHashes: readonly string[];
  readonly source: string;
}

const uriOf = (name: string): string => `http://opcfoundation.org/UA/SecurityPolicy#${name}`;

const sha1Too = ['SHA-1', 'SHA-256'];
const sha2 = ['SHA-256', 'SHA-384', 'SHA-512'];

const rsa = (
  name: SecurityPolicyName,
  strength: number,
  algorithms: PolicyAlgorithms,
  deprecatedSince: string | null = null,
): SecurityPolicy => ({
  name,
  uri: uriOf(name),
  strength,
  deprecatedSince,
  algorithms,
  key: deprecatedSince === null ? { kind: 'RSA', least: 2048, most: 4096 } : { kind: 'RSA', least: 1024, most: 2048 },
  certificateHashes: deprecatedSince === null ? sha2 : sha1Too,
  source: deprecatedSince === null ? `Part 7, ${name}` : `Part 7, ${name}, deprecated with ${deprecatedSince}`,
});

const curve = (
  name: SecurityPolicyName,
  strength: number,
  key: PolicyKey,
  algorithms: Omit<PolicyAlgorithms, 'keyTransport'>,
): SecurityPolicy => ({
  name,
  uri: uriOf(name),
  strength,
  deprecatedSince: null,
  algorithms: { ...algorithms, keyTransport: 'none: ephemeral keys are agreed upon (ECDH)' },
  key,
  certificateHashes: [],
  source: `Part 7, ${name}; Part 6 §6.8`,
});

const cbc = (bits: 128 | 256, hash: 'SHA256' | 'SHA384') => ({
  symmetricSignature: `HMAC-${hash}`,
  symmetricEncryption: `AES${bits}-CBC`,
  keyDerivation: `HKDF-${hash}`,
});
const chacha = {
  symmetricSignature: 'Poly1305',
  symmetricEncryption: 'ChaCha20-Poly1305',
  keyDerivation: 'HKDF-SHA256',
};

export const securityPolicies: Readonly<Record<SecurityPolicyName, SecurityPolicy>> = {
  None: {
    name: 'None',
    uri: uriOf('None'),
    strength: 0,
    deprecatedSince: null,
    algorithms: null,
    key: null,
    certificateHashes: [],
    source: 'Part 7, None',
  },
  Basic128Rsa15: rsa(
    'Basic128Rsa15',
    1,
    {
      asymmetricSignature: 'RSA-PKCS1-v1.5 with SHA-1',
      keyTransport: 'RSA-PKCS1-v1.5',
      symmetricSignature: 'HMAC-SHA1',
      symmetricEncryption: 'AES128-CBC',
      keyDerivation: 'P-SHA1',
    },
    '1.04',
  ),
  Basic256: rsa(
    'Basic256',
    2,
    {
      asymmetricSignature: 'RSA-PKCS1-v1.5 with SHA-1',
      keyTransport: 'RSA-OAEP with SHA-1',
      symmetricSignature: 'HMAC-SHA1',
      symmetricEncryption: 'AES256-CBC',
      keyDerivation: 'P-SHA1',
    },
    '1.04',
  ),
  Aes128_Sha256_RsaOaep: rsa('Aes128_Sha256_RsaOaep', 3, {
    asymmetricSignature: 'RSA-PKCS1-v1.5 with SHA-256',
    keyTransport: 'RSA-OAEP with SHA-1',
    symmetricSignature: 'HMAC-SHA256',
    symmetricEncryption: 'AES128-CBC',
    keyDerivation: 'P-SHA256',
  }),
  Basic256Sha256: rsa('Basic256Sha256', 4, {
    asymmetricSignature: 'RSA-PKCS1-v1.5 with SHA-256',
    keyTransport: 'RSA-OAEP with SHA-1',
    symmetricSignature: 'HMAC-SHA256',
    symmetricEncryption: 'AES256-CBC',
    keyDerivation: 'P-SHA256',
  }),
  Aes256_Sha256_RsaPss: rsa('Aes256_Sha256_RsaPss', 5, {
    asymmetricSignature: 'RSA-PSS with SHA-256',
    keyTransport: 'RSA-OAEP with SHA-256',
    symmetricSignature: 'HMAC-SHA256',
    symmetricEncryption: 'AES256-CBC',
    keyDerivation: 'P-SHA256',
  }),
  ECC_nistP256: curve(
    'ECC_nistP256',
    6,
    { kind: 'EC', curve: 'P-256' },
    { asymmetricSignature: 'ECDSA with SHA-256', ...cbc(128, 'SHA256') },
  ),
  ECC_brainpoolP256r1: curve(
    'ECC_brainpoolP256r1',
    7,
    { kind: 'EC', curve: 'brainpoolP256r1' },
    { asymmetricSignature: 'ECDSA with SHA-256', ...cbc(128, 'SHA256') },
  ),
  ECC_curve25519: curve(
    'ECC_curve25519',
    8,
    { kind: 'Ed25519', curve: 'Curve25519' },
    { asymmetricSignature: 'EdDSA (Ed25519)', ...chacha },
  ),
  ECC_nistP384: curve(
    'ECC_nistP384',
    9,
    { kind: 'EC', curve: 'P-384' },
    { asymmetricSignature: 'ECDSA with SHA-384', ...cbc(256, 'SHA384') },
  ),
  ECC_brainpoolP384r1: curve(
    'ECC_brainpoolP384r1',
    10,
    { kind: 'EC', curve: 'brainpoolP384r1' },
    { asymmetricSignature: 'ECDSA with SHA-384', ...cbc(256, 'SHA384') },
  ),
  ECC_curve448: curve(
    'ECC_curve448',
    11,
    { kind: 'Ed448', curve: 'Curve448' },
    { asymmetricSignature: 'EdDSA (Ed448)', ...chacha },
  ),
};

/** Those that protect and are not deprecated, best first. */
export const currentPolicies: readonly SecurityPolicy[] = Object.values(securityPolicies)
  .filter(({ strength, deprecatedSince }) => strength > 0 && deprecatedSince === null)
  .sort((left, right) => right.strength - left.strength);

const byUri = new Map(Object.values(securityPolicies).map((policy) => [policy.uri, policy]));

/** The policy behind a SecurityPolicyUri, or null where it is none that the product knows. */
export const securityPolicyOf = (uri: string): SecurityPolicy | null => byUri.get(uri) ?? null;

const modeStrength: Readonly<Record<SecurityMode, number>> = { None: 0, Sign: 1, SignAndEncrypt: 2 };

/** Orders modes: greater protects more. */
export const strengthOfMode = (mode: SecurityMode): number => modeStrength[mode];
