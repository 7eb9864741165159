import { RecordedRows } from './recorded-rows.js';
import type { RecordedValue } from './recorded-rows.js';

const at = '2026-03-01T02:10:00.000Z';
const value = (number: number | null, differs: Partial<RecordedValue> = {}): RecordedValue => ({
  code: 'Good',
  value: number === null ? null : String(number),
  number,
  sourceTimestamp: at,
  serverTimestamp: null,
  ...differs,
});

describe('what is recorded', () => {
  it('has a line for each change, with both times and the status', () => {
    const rows = new RecordedRows('changes', ['Lehr/A', '=cmd']);
    expect(rows.header).toBe('time,item,value,status,source time,server time');
    expect(rows.heard(at, 0, value(-1.5))).toBe(`${at},Lehr/A,-1.5,Good,${at},`);
    expect(rows.heard(at, 1, value(null, { value: 'on, off' }))).toBe(`${at},'=cmd,"on, off",Good,${at},`);
    expect(rows.heard(at, 0, value(7, { code: 'BadNoCommunication' }))).toBe(
      `${at},Lehr/A,Bad_NoCommunication,Bad_NoCommunication,${at},`,
    );
  });

  it('has a line a sample with the items in columns, the newest value of each', () => {
    const rows = new RecordedRows('samples', ['A', 'B']);
    expect(rows.header).toBe('time,A,B');
    expect(rows.sample(at)).toBe(`${at},,`);
    expect(rows.heard(at, 1, value(2))).toBeNull();
    rows.heard(at, 1, value(3));
    expect(rows.sample(at)).toBe(`${at},,3`);
    rows.heard(at, 0, value(5, { code: 'BadDeviceFailure' }));
    expect(rows.sample(at)).toBe(`${at},Bad_DeviceFailure,3`);
  });
});
