import { assignedTo, statusOf, weightOf } from './case-status';
import type { CaseAct, CaseActKind, CaseStatus } from './case-status';

const act = (kind: CaseActKind, at: number, to: string | null = null): CaseAct => ({
  kind,
  at,
  by: 'engineer',
  text: 'a cable',
  to,
});

describe('a case', () => {
  it.each<[string, readonly CaseAct[], number | null, string]>([
    ['is open', [], null, 'open'],
    ['is open when only a note was written', [act('note', 12)], null, 'open'],
    ['is proved by a check', [], 15, 'proved'],
    ['is closed by a person', [act('close', 12)], null, 'closed'],
    ['opens again by what failed after that', [act('close', 9)], null, 'open'],
    ['is opened again', [act('close', 12), act('reopen', 13)], null, 'open'],
    ['is opened again although it was proved', [act('reopen', 16)], 15, 'open'],
    ['is proved after it was opened again', [act('reopen', 13)], 15, 'proved'],
    ['is closed after it was proved', [act('close', 16)], 15, 'closed'],
  ])('%s', (_what, acts, provedAt, expected) => {
    expect(statusOf(10, acts, provedAt).state).toBe(expected);
  });

  it('says who closed it and why', () => {
    expect(statusOf(10, [act('close', 12)], null)).toEqual({ state: 'closed', at: 12, by: 'engineer', why: 'a cable' });
  });

  it('is with whom it was given to last', () => {
    expect(assignedTo([])).toBeNull();
    expect(assignedTo([act('assign', 1, 'ada'), act('assign', 3, 'ben'), act('note', 4)])).toBe('ben');
    expect(assignedTo([act('assign', 1, 'ada'), act('assign', 3)])).toBeNull();
  });
});

describe('the weight of a case', () => {
  const weight = (kind: 'link' | 'scan' | 'stranger', count: number, status: CaseStatus): number =>
    weightOf({ kind, count }, status);
  const open: CaseStatus = { state: 'open' };
  const proved: CaseStatus = { state: 'proved', at: 1 };
  const closed: CaseStatus = { state: 'closed', at: 1, by: 'ada', why: 'Mended.' };

  it('grows with how often it failed, and is less once it is over', () => {
    expect(weight('link', 13, proved)).toBeGreaterThan(weight('link', 1, open));
    expect(weight('link', 13, open)).toBeGreaterThan(weight('link', 13, proved));
    expect(weight('link', 1, proved)).toBeGreaterThan(weight('link', 200, closed));
    expect(weight('scan', 20, open)).toBeGreaterThan(weight('stranger', 100, open));
  });
});
