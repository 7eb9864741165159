import fc from 'fast-check';
import { answerTo, longestFrame, readFrame, requestIn, writeAnswer, writeException, writeRead } from './frames.js';
import type { ModbusRead } from './frames.js';
import { modbusTables, tableShapes } from './tables.js';

const requests: fc.Arbitrary<ModbusRead> = fc
  .record({
    transaction: fc.nat(0xffff),
    unit: fc.nat(255),
    table: fc.constantFrom(...modbusTables),
    first: fc.nat(0xffff),
    wish: fc.integer({ min: 1, max: 2000 }),
  })
  .map(({ wish, ...request }) => ({
    ...request,
    count: Math.min(wish, tableShapes[request.table].mostAtOnce, 0x10000 - request.first),
  }));

const whole = (octets: Uint8Array) => {
  const reading = readFrame(octets);
  if (reading.kind !== 'frame') throw new Error(`no frame: ${reading.kind}`);
  return reading.frame;
};
const request: ModbusRead = { transaction: 7, unit: 3, table: 'holding', first: 107, count: 3 };

describe('frames of Modbus over TCP', () => {
  it('are those of the standard’s own example (Application Protocol 1.1b3 §6.3)', () => {
    expect(Buffer.from(writeRead(request)).toString('hex')).toBe('0007000000060303006b0003');
    const answer = Buffer.from('000700000009' + '03' + '0306022b00000064', 'hex');
    expect(answerTo(request, whole(answer))).toEqual({ outcome: 'values', values: [0x022b, 0, 0x64] });
  });

  it('of bits say the first in the lowest bit (§6.1)', () => {
    const asked: ModbusRead = { transaction: 1, unit: 1, table: 'coil', first: 19, count: 19 };
    const answer = Buffer.from('000100000006' + '01' + '0103cd6b05', 'hex');
    const told = answerTo(asked, whole(answer));
    expect(told).toEqual({
      outcome: 'values',
      values: [1, 0, 1, 1, 0, 0, 1, 1, 1, 1, 0, 1, 0, 1, 1, 0, 1, 0, 1],
    });
  });

  it('come back as they were asked, for any request', () => {
    fc.assert(
      fc.property(requests, fc.infiniteStream(fc.nat(0xffff)), (asked, stream) => {
        expect(requestIn(whole(writeRead(asked)))).toEqual(asked);
        const values = [...stream.take(asked.count)].map((word) =>
          tableShapes[asked.table].holds === 'bits' ? word & 1 : word,
        );
        const answer = writeAnswer(asked, values);
        expect(answer.length).toBeLessThanOrEqual(longestFrame);
        expect(answerTo(asked, whole(answer))).toEqual({ outcome: 'values', values });
      }),
      { numRuns: 60 },
    );
  });

  it('are waited for as long as they are not whole, and never believed beyond their bounds', () => {
    const answer = writeAnswer(request, [1, 2, 3]);
    for (let cut = 0; cut < answer.length; cut += 1)
      expect(readFrame(answer.subarray(0, cut))).toEqual({ kind: 'incomplete' });
    expect(readFrame(Uint8Array.from([0, 7, 0, 0, 0xff, 0xff, 3]))).toMatchObject({ kind: 'foreign' });
    expect(readFrame(Uint8Array.from([0, 7, 0, 0, 0, 1, 3]))).toMatchObject({ kind: 'foreign' });
    expect(readFrame(Buffer.from('SSH-2.0'))).toMatchObject({ kind: 'foreign', why: expect.stringContaining('18477') });
  });

  it('of any octets are read without a fault', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), (octets) => {
        const reading = readFrame(octets);
        if (reading.kind !== 'frame') return;
        answerTo(request, reading.frame);
        requestIn(reading.frame);
      }),
    );
  });

  it('that answer something else say so', () => {
    expect(answerTo(request, whole(writeAnswer({ ...request, transaction: 8 }, [1, 2, 3])))).toEqual({
      outcome: 'other-transaction',
      transaction: 8,
    });
    expect(answerTo(request, whole(writeException(7, 3, 3, 2)))).toEqual({ outcome: 'exception', code: 2 });
    const wrong = [
      writeAnswer({ ...request, unit: 4 }, [1, 2, 3]),
      writeAnswer({ ...request, table: 'input' }, [1, 2, 3]),
      writeAnswer(request, [1, 2, 3, 4]),
      writeAnswer(request, [1, 2]),
    ];
    for (const octets of wrong) expect(answerTo(request, whole(octets))).toMatchObject({ outcome: 'malformed' });
  });

  it('that a device can’t answer get the standard’s exception', () => {
    const asked = (code: number, ...data: number[]) =>
      requestIn({ transaction: 1, unit: 1, functionCode: code, data: Uint8Array.from(data) });
    expect(asked(6, 0, 1, 0, 1)).toBe(1);
    expect(asked(3, 0, 1, 0)).toBe(3);
    expect(asked(3, 0, 1, 0, 126)).toBe(3);
    expect(asked(3, 0xff, 0xff, 0, 2)).toBe(2);
  });

  it.each([
    [{ unit: 256 }, 'unit'],
    [{ count: 126 }, 'count'],
    [{ first: 65_535, count: 2 }, 'count'],
    [{ first: -1 }, 'first'],
    [{ transaction: 65_536 }, 'transaction'],
  ])('are not written with %j', (differs, what) => {
    expect(() => writeRead({ ...request, ...differs })).toThrow(what);
  });
});
