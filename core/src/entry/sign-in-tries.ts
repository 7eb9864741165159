import type { Instant } from '../time.js';

/** How signing in with one account went lately, over all links that use it. */
export interface SignInTries {
  /** Refusals in a row since it was last let in. */
  readonly refusals: number;
  /** Those of them with the very password that is to be sent now. */
  readonly withSamePassword: number;
  readonly refusedAt: Instant | null;
  readonly code: string;
}

/** A password that was refused is sent once more at most: somebody may have mended the account meanwhile. */
export const mostWithSamePassword = 2;
/** Accounts are commonly locked after five wrong passwords in a row: we stop before that, whichever passwords they were. */
export const mostRefusals = 4;
/** For so long after the last refusal nothing is sent. */
export const pauseMs = 30 * 60_000;

/** Codes by which a server refuses who signs in, rather than the session (Part 4 §5.7.3). */
export const refusedUserCodes: ReadonlySet<string> = new Set([
  'BadUserAccessDenied',
  'BadIdentityTokenRejected',
  'BadIdentityTokenInvalid',
  'BadUserSignatureInvalid',
]);

/** Until when a password is not sent, so that the account does not get locked; null: it may be sent. */
export function pausedUntil({ refusals, withSamePassword, refusedAt }: SignInTries, now: Instant): Instant | null {
  if (refusedAt === null || (withSamePassword < mostWithSamePassword && refusals < mostRefusals)) return null;
  const until = Date.parse(refusedAt) + pauseMs;
  return until > Date.parse(now) ? new Date(until).toISOString() : null;
}
