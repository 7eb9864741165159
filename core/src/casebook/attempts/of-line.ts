import { isAddressLiteral } from '../../links/endpoint-url.js';
import type { FactBody } from '../../links/facts.js';
import { statusCodeKnown } from '../../ua/status-codes.js';
import type { RecordEvent, TextEvent } from '../log/log-event.js';
import type { Attempt, AttemptPlace, AttemptSource } from './attempt.js';

/** What a line that fits a reading rule means. */
export interface LineMeaning {
  /** The machine that writes such lines, where they don’t say to whom somebody came; empty: nobody knows. */
  readonly machine: string;
  /** Whether what such a line tells of has failed, where it holds no code that says so. */
  readonly means: 'failed' | 'worked';
}

const mostLetters = 300;
const ofUsers = new Set([
  'BadUserAccessDenied',
  'BadIdentityTokenRejected',
  'BadIdentityTokenInvalid',
  'BadUserSignatureInvalid',
]);

/**
 * What a line shows of an attempt by the parts that a reading rule names: `from`, `to`, `port`, `who`, `code` and `text`; of a row
 * of a table, or an object, by what bears these names.
 * @returns null: it says neither who nor from where, or not when
 */
export function attemptOfLine(
  event: TextEvent | RecordEvent,
  { machine, means }: LineMeaning,
  { fileId, clockAheadMs }: AttemptSource,
): Attempt | null {
  const parts = new Map(Object.entries(event.data).map(([name, value]) => [name.toLowerCase(), value.trim()]));
  const part = (name: string): string | null => parts.get(name) || null;
  const [from, who] = [part('from'), part('who')];
  if (event.time === null || (from === null && who === null)) return null;
  const at = Date.parse(event.time) - clockAheadMs;
  const code = codeIn(part('code'));
  const port = /^\d{1,5}$/.test(part('port') ?? '') ? Number(part('port')) : null;
  const words = part('text') ?? (event.kind === 'text' ? event.text : Object.values(event.data).join(', '));
  const says = words.length > mostLetters ? `${words.slice(0, mostLetters)}…` : words;
  return {
    kind: code !== '' ? 'ua' : null,
    from: placeOf(from, null),
    to: placeOf(part('to') ?? (machine || null), port),
    as: who,
    start: at,
    end: at,
    ended: { hasFailed: code.startsWith('Bad') || (code === '' && means === 'failed'), code, says },
    facts: factsOf(code, who),
    remarks: [],
    evidence: [{ fileId, position: event.position, says }],
  };
}

/** A status code of UA by its name, as it is printed or as it is spelt; empty: it is none. */
const codeIn = (text: string | null): string => (text === null ? '' : (statusCodeKnown(text)?.name ?? ''));

const placeOf = (text: string | null, port: number | null): AttemptPlace =>
  text !== null && isAddressLiteral(text) ? { address: text, name: null, port } : { address: null, name: text, port };

const factsOf = (code: string, who: string | null): FactBody[] =>
  ofUsers.has(code)
    ? [
        {
          kind: 'session',
          tokenType: who === null ? 'Anonymous' : 'UserName',
          passwordInClear: false,
          ms: 0,
          outcome: 'refused',
          code,
          reason: '',
          during: 'ActivateSession',
        },
      ]
    : [];
