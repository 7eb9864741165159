import { attemptOfReport } from './of-report';
import type { HeardRefusal } from './of-report';

const refusal = (more: Partial<HeardRefusal> = {}): HeardRefusal => ({
  fileId: 'server furnace-server',
  number: 7,
  at: 1000,
  kind: 'sign-in',
  code: 'BadUserAccessDenied',
  says: 'A sign-in was refused.',
  user: 'display',
  from: 'DISPLAY',
  to: 'FURNACE',
  port: 4840,
  ...more,
});

describe('what a server says that it refused', () => {
  it('is an attempt with the facts of a live check', () => {
    expect(attemptOfReport(refusal())).toMatchObject({
      kind: 'ua',
      from: { name: 'DISPLAY' },
      to: { name: 'FURNACE', port: 4840 },
      as: 'display',
      start: 1000,
      ended: { hasFailed: true, code: 'BadUserAccessDenied' },
      facts: [{ kind: 'session', outcome: 'refused', during: 'ActivateSession', tokenType: 'UserName' }],
      evidence: [{ fileId: 'server furnace-server', position: 7 }],
    });
  });

  it('tells no more than the event does', () => {
    expect(attemptOfReport(refusal({ code: null }))?.facts).toEqual([]);
    expect(attemptOfReport(refusal({ kind: 'certificate' }))?.facts).toEqual([]);
    expect(attemptOfReport(refusal({ kind: 'session', user: null }))?.facts).toMatchObject([
      { during: 'CreateSession', tokenType: 'Anonymous' },
    ]);
  });

  it('is no attempt to connect where it is about something else', () => {
    expect(attemptOfReport(refusal({ kind: 'write' }))).toBeNull();
  });
});
