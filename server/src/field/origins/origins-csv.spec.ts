import { originColumns } from '@loyal-hinge/contract';
import { originsFromCsv, originsToCsv } from './origins-csv';

const header = originColumns.join(',');

describe('origins as CSV', () => {
  it('come back as they went', () => {
    const csv = `${header}\nLehr/Zone 1,crown-panel,502,3,holding,40108,from-1-with-digit,float32,low-first,0.1,-4,,,0.5\n"Lehr/A, b",crown-panel,503,0,coil,00017,from-1-with-digit,bool,high-first,1,0,,,\nLehr/Bits,crown-panel,502,1,input,12,from-0,uint16,high-first,1,0,4-7,,\nLehr/Name,crown-panel,502,1,input,20,from-0,text,high-first,1,0,,8,\n`;
    const { origins, faults } = originsFromCsv(csv);
    expect(faults).toEqual([]);
    expect(origins[0]).toMatchObject({
      path: 'Lehr/Zone 1',
      origin: { unit: 3, form: { type: 'float32', order: 'low-first', scale: 0.1, offset: -4 }, within: 0.5 },
    });
    expect(origins[2]?.origin.form.bits).toEqual({ from: 4, count: 4 });
    expect(originsFromCsv(originsToCsv(origins)).origins).toEqual(origins);
  });

  it('need what can’t be guessed alone', () => {
    const { origins } = originsFromCsv('path,device,address\nA,crown-panel,40001\n');
    expect(origins).toEqual([
      {
        path: 'A',
        origin: {
          deviceId: 'crown-panel',
          port: 502,
          unit: 1,
          table: 'holding',
          address: '40001',
          convention: 'from-1-with-digit',
          form: { type: 'uint16', order: 'high-first', scale: 1, offset: 0, bits: null },
          within: null,
        },
      },
    ]);
  });

  it('tell each line that is wrong, and keep the others', () => {
    const { origins, faults } = originsFromCsv(
      'path,device,address,unit,type,bits\nA,crown-panel,40001,1,,\nB,crown-panel,30001,1,,\nC,crown-panel,40001,many,,\nD,,40001,1,,\nA,crown-panel,40001,1,,\nE,crown-panel,40001,1,float33,\nF,crown-panel,40001,1,,x\nG,crown-panel,40009,1,,\n',
    );
    expect(origins.map(({ path }) => path)).toEqual(['A', 'G']);
    expect(faults).toEqual([
      { line: 3, says: expect.stringContaining('address: The address of a holding register begins with 4') },
      { line: 4, says: 'unit: This must be a number.' },
      { line: 5, says: 'device: An id is needed.' },
      { line: 6, says: 'path: “A” is in line 2, too.' },
      { line: 7, says: expect.stringContaining('type: This must be one of') },
      { line: 8, says: 'bits: This must be an object.' },
    ]);
  });

  it.each([
    ['', 'The first line must name the columns'],
    ['a,b\n1,2\n', 'The first line must name the columns'],
    ['path,device\n"A,b\n', 'Quote'],
    [`path\n${'A\n'.repeat(5001)}`, 'At most 5000 lines'],
  ])('that are none say so (%#)', (csv, says) => {
    const { origins, faults } = originsFromCsv(csv);
    expect(origins).toEqual([]);
    expect(faults[0]?.says).toContain(says);
  });
});
