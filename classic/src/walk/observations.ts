import type { Variant } from '../automation/variant.js';
import type { StringBinding } from '../dcom/bindings.js';
import { ComFailure } from '../dcom/interfaces.js';
import type { ToldTarget } from '../ntlm/client.js';
import type { Guid } from '../octets/guid.js';
import type { ListedServer, ServerStatus } from '../opc/client.js';
import { RpcFault, RpcProblem } from '../rpc/problems.js';
import type { ProblemKind } from '../rpc/problems.js';
import type { Level } from '../rpc/security.js';

/** The steps of a classic link, in their order. */
export const classicSteps = [
  'name',
  'reach',
  'mapper',
  'bindings',
  'sign-in',
  'class',
  'activation',
  'object-port',
  'access',
  'browse',
  'read',
  'watch',
  'write',
] as const;
export type ClassicStep = (typeof classicSteps)[number];

/** Why something came to nothing: on the way, by a fault of the call, or by the code of a method. */
export type Problem =
  | { readonly by: 'way'; readonly kind: ProblemKind; readonly says: string }
  | { readonly by: 'fault'; readonly code: number }
  | { readonly by: 'method'; readonly code: number };

/** @throws what is none of them: that is a mistake of ours */
export function problemOf(error: unknown): Problem {
  if (error instanceof RpcProblem) return { by: 'way', kind: error.kind, says: error.message };
  if (error instanceof RpcFault) return { by: 'fault', code: error.status >>> 0 };
  if (error instanceof ComFailure) return { by: 'method', code: error.hresult };
  throw error;
}

export type PortOutcome = 'open' | ProblemKind;

/** What a place is that a server advertises, as it looks from the client’s machine. */
export interface SeenPlace extends Pick<StringBinding, 'host' | 'port'> {
  /** What its host means here; empty: nothing. */
  readonly addresses: readonly string[];
  /** null: it was not dialled, as it may not be, or means nothing. */
  readonly outcome: PortOutcome | null;
}

export interface ReadItem {
  readonly itemId: string;
  /** Why it could not be added, or read; 0: it could. */
  readonly error: number;
  /** The type and the rights that the server gives it; null: it could not be added. */
  readonly type: number | null;
  readonly accessRights: number | null;
  readonly quality: number | null;
  readonly timestamp: number | null;
  readonly value: Variant | null;
}

/** What was seen at each step; judged by nobody yet. */
export type Observation =
  | { readonly step: 'name'; readonly addresses: readonly string[] }
  | {
      readonly step: 'reach';
      readonly tried: readonly { readonly address: string; readonly outcome: PortOutcome; readonly ms: number }[];
    }
  | {
      readonly step: 'mapper';
      readonly version: { readonly major: number; readonly minor: number } | null;
      readonly bindings: readonly Pick<StringBinding, 'host' | 'port'>[];
      readonly services: readonly number[];
      readonly problem: Problem | null;
    }
  | { readonly step: 'bindings'; readonly places: readonly SeenPlace[] }
  | {
      readonly step: 'sign-in';
      readonly level: Level;
      /** The name that was used; null: nobody’s. */
      readonly user: string | null;
      /** What the server says of itself; null: it did not come to that. */
      readonly target: ToldTarget | null;
      /** The server’s clock less ours, in milliseconds. */
      readonly clockMs: number | null;
      readonly problem: Problem | null;
      /** Whether the answer was signed by what both sides know of the password: at level connect nothing is. */
      readonly isProven: boolean;
      /** On which interface it was tried: COM’s own, or another where that is not there. */
      readonly at: 'mapper' | 'management' | 'endpoint mapper';
    }
  | {
      readonly step: 'class';
      readonly clsid: Guid | null;
      readonly progId: string | null;
      /** Where the class is from. */
      readonly by: 'given' | 'server list';
      /** What else the list has, where the name is unknown. */
      readonly others: readonly ListedServer[];
      readonly problem: Problem | null;
    }
  | {
      readonly step: 'activation';
      readonly places: readonly Pick<StringBinding, 'host' | 'port'>[];
      /** The level that calls are wanted at. */
      readonly level: Level | null;
      readonly problem: Problem | null;
    }
  | { readonly step: 'object-port'; readonly places: readonly SeenPlace[] }
  | { readonly step: 'access'; readonly status: ServerStatus | null; readonly problem: Problem | null }
  | {
      readonly step: 'browse';
      readonly nameSpace: 'hierarchical' | 'flat' | null;
      readonly count: number;
      readonly missing: readonly string[];
      /** Items that are there, some of them, where one is missing. */
      readonly some: readonly string[];
      /** Items that patterns stand for, some of them where `isWhole` is false, and how long it took to find them. */
      readonly patterns: readonly {
        readonly text: string;
        readonly items: readonly string[];
        readonly isWhole: boolean;
        readonly ms: number;
      }[];
      readonly problem: Problem | null;
    }
  | { readonly step: 'read'; readonly items: readonly ReadItem[]; readonly problem: Problem | null }
  | { readonly step: 'write'; readonly items: readonly WrittenItem[]; readonly problem: Problem | null }
  | {
      readonly step: 'watch';
      readonly wantedMs: number;
      readonly revisedMs: number | null;
      /** Where we said that we are to be called back. */
      readonly back: { readonly hosts: readonly string[]; readonly resolver: number; readonly objects: number } | null;
      readonly calls: readonly WatchCall[];
      /** Accounts that called back at a level that needs their password, which is not known here. */
      readonly unproven: readonly { readonly from: string; readonly account: string }[];
      /** Whoever called back without being meant. */
      readonly strangers: readonly string[];
      readonly problem: Problem | null;
    };

/** What became of writing an item with the value that it had. */
export interface WrittenItem {
  readonly itemId: string;
  /** `not read`: there was nothing to write back. */
  readonly outcome: 'same value' | 'other value' | 'refused' | 'not read';
  readonly error: number;
  readonly before: Variant | null;
  readonly after: Variant | null;
}

export interface WatchCall {
  readonly from: string;
  readonly account: string | null;
  readonly level: Level;
  readonly afterMs: number;
  readonly items: number;
}
