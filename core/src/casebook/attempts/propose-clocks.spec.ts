import fc from 'fast-check';
import type { Attempt } from './attempt';
import { proposeClocks } from './propose-clocks';

const told = (fileId: string, start: number, port: number, differs: Partial<Attempt> = {}): Attempt => ({
  kind: null,
  from: { address: '10.0.0.2', name: null, port },
  to: { address: '10.0.0.1', name: null, port: 4840 },
  as: null,
  start,
  end: start,
  ended: { hasFailed: true, code: '', says: 'Nothing answered.' },
  facts: [],
  remarks: [],
  evidence: [{ fileId, position: 0, says: '' }],
  ...differs,
});

describe('clocks that differ', () => {
  it('are found by attempts that two files tell of, whatever the difference', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -40 * 3_600_000, max: 40 * 3_600_000 }),
        fc.array(fc.integer({ min: 0, max: 86_400_000 }), { minLength: 2, maxLength: 20 }),
        (aheadMs, starts) => {
          const attempts = starts.flatMap((start, index) => [
            told('wire', start, 1000 + index),
            told('door', start + aheadMs, 1000 + index),
          ]);
          const expected = [{ fileId: 'door', against: 'wire', aheadMs, matches: starts.length }];
          expect(proposeClocks(attempts, ['wire', 'door'])).toEqual(Math.abs(aheadMs) < 2000 ? [] : expected);
        },
      ),
    );
  });

  it('are compared with the file that is trusted most, and with the one that most attempts share', () => {
    const both = [1, 2, 3].flatMap((port) => [told('wire', port, port), told('door', port + 9000, port)]);
    const third = [4, 5].flatMap((port) => [told('door', port + 9000, port), told('switch', port + 60_000, port)]);
    expect(proposeClocks([...both, ...third], ['wire', 'door', 'switch'])).toEqual([
      { fileId: 'door', against: 'wire', aheadMs: 9000, matches: 3 },
      { fileId: 'switch', against: 'door', aheadMs: 51_000, matches: 2 },
    ]);
  });

  it('are not believed where one attempt alone shows them, or where attempts don’t agree', () => {
    expect(proposeClocks([told('wire', 0, 1), told('door', 9000, 1)], ['wire', 'door'])).toEqual([]);
    const apart = [0, 20_000, 70_000, 400_000].flatMap((ms, port) => [told('wire', 0, port), told('door', ms, port)]);
    expect(proposeClocks(apart, ['wire', 'door'])).toEqual([]);
  });

  it('take the first of what was told several times, and nothing that tells no port', () => {
    const repeated = [1, 2].flatMap((port) => [
      told('wire', 0, port),
      told('wire', 1000, port),
      told('door', 9000, port),
      told('door', 12_000, port),
    ]);
    expect(proposeClocks(repeated, ['wire', 'door'])).toEqual([
      { fileId: 'door', against: 'wire', aheadMs: 9000, matches: 2 },
    ]);
    const without = repeated.map((one) => ({ ...one, from: { ...one.from, port: null } }));
    expect(proposeClocks(without, ['wire', 'door'])).toEqual([]);
  });
});
