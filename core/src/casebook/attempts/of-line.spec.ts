import { LogReading } from '../log/read-log';
import { compileReadingRule } from '../log/text/reading-rule';
import { tryReadingRule } from '../log/text/try-rule';
import type { Attempt } from './attempt';
import { attemptOfLine } from './of-line';
import type { LineMeaning } from './of-line';

const clock = { zone: 0, latest: Date.parse('2026-11-21T00:00:00Z') };
const source = { fileId: 'log', clockAheadMs: 0 };

function attemptsIn(lines: string, pattern: string, meaning: Partial<LineMeaning> = {}): readonly (Attempt | null)[] {
  const compiled = compileReadingRule({ pattern });
  if (!compiled.ok) throw new Error(compiled.says);
  const all: (Attempt | null)[] = [];
  const reading = new LogReading(clock, compiled.rule, (event) => {
    if (event.kind === 'text' || event.kind === 'record')
      all.push(attemptOfLine(event, { machine: '', means: 'failed', ...meaning }, source));
  });
  reading.take(new TextEncoder().encode(lines));
  reading.end();
  return all;
}

describe('a line that a rule reads', () => {
  it('is an attempt of whom it names, at the machine that writes it', () => {
    const [one] = attemptsIn(
      '2026-11-20T02:10:00Z WARN login of trend from 10.0.0.2 failed: wrong password\n',
      '{time} {} login of {who} from {from} failed: {text}',
      { machine: 'furnace' },
    );
    expect(one).toMatchObject({
      kind: null,
      from: { address: '10.0.0.2', name: null },
      to: { address: null, name: 'furnace', port: null },
      as: 'trend',
      start: Date.parse('2026-11-20T02:10:00Z'),
      ended: { hasFailed: true, code: '', says: 'wrong password' },
      evidence: [{ fileId: 'log', position: 0 }],
    });
  });

  it('says by a code of UA whether it failed, and how', () => {
    const pattern = '{time} {who}@{from} to {to}:{port} {code}';
    const lines = [
      '2026-11-20T02:10:00Z display@press-1 to furnace:4840 Bad_UserAccessDenied',
      '2026-11-20T02:11:00Z display@press-1 to furnace:4840 Good',
    ].join('\n');
    const [refused, well] = attemptsIn(lines, pattern);
    expect(refused).toMatchObject({
      kind: 'ua',
      from: { address: null, name: 'press-1' },
      to: { name: 'furnace', port: 4840 },
      ended: { hasFailed: true, code: 'BadUserAccessDenied' },
      facts: [{ kind: 'session', outcome: 'refused', tokenType: 'UserName', code: 'BadUserAccessDenied' }],
    });
    expect(well?.ended.hasFailed).toBe(false);
  });

  it('means what its rule says where it has no code', () => {
    const [one] = attemptsIn('2026-11-20T02:10:00Z trend came from a\n', '{time} {who} came from {from}', {
      means: 'worked',
    });
    expect(one?.ended.hasFailed).toBe(false);
  });

  it('of JSON goes by what bears the names', () => {
    const [one] = attemptsIn('{"time":"2026-11-20T02:10:00Z","From":"10.0.0.2","who":"trend","text":"no"}\n', '{text}');
    expect(one).toMatchObject({ from: { address: '10.0.0.2' }, as: 'trend', ended: { says: 'no' } });
  });

  it.each([
    ['without a time', 'login of trend failed\n', 'login of {who} failed'],
    ['of nobody', '2026-11-20T02:10:00Z disk is full\n', '{time} disk is {text}'],
  ])('%s is no attempt', (_, line, pattern) => {
    expect(attemptsIn(line, pattern)).toEqual([null]);
  });
});

describe('a rule that is tried', () => {
  it('shows the parts of each line, and which do not fit', () => {
    const trial = tryReadingRule(
      { pattern: '{time} login of {who}' },
      '2026-11-20T02:10:00Z login of a\n\nelse\n',
      clock,
    );
    expect(trial).toEqual({
      fault: null,
      lines: [
        { text: '2026-11-20T02:10:00Z login of a', parts: { time: '2026-11-20T02:10:00Z', who: 'a' } },
        { text: 'else', parts: null },
      ],
    });
  });

  it('says where its pattern is wrong', () => {
    expect(tryReadingRule({ pattern: 'a {b' }, 'a b', clock)).toMatchObject({ fault: { at: 2 }, lines: [] });
  });
});
