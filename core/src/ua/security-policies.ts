/** Message security modes (Part 4 §7.20). */
export const securityModes = ['None', 'Sign', 'SignAndEncrypt'] as const;
export type SecurityMode = (typeof securityModes)[number];

/** Security policies of Part 7 that the product knows. */
export const securityPolicyNames = [
  'None',
  'Basic128Rsa15',
  'Basic256',
  'Basic256Sha256',
  'Aes128_Sha256_RsaOaep',
  'Aes256_Sha256_RsaPss',
] as const;
export type SecurityPolicyName = (typeof securityPolicyNames)[number];

export interface SecurityPolicy {
  readonly name: SecurityPolicyName;
  readonly uri: string;
  /** Greater is better; 0 is no security at all. */
  readonly strength: number;
  readonly deprecated: boolean;
  /** Allowed RSA key lengths in bits. */
  readonly keyBits: { readonly least: number; readonly most: number } | null;
  /** Hash algorithms that may stand in an application certificate's signature. */
  readonly certificateHashes: readonly string[];
  readonly source: string;
}

const uriOf = (name: string): string => `http://opcfoundation.org/UA/SecurityPolicy#${name}`;

export const securityPolicies: Readonly<Record<SecurityPolicyName, SecurityPolicy>> = {
  None: {
    name: 'None',
    uri: uriOf('None'),
    strength: 0,
    deprecated: false,
    keyBits: null,
    certificateHashes: [],
    source: 'Part 7, None',
  },
  Basic128Rsa15: {
    name: 'Basic128Rsa15',
    uri: uriOf('Basic128Rsa15'),
    strength: 1,
    deprecated: true,
    keyBits: { least: 1024, most: 2048 },
    certificateHashes: ['SHA-1', 'SHA-256'],
    source: 'Part 7, deprecated with 1.04',
  },
  Basic256: {
    name: 'Basic256',
    uri: uriOf('Basic256'),
    strength: 2,
    deprecated: true,
    keyBits: { least: 1024, most: 2048 },
    certificateHashes: ['SHA-1', 'SHA-256'],
    source: 'Part 7, deprecated with 1.04',
  },
  Aes128_Sha256_RsaOaep: {
    name: 'Aes128_Sha256_RsaOaep',
    uri: uriOf('Aes128_Sha256_RsaOaep'),
    strength: 3,
    deprecated: false,
    keyBits: { least: 2048, most: 4096 },
    certificateHashes: ['SHA-256', 'SHA-384', 'SHA-512'],
    source: 'Part 7, Aes128-Sha256-RsaOaep',
  },
  Basic256Sha256: {
    name: 'Basic256Sha256',
    uri: uriOf('Basic256Sha256'),
    strength: 4,
    deprecated: false,
    keyBits: { least: 2048, most: 4096 },
    certificateHashes: ['SHA-256', 'SHA-384', 'SHA-512'],
    source: 'Part 7, Basic256Sha256',
  },
  Aes256_Sha256_RsaPss: {
    name: 'Aes256_Sha256_RsaPss',
    uri: uriOf('Aes256_Sha256_RsaPss'),
    strength: 5,
    deprecated: false,
    keyBits: { least: 2048, most: 4096 },
    certificateHashes: ['SHA-256', 'SHA-384', 'SHA-512'],
    source: 'Part 7, Aes256-Sha256-RsaPss',
  },
};

const byUri = new Map(Object.values(securityPolicies).map((policy) => [policy.uri, policy]));

/** The policy behind a SecurityPolicyUri, or null where it is none that the product knows. */
export const securityPolicyOf = (uri: string): SecurityPolicy | null => byUri.get(uri) ?? null;

const modeStrength: Readonly<Record<SecurityMode, number>> = { None: 0, Sign: 1, SignAndEncrypt: 2 };

/** Orders modes: greater protects more. */
export const strengthOfMode = (mode: SecurityMode): number => modeStrength[mode];
