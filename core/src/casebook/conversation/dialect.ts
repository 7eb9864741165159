import type { Budget } from '../capture/budget.js';
import type { Protocol, Told } from './conversation.js';

/** Of the two ends of a connection: 0 has sent its first packet that was seen. */
export type End = 0 | 1;

/** A protocol that can be told by its bytes, on whichever port it is. */
export interface Dialect {
  readonly protocol: Protocol;
  /**
   * Whether what one end sends begins like this protocol.
   * @param head at most {@link headBytes} bytes; fewer where no more has come yet
   * @returns null: too few bytes to tell
   */
  recognises(head: Uint8Array): boolean | null;
  /** @param say is told each message, for who wants to read the conversation closely */
  listen(budget: Pick<Budget, 'take' | 'give'>, say?: Say): Listener;
}
export const headBytes = 16;

/** One message as an end has sent it. Its bytes are only there during the call. */
export interface SaidMessage {
  readonly from: End;
  /** What kind of message it is, by the name that the standard gives it. */
  readonly what: string;
  readonly isAnswer: boolean;
  /** How it went, where the message tells: an answer that all is well, a refusal or a fault. */
  readonly outcome: 'well' | 'badly' | null;
  /** In one sentence; empty: its kind says all. */
  readonly says: string;
  /** A code of COM or RPC that it holds. */
  readonly code?: number | undefined;
  readonly details: readonly (readonly [name: string, value: string])[];
  /** Bytes on the wire. */
  readonly size: number;
  readonly bytes: Uint8Array;
  /** Why its bytes are not to be shown; null: they may be. */
  readonly withheld: string | null;
}
export type Say = (message: SaidMessage) => void;

/** Follows one conversation in its protocol. Nothing that it hears may make it throw. */
export interface Listener {
  /**
   * The next bytes of an end: those from `begin` to `end` of these. They are only there during the call.
   * @param at microseconds since 1970
   */
  hear(from: End, bytes: Uint8Array, begin: number, end: number, at: number): void;
  /** So many bytes of an end are missing. */
  miss(from: End, count: number): void;
  /** Which end asks, as far as the messages show. */
  readonly asks: End | null;
  /** Whether something has begun and is not finished: part of a message, a call without its answer. */
  readonly isAmid: boolean;
  told(): Told;
  /** Nothing more comes; what is held is given back. */
  end(): void;
}
