import type { ReportKind } from '../../entry/audit-events.js';
import type { FactBody } from '../../links/facts.js';
import type { Attempt, AttemptPlace } from './attempt.js';

/** Something that a server refused, as its own audit event says (Part 5 §6.4). */
export interface HeardRefusal {
  /** By which the report is found again. */
  readonly fileId: string;
  readonly number: number;
  /** Milliseconds since 1970, by the server’s clock. */
  readonly at: number;
  readonly kind: ReportKind;
  /** Name of a status code; null: the event has none. */
  readonly code: string | null;
  readonly says: string;
  readonly user: string | null;
  /** Machines, as the plant calls them; null: nobody knows which. */
  readonly from: string | null;
  readonly to: string;
  readonly port: number | null;
}

const connecting: ReadonlySet<ReportKind> = new Set<ReportKind>(['channel', 'session', 'sign-in', 'certificate']);

/** An attempt to connect that a server says it refused: on secured channels nobody else can tell why. null: it is of something else. */
export function attemptOfReport({
  fileId,
  number,
  at,
  kind,
  code,
  says,
  user,
  from,
  to,
  port,
}: HeardRefusal): Attempt | null {
  if (!connecting.has(kind)) return null;
  const place = (name: string | null): AttemptPlace => ({ address: null, name, port: null });
  return {
    kind: 'ua',
    from: place(from),
    to: { ...place(to), port },
    as: user,
    start: at,
    end: at,
    ended: { hasFailed: true, code: code ?? '', says },
    facts: factsOf(kind, code, user),
    remarks: [],
    evidence: [{ fileId, position: number, says }],
  };
}

function factsOf(kind: ReportKind, code: string | null, user: string | null): FactBody[] {
  if (code === null || (kind !== 'sign-in' && kind !== 'session')) return [];
  const during = kind === 'session' ? 'CreateSession' : 'ActivateSession';
  const tokenType = user === null ? 'Anonymous' : 'UserName';
  return [{ kind: 'session', tokenType, passwordInClear: false, ms: 0, outcome: 'refused', code, reason: '', during }];
}
