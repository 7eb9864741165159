/** Authentication levels (MS-RPCE 2.2.1.1.8). */
export const levels = { none: 1, connect: 2, call: 3, packet: 4, integrity: 5, privacy: 6 } as const;
export type Level = keyof typeof levels;
export const levelOf = (number: number): Level | null =>
  (Object.keys(levels) as Level[]).find((level) => levels[level] === number) ?? null;

/** Security services (MS-RPCE 2.2.1.1.7). */
export const services = { spnego: 9, ntlm: 10, kerberos: 16 } as const;

/** What both sides have agreed on: signs, and seals, what goes, and looks at what comes. Each is asked in the order of the wire. */
export interface AgreedSecurity {
  readonly signatureOctets: number;
  sign(message: Uint8Array): Uint8Array;
  isSigned(message: Uint8Array, signature: Uint8Array): boolean;
  /**
   * Encrypts a part of a message in its place.
   * @returns the signature of the message as it was before
   */
  seal(message: Uint8Array, from: number, to: number): Uint8Array;
  /** Decrypts a part of a message in its place. @returns whether its signature is right */
  unseal(message: Uint8Array, from: number, to: number, signature: Uint8Array): boolean;
}

/** A client’s side of agreeing: a token that goes with the bind, and one that answers what came back. */
export interface ClientAgreement {
  readonly service: number;
  readonly level: Level;
  readonly first: Uint8Array;
  /** @throws {WireFault} where the answer is none */
  answer(challenge: Uint8Array): { readonly token: Uint8Array; readonly security: AgreedSecurity };
}

export interface SaidAccount {
  readonly user: string;
  readonly domain: string;
  readonly workstation: string;
  /** Whether its password was looked at. Where it is not known here, only the name can be told. */
  readonly isProven: boolean;
}

/** Who calls, as a server sees it. */
export interface Caller {
  /** null: nobody says who it is. */
  readonly account: SaidAccount | null;
  readonly level: Level;
  readonly address: string;
}

/** A server’s side of agreeing. */
export interface ServerAgreement {
  /** The challenge that answers the first token. @throws {WireFault} where the token is none */
  readonly challenge: Uint8Array;
  /** Who it is, or why it isn’t let in; that shows at the first call, since nothing answers the third leg (MS-RPCE 3.3.1.5.2). */
  take(
    token: Uint8Array,
  ): { readonly account: Caller['account']; readonly security: AgreedSecurity } | { readonly refused: string };
}

/** How a server agrees with whoever binds. */
export type Agreeing = (
  first: Uint8Array,
  peer: { readonly address: string; readonly level: Level },
) => ServerAgreement;

/** Whether a level puts a verifier onto each PDU. With a connection, packet means integrity, as NTLM has nothing between. */
export const protects = (level: Level): boolean => level !== 'none' && level !== 'connect';
