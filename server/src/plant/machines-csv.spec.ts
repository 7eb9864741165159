import { machinesFromCsv, machinesToCsv } from './machines-csv.js';

const zones = [{ id: 'hot-end', name: 'Hot End', order: 1 }];
const head = 'id,zone,name,description,hostNames,addresses';
const faultsOf = (csv: string) => {
  const read = machinesFromCsv(csv, zones);
  return read.ok ? [] : read.faults.map((fault) => fault.place);
};

describe('machines as CSV', () => {
  it('come back as they went out, quotes, commas and formulas included', () => {
    const machines = [
      {
        id: 'furnace',
        zoneId: 'hot-end',
        name: '=1+1',
        description: 'hot, "very"',
        hostNames: ['f.works.example', 'g'],
        addresses: ['10.0.0.1'],
      },
    ];
    expect(machinesToCsv(machines)).toContain(`'=1+1`);
    expect(machinesFromCsv(machinesToCsv(machines), zones)).toEqual({ ok: true, machines });
  });

  it('name the row and the column of what is wrong, and give none of the good rows', () => {
    expect(faultsOf(`${head}\nfurnace,hot-end,Furnace,,f,10.0.0.1\nlehr,hot-end,Lehr,,l,10.0.0.999\n`)).toEqual([
      'row 3, addresses',
    ]);
    expect(faultsOf(`${head}\na,nowhere,A,,,\na,hot-end,A,,,\na,hot-end,A,,,\nB!,hot-end,,,,\n`)).toEqual([
      'row 2, zone',
      'row 4, id',
      'row 5, id',
      'row 5, name',
    ]);
  });

  it('say so where there is no row, or the columns do not fit', () => {
    expect(faultsOf('')).toEqual(['csv']);
    expect(faultsOf(`${head}\na,b\n`)).toEqual(['csv']);
  });
});
