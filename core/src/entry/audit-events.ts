import { explainedStatusCode } from '../ua/status-codes.js';
import type { Instant } from '../time.js';

/** What an audit event of a server is about (Part 5 §6.4). */
export const reportKinds = [
  'channel',
  'session',
  'sign-in',
  'certificate',
  'write',
  'history',
  'method',
  'nodes',
  'alarm',
  'other',
] as const;
export type ReportKind = (typeof reportKinds)[number];

/** Fields of an audit event as they came; null: the event has none such. */
export interface AuditFields {
  /** Node id of its type, or of the nearest type above it that the standard names: such as `i=2075`. */
  readonly typeId: string;
  readonly at: Instant | null;
  readonly sourceName: string;
  readonly message: string;
  /** Whether what was tried was done. */
  readonly status: boolean | null;
  /** Name of a status code (StatusCodeId, since 1.05). */
  readonly code: string | null;
  /** ClientUserId, or the name in the identity token. */
  readonly user: string | null;
  /** The node that something was done with. */
  readonly node: string | null;
  /** Part 4 §5.10.2: 13 is the value. */
  readonly attributeId: number | null;
  readonly before: string | null;
  readonly after: string | null;
  readonly method: string | null;
  readonly endpointUrl: string | null;
}

/** What a server says of itself that happened. */
export interface ServerReport {
  readonly kind: ReportKind;
  readonly outcome: 'done' | 'refused' | 'unknown';
  readonly says: string;
  /** Name of the status code by which it was refused; null: it was not, or the event has none. */
  readonly code: string | null;
}

/** Types of audit events that the standard names, by node id. */
const kinds: Readonly<Record<string, ReportKind>> = {
  'i=2058': 'channel',
  'i=2059': 'channel',
  'i=2060': 'channel',
  'i=2069': 'session',
  'i=2071': 'session',
  'i=2078': 'session',
  'i=2748': 'session',
  'i=2075': 'sign-in',
  'i=2080': 'certificate',
  'i=2082': 'certificate',
  'i=2085': 'certificate',
  'i=2086': 'certificate',
  'i=2087': 'certificate',
  'i=2088': 'certificate',
  'i=2089': 'certificate',
  'i=2090': 'nodes',
  'i=2091': 'nodes',
  'i=2093': 'nodes',
  'i=2095': 'nodes',
  'i=2097': 'nodes',
  'i=2099': 'write',
  'i=2100': 'write',
  'i=2104': 'history',
  'i=2999': 'history',
  'i=3006': 'history',
  'i=3012': 'history',
  'i=2127': 'method',
  'i=2315': 'method',
  'i=2790': 'alarm',
  'i=2052': 'other',
};

/** Whether the standard names it as a type of audit events. */
export const isAuditType = (typeId: string): boolean => typeId in kinds;

const refusedCertificates: Readonly<Record<string, string>> = {
  'i=2082': 'it is of another application or host than it should be',
  'i=2085': 'it is out of date',
  'i=2086': 'it is not valid',
  'i=2087': 'it is not trusted',
  'i=2088': 'it is revoked',
  'i=2089': 'it is not meant for this use',
};

/** Part 5 §6.4.7: how a session ended stands in the name of its source. */
const endings: Readonly<Record<string, string>> = {
  'Session/Timeout': 'A session ended, since nothing came over it any more.',
  'Session/Terminated': 'A session was ended by the server.',
  'Session/Forcing': 'A session was ended by the server.',
  'Session/CloseSession': 'A session was closed by its client.',
};

const valueAttribute = 13;

/** Says in words what an audit event tells. */
export function reportOf(fields: AuditFields): ServerReport {
  const kind = kinds[fields.typeId] ?? 'other';
  const isRefused = fields.status === false || kind === 'certificate';
  const outcome = isRefused ? 'refused' : fields.status === true ? 'done' : 'unknown';
  const why = isRefused && fields.code !== null ? ` ${explainedStatusCode(fields.code)}` : '';
  return { kind, outcome, says: `${sentence(kind, isRefused, fields)}${why}`, code: isRefused ? fields.code : null };
}

function sentence(kind: ReportKind, isRefused: boolean, fields: AuditFields): string {
  const { typeId, sourceName, message, endpointUrl } = fields;
  const node = fields.node ?? 'a node';
  switch (kind) {
    case 'channel':
      return isRefused ? 'A secure channel was refused.' : 'A secure channel was opened.';
    case 'session':
      if (typeId === 'i=2748') return `A client asked for a host that the server does not go by: ${endpointUrl ?? ''}.`;
      if (typeId === 'i=2078') return 'A request was cancelled.';
      if (isRefused) return 'A session was refused.';
      return typeId === 'i=2071'
        ? 'A session was created.'
        : (endings[sourceName] ?? 'Something happened to a session.');
    case 'sign-in':
      return isRefused ? 'A sign-in was refused.' : 'Somebody signed in.';
    case 'certificate':
      return `A certificate was refused: ${refusedCertificates[typeId] ?? 'it did not stand the test'}.`;
    case 'write':
      return isRefused ? `A write to ${node} was refused${values(fields)}.` : `Written to ${node}${values(fields)}.`;
    case 'history':
      return isRefused
        ? `A change of what is recorded of ${node} was refused.`
        : `What is recorded of ${node} was changed.`;
    case 'method':
      return `The method ${fields.method ?? sourceName} ${isRefused ? 'was refused' : 'was called'}.`;
    case 'nodes':
      return isRefused ? 'A change of its nodes was refused.' : 'Nodes were added or removed.';
    case 'alarm':
      return message || 'An alarm was handled.';
    case 'other':
      return message || sourceName || 'Something of which the server says no more.';
  }
}

function values({ attributeId, before, after }: AuditFields): string {
  const what = attributeId === null || attributeId === valueAttribute ? '' : ` (attribute ${attributeId})`;
  return before === null && after === null ? what : `${what}: ${before ?? 'nothing'} → ${after ?? 'nothing'}`;
}
