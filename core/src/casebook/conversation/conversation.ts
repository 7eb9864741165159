import type { ConnectionLimits } from '../../ua/tcp-messages.js';
import type { TokenType } from '../../ua/user-tokens.js';

/** How a conversation ended, as far as TCP tells. */
export const conversationOutcomes = [
  'closed',
  'left-open',
  'reset-by-client',
  'reset-by-server',
  'refused',
  'silent',
  'prohibited',
  'cut-off',
] as const;
export type ConversationOutcome = (typeof conversationOutcomes)[number];

export type Protocol = 'opc.tcp' | 'dcerpc' | 'tls' | 'tcp';

export interface Place {
  readonly address: string;
  readonly port: number;
}

/** A call of a service that could be read. */
export interface HeardService {
  readonly name: string;
  /** Microseconds since 1970. */
  readonly at: number;
  /** The name of its status; null: no answer was seen. */
  readonly result: string | null;
}

/** By what a protocol itself said that it ends. */
export interface HeardError {
  readonly code: number;
  readonly name: string;
  readonly reason: string;
}

/** What a protocol’s own messages tell of a conversation. */
export interface Told {
  readonly endpointUrl?: string | undefined;
  readonly securityPolicyUri?: string | undefined;
  readonly securityMode?: string | undefined;
  readonly senderThumbprint?: string | undefined;
  readonly receiverThumbprint?: string | undefined;
  /** The certificate that the client showed when it opened a channel, DER, and those that signed it. */
  readonly senderCertificate?: Uint8Array | undefined;
  /** Messages of UA that were encrypted. */
  readonly hiddenMessages?: number | undefined;
  readonly services?: readonly HeardService[] | undefined;
  readonly error?: HeardError | undefined;
  readonly user?: string | undefined;
  readonly interfaces?: readonly string[] | undefined;
  readonly hresult?: number | undefined;
  /** What a server of UA acknowledged. */
  readonly limits?: ConnectionLimits | undefined;
  /** How a session of UA was activated. */
  readonly signedInBy?: TokenType | undefined;
  /** A password went over the connection in clear text. */
  readonly hasClearPassword?: boolean | undefined;
  /** The level at which RPC was called, by its number (MS-RPCE 2.2.1.1.8). */
  readonly callLevel?: number | undefined;
  readonly notes: readonly string[];
}

/** One connection between two machines, from its first packet to its last. */
export interface Conversation extends Told {
  readonly protocol: Protocol;
  /** Who has asked for the connection. */
  readonly client: Place;
  readonly server: Place;
  /** Of its first packet, in microseconds since 1970. */
  readonly start: number;
  /** Of its last packet. */
  readonly end: number;
  /** All TCP packets, repeated ones too. */
  readonly packets: number;
  /** Payload of both ways, without repeats. */
  readonly bytes: number;
  readonly outcome: ConversationOutcome;
  /** Who closed it, where both did; absent: it was not closed. */
  readonly closedFirstBy?: 'client' | 'server' | undefined;
  /** Where its first packet begins in the file, in bytes. */
  readonly position: number;
}
