import { isAuditType, reportOf } from './audit-events.js';
import type { AuditFields } from './audit-events.js';

const event = (typeId: string, differs: Partial<AuditFields> = {}): AuditFields => ({
  typeId,
  at: '2026-03-01T12:00:00.000Z',
  sourceName: '',
  message: '',
  status: true,
  code: null,
  user: null,
  node: null,
  attributeId: null,
  before: null,
  after: null,
  method: null,
  endpointUrl: null,
  ...differs,
});

describe('what a server says of itself', () => {
  it.each<[string, AuditFields, string, string, string]>([
    ['a session', event('i=2071'), 'session', 'done', 'A session was created.'],
    [
      'its end',
      event('i=2069', { sourceName: 'Session/Timeout' }),
      'session',
      'done',
      'A session ended, since nothing came over it any more.',
    ],
    [
      'a sign-in that was refused',
      event('i=2075', { status: false, code: 'BadUserAccessDenied' }),
      'sign-in',
      'refused',
      'A sign-in was refused. Bad',
    ],
    [
      'a sign-in of which it says no more',
      event('i=2075', { status: null }),
      'sign-in',
      'unknown',
      'Somebody signed in.',
    ],
    [
      // Whatever its status says: such an event is only sent where a certificate did not stand the test.
      'a certificate',
      event('i=2087'),
      'certificate',
      'refused',
      'A certificate was refused: it is not trusted.',
    ],
    [
      'a write',
      event('i=2100', { node: 'Lehr/Speed', attributeId: 13, before: '1', after: '2' }),
      'write',
      'done',
      'Written to Lehr/Speed: 1 → 2.',
    ],
    [
      'a write of another attribute that was refused',
      event('i=2100', { status: false, node: 'Lehr', attributeId: 4, after: 'x' }),
      'write',
      'refused',
      'A write to Lehr was refused (attribute 4): nothing → x.',
    ],
    [
      // The server tells of it, and lets the client go on.
      'a name that it does not have',
      event('i=2748', { status: null, endpointUrl: 'opc.tcp://10.0.0.1:4840' }),
      'session',
      'unknown',
      'A client asked for a host that the server does not go by: opc.tcp://10.0.0.1:4840.',
    ],
    ['a call', event('i=2127', { method: 'Restart' }), 'method', 'done', 'The method Restart was called.'],
    ['something else', event('i=2052', { message: 'Key turned' }), 'other', 'done', 'Key turned'],
    ['nothing at all', event('i=2052'), 'other', 'done', 'Something of which the server says no more.'],
  ])('%s is told in words', (_, fields, kind, outcome, says) => {
    const report = reportOf(fields);
    expect([report.kind, report.outcome]).toEqual([kind, outcome]);
    expect(report.says.startsWith(says)).toBe(true);
  });

  it('is an audit event only where its type is one', () => {
    expect([isAuditType('i=2075'), isAuditType('i=2041'), isAuditType('ns=2;i=2075')]).toEqual([true, false, false]);
  });
});
