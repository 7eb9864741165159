import { cefLine, csvLine } from '@loyal-hinge/core';
import type { auditForms } from '@loyal-hinge/contract';
import type { AuditRow } from './trail.js';

export type TrailForm = (typeof auditForms)[number];

/** How a row of the trail is written for others: the name of the file, its kind, what stands above, and a line a row. */
interface Writing {
  readonly file: string;
  readonly type: string;
  readonly head: string | null;
  readonly end: string;
  readonly line: (row: AuditRow) => string;
}

export const trailWritings: Readonly<Record<TrailForm, Writing>> = {
  csv: {
    file: 'audit-trail.csv',
    type: 'text/csv',
    head: csvLine(['number', 'at (UTC)', 'who', 'what', 'about', 'details', 'hash']),
    end: '\r\n',
    line: ({ sequence, at, actor, action, subject, details, hash }) =>
      csvLine([String(sequence), at, actor, action, subject, JSON.stringify(details), hash]),
  },
  'json-lines': {
    file: 'audit-trail.jsonl',
    type: 'application/jsonl',
    head: null,
    end: '\n',
    line: ({ sequence, at, actor, action, subject, details, previousHash, hash }) =>
      JSON.stringify({ sequence, at, actor, action, subject, details, previousHash, hash }),
  },
  cef: { file: 'audit-trail.cef', type: 'text/plain', head: null, end: '\n', line: cefOf },
};

const device = ['Loyal Hinge', 'Loyal Hinge', '0.1'] as const;

/** What changes who may do what, or takes protection away, is worth more of a watcher’s time than what was looked at. */
const grave =
  /^(?:person|password|session|trust ended|step waived|exception made|write proof|item written|certificate)/;

function cefOf({ sequence, at, actor, action, subject, details, hash }: AuditRow): string {
  return cefLine({
    device,
    kind: action,
    name: `${action.charAt(0).toUpperCase()}${action.slice(1)}`,
    severity: grave.test(action) ? 5 : 3,
    extension: [
      ['rt', Date.parse(at)],
      ['externalId', sequence],
      ['suser', actor],
      ['act', action],
      ['cs1Label', 'about'],
      ['cs1', subject],
      ['cs2Label', 'hash'],
      ['cs2', hash],
      ['msg', JSON.stringify(details)],
    ],
  });
}
