import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { wordsFor } from '@loyal-hinge/core/field';
import type { ValueForm } from '@loyal-hinge/core/field';
import { FieldDevice } from '@loyal-hinge/field';
import { hinge } from '../main';

const host = '127.0.0.1';
const weight: ValueForm = { type: 'float32', order: 'low-first', scale: 1, offset: 0, bits: null };
const words = [...wordsFor(812.5, weight), 7, 0xffff];
let device: FieldDevice;
beforeAll(async () => {
  device = await FieldDevice.start(host, 0, {
    units: [1],
    otherUnits: 'exception',
    at: (table, place) => (table === 'holding' ? (words[place] ?? null) : null),
  });
});
afterAll(() => device.stop());

async function run(...args: readonly string[]) {
  let [out, errors] = ['', ''];
  const code = await hinge(
    ['field', ...args],
    { write: (text) => (out += text) },
    { write: (text) => (errors += text) },
  );
  return { code, out, errors };
}
const to = (...more: readonly string[]) => [
  'read',
  '--host',
  host,
  '--port',
  String(device.port),
  '--pause',
  '0',
  ...more,
];

describe('hinge field read', () => {
  it('reads words, and values by their form', async () => {
    const { code, out } = await run(
      ...to(
        '--unit',
        '1',
        '--table',
        'holding',
        '--from',
        '0',
        '--count',
        '2',
        '--type',
        'float32',
        '--order',
        'low-first',
        '--json',
      ),
    );
    expect(code).toBe(0);
    expect(JSON.parse(out)).toMatchObject({
      status: 'read',
      places: words.slice(0, 2),
      values: [{ at: 0, value: 812.5 }],
      refused: [],
      stopped: null,
      requests: 1,
    });
  });

  it('says what the device refuses, and why', async () => {
    const { code, out } = await run(...to('--unit', '1', '--table', 'holding', '--from', '2', '--count', '3'));
    expect(code).toBe(3);
    expect(out).toBe(
      '     2  0x0007  7\n     3  0xffff  65535\n     4  not read\n4: Illegal data address. The device has no register at this address, or the run of registers ends beyond its last.\n',
    );
    const other = await run(...to('--unit', '9', '--table', 'holding', '--from', '0', '--count', '1', '--json'));
    expect(JSON.parse(other.out)).toMatchObject({ status: 'refused', refused: [{ code: 11 }] });
  });

  it.each([
    [['--table', 'holding', '--from', '0', '--count', '1'], 'Say --unit.'],
    [['--unit', '1', '--table', 'holdings', '--from', '0', '--count', '1'], '“holdings” is no table'],
    [
      ['--unit', '256', '--table', 'holding', '--from', '0', '--count', '1'],
      '--unit must be a whole number from 0 to 255.',
    ],
    [
      ['--unit', '1', '--table', 'holding', '--from', '0', '--count', '65536'],
      '--count must be a whole number from 1 to 2000.',
    ],
    [
      ['--unit', '1', '--table', 'holding', '--from', '65535', '--count', '2'],
      '--count must be a whole number from 1 to 1.',
    ],
    [['--unit', '1', '--table', 'coil', '--from', '0', '--count', '1', '--type', 'int16'], 'its type is bool'],
    [
      ['--unit', '1', '--table', 'coil', '--from', '0', '--count', '1', '--order', 'low-first'],
      'An order belongs to a type',
    ],
  ])('can’t run with %j', async (args, says) => {
    const before = device.connections;
    expect(await run(...to(...args))).toMatchObject({ code: 2, out: '', errors: expect.stringContaining(says) });
    expect(device.connections).toBe(before);
  });

  it('can’t run where nothing listens', async () => {
    const args = ['--unit', '1', '--table', 'holding', '--from', '0', '--count', '1'];
    expect(await run('read', '--host', '127.0.0.1', '--port', '1', ...args)).toMatchObject({
      code: 2,
      errors: '127.0.0.1 port 1 refuses: nothing listens there.\n',
    });
  });
});

describe('hinge field find', () => {
  const folder = mkdtempSync(join(tmpdir(), 'field-'));
  const written = (content: unknown): string => {
    const file = join(folder, 'samples.json');
    writeFileSync(file, typeof content === 'string' ? content : JSON.stringify(content));
    return file;
  };
  const samples = Array.from({ length: 30 }, (_, index) => ({
    value: 800 + index * 1.5,
    places: [17, ...wordsFor(800 + index * 1.5, weight), index % 7],
  }));

  it('names the register and its form', async () => {
    const { code, out } = await run('find', '--samples', written({ table: 'holding', first: 100, samples }), '--json');
    expect(code).toBe(0);
    expect(JSON.parse(out)).toMatchObject({
      says: 'One register follows the value, and no other does.',
      changesSeen: 29,
      candidates: [{ place: 101, type: 'float32', order: 'low-first', scale: 1, offset: 0, sureness: 'proved' }],
    });
  });

  it.each<[unknown, string]>([
    ['{', 'It is no JSON.'],
    [{ table: 'holding', first: 0, samples: [] }, '“samples”'],
    [{ table: 'holding', first: 70_000, samples }, '“first”'],
    [
      { table: 'holding', first: 0, samples: [...samples, { value: 1, places: [1] }] },
      '“samples.30” has 1 places, and the first has 4.',
    ],
    [
      { table: 'holding', first: 0, samples: [...samples, { value: true, places: [1, 2, 3, 4] }] },
      'numbers in some samples and bools in others',
    ],
    [{ table: 'holding', first: 0, samples: [{ value: 1, places: [70_000] }] }, '“samples.0.places.0”'],
  ])('can’t run with a file that is wrong (%#)', async (content, says) => {
    expect(await run('find', '--samples', written(content), '--json')).toMatchObject({
      code: 2,
      errors: expect.stringContaining(says),
    });
  });
});
