import { byNumber } from '../links/wording.js';
import type { Instant } from '../time.js';
import type { SecurityMode } from '../ua/security-policies.js';

/** A session as its server tells of it (SessionDiagnosticsDataType, SessionSecurityDiagnosticsDataType; Part 5 §12.11, §12.12). */
export interface ServerSession {
  readonly id: string;
  readonly name: string;
  readonly applicationUri: string;
  readonly applicationName: string;
  /** As the server calls the user; null: it does not tell. */
  readonly user: string | null;
  /** Such as Anonymous or UserName; empty: it does not tell. */
  readonly mechanism: string;
  /** null: it does not tell. */
  readonly mode: SecurityMode | null;
  readonly policyUri: string;
  readonly connectedAt: Instant | null;
  readonly lastContactAt: Instant | null;
  readonly subscriptions: number;
  readonly items: number;
  /** Requests that were refused since the user may not do what they ask for. */
  readonly unauthorized: number;
  /** It is the one by which all this was read. */
  readonly isOwn: boolean;
}

/** Sessions of a server since it was started (ServerDiagnosticsSummaryDataType, Part 5 §12.9). */
export interface SessionCounts {
  readonly now: number;
  readonly ever: number;
  readonly refused: number;
  /** Of those that were refused. */
  readonly refusedForSecurity: number;
  readonly timedOut: number;
  readonly aborted: number;
}

export interface ServerSessions {
  /** Whether the server keeps such counts (EnabledFlag, Part 5 §6.3.3); null: it does not tell. */
  readonly isCounting: boolean | null;
  readonly counts: SessionCounts | null;
  /** null: it does not tell of single sessions, or this user may not see them. */
  readonly sessions: readonly ServerSession[] | null;
}

export interface SaidOfSession {
  readonly grade: 'fails' | 'weak';
  readonly says: string;
}

/** What is weak about a session; nothing of our own. @param known the application URIs of the plant */
export function weaknessesOfSession(session: ServerSession, known: ReadonlySet<string>): readonly SaidOfSession[] {
  if (session.isOwn) return [];
  return [
    ...(session.mode === 'None' ? [{ grade: 'fails' as const, says: 'Nothing secures its channel.' }] : []),
    ...(session.mechanism === 'Anonymous' ? [{ grade: 'weak' as const, says: 'It signed in without a name.' }] : []),
    ...(known.has(session.applicationUri)
      ? []
      : [{ grade: 'weak' as const, says: 'The plant does not know this application.' }]),
  ];
}

/** Who is connected, in a sentence: that nobody is, and that all are secured, are told apart. */
export function sayServerSessions({ isCounting, counts, sessions }: ServerSessions): string {
  const others = sessions?.filter(({ isOwn }) => !isOwn) ?? null;
  if (others === null && counts === null)
    return isCounting === false ? 'The server counts no sessions.' : 'The server does not tell of its sessions.';
  const now = others?.length ?? Math.max(0, (counts?.now ?? 1) - 1);
  const clauses = [
    now === 0
      ? 'Nobody else is connected'
      : byNumber(now, '# session beside our own', '# sessions beside our own') + howSecured(others ?? []),
    ...(counts === null ? [] : [`${counts.ever} since the server was started`, ...refusedOf(counts)]),
  ];
  return `${clauses.join('; ')}.`;
}

function howSecured(others: readonly ServerSession[]): string {
  const open = others.filter(({ mode }) => mode === 'None').length;
  if (open > 0) return `, ${open} without security`;
  if (others.length === 0 || others.some(({ mode }) => mode === null)) return '';
  return others.length === 1 ? ', secured' : ', all secured';
}

function refusedOf({ refused, refusedForSecurity }: SessionCounts): readonly string[] {
  if (refused === 0) return [];
  return [`${refused} refused${refusedForSecurity > 0 ? `, ${refusedForSecurity} of them for security` : ''}`];
}
