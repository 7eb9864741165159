import fc from 'fast-check';
import { crc32 } from './crc32';
import type { WindowsEvent } from '../log-event';
import { LogReading } from '../read-log';
import type { LogRead } from '../read-log';
import { evtx, EvtxChunk, fileTime, hex32Value, listValue, textValue, u32Value } from '../../../testing/evtx';
import type { EvtxEvent } from '../../../testing/evtx';

const time = fileTime('2026-11-20T02:10:00.123Z', 4567);
const refused: EvtxEvent = {
  provider: 'Microsoft-Windows-Security-Auditing',
  eventId: 4625,
  computer: 'lehr-data.marrowby.example',
  channel: 'Security',
  time,
  data: [
    ['TargetUserName', textValue('trend')],
    ['TargetDomainName', textValue('MARROWBY')],
    ['Status', hex32Value(0xc000006d)],
    ['SubStatus', hex32Value(0xc000006a)],
    ['LogonType', u32Value(3)],
    ['WorkstationName', textValue('TREND-1')],
    ['IpAddress', textValue('10.2.0.31')],
  ],
};
const plain: EvtxEvent = {
  provider: 'Microsoft-Windows-DistributedCOM',
  eventId: 10028,
  computer: 'trend-1',
  time: time + 10_000_000n,
  data: [
    [null, textValue('lehr-data')],
    [null, listValue('one', 'two')],
    [null, u32Value(7)],
  ],
};
const own: EvtxEvent = {
  provider: 'Microsoft-Windows-CAPI2',
  eventId: 30,
  computer: 'trend-1',
  time,
  userData: [
    'CertVerifyCertificateChainPolicy',
    [
      ['Certificate', textValue('press-1')],
      ['Result', hex32Value(0x800b0101)],
    ],
  ],
};

function read(file: Uint8Array, partBytes = file.length): { all: WindowsEvent[]; told: LogRead } {
  const all: WindowsEvent[] = [];
  const reading = new LogReading({ zone: 0, latest: 0 }, null, (event) => all.push(event as WindowsEvent));
  for (let at = 0; at < file.length; at += partBytes) reading.take(file.subarray(at, at + partBytes));
  return { all, told: reading.end() };
}

describe('an event log of Windows', () => {
  it('gives each event with its data by name, in order where there are none, and of UserData by its elements', () => {
    const { all, told } = read(evtx(new EvtxChunk().add(refused).add(plain).done(), new EvtxChunk().add(own).done()));
    expect(told).toMatchObject({ events: 3, notUnderstood: 0 });
    expect(all).toEqual([
      {
        kind: 'windows',
        position: 4096 + 512,
        time: '2026-11-20T02:10:00.1234567Z',
        provider: 'Microsoft-Windows-Security-Auditing',
        eventId: 4625,
        channel: 'Security',
        computer: 'lehr-data.marrowby.example',
        data: {
          TargetUserName: 'trend',
          TargetDomainName: 'MARROWBY',
          Status: '0xc000006d',
          SubStatus: '0xc000006a',
          LogonType: '3',
          WorkstationName: 'TREND-1',
          IpAddress: '10.2.0.31',
        },
        says: 'MARROWBY\\trend was refused from TREND-1, 10.2.0.31: the password was wrong.',
      },
      expect.objectContaining({
        time: '2026-11-20T02:10:01.1234567Z',
        data: { '#1': 'lehr-data', '#2': 'one', '#3': 'two', '#4': '7' },
        says: 'COM could not reach lehr-data by any of its protocols.',
      }),
      expect.objectContaining({
        position: 4096 + 65_536 + 512,
        data: { Certificate: 'press-1', Result: '0x800b0101' },
        says: null,
      }),
    ]);
  });

  it('is read the same by names and templates that were met before, in whatever parts it comes', () => {
    const chunk = new EvtxChunk();
    for (let index = 0; index < 40; index += 1) chunk.add({ ...refused, time: time + BigInt(index) });
    const file = evtx(chunk.done());
    const { all } = read(file);
    expect(all).toHaveLength(40);
    expect(all.at(-1)).toMatchObject({ data: all[0]?.data, time: '2026-11-20T02:10:00.1234606Z' });
    expect(read(file, 1000).all).toEqual(all);
  });

  it('skips chunks whose check sums are wrong, and tells which', () => {
    const [first, second, third] = [1, 2, 3].map(() => new EvtxChunk().add(refused).done()) as [
      Uint8Array,
      Uint8Array,
      Uint8Array,
    ];
    first[600] = (first[600] ?? 0) ^ 1;
    second[8] = (second[8] ?? 0) ^ 1;
    const { all, told } = read(evtx(first, second, third, new Uint8Array(65_536), new Uint8Array(65_536).fill(7)));
    expect(all).toHaveLength(1);
    expect(told.gaps).toEqual([
      { position: 4096, says: 'The check sum of a chunk’s records is wrong; it is skipped.' },
      { position: 4096 + 65_536, says: 'The check sum of a chunk’s head is wrong; it is skipped.' },
      { position: 4096 + 4 * 65_536, says: 'This is no chunk of an event log; it is skipped.' },
    ]);
  });

  it('says that it is cut off', () => {
    const file = evtx(new EvtxChunk().add(refused).done());
    expect(read(file.subarray(0, 9000)).told.gaps).toEqual([
      { position: 4096, says: 'The file is cut off within a chunk, which is skipped.' },
    ]);
  });

  it('tells templates that lie in one another without end, and whatever else is broken, and goes on', () => {
    const chunk = new EvtxChunk().add(refused).done();
    /* The fragment within the first template becomes an instance of that template. */
    const definition = 512 + 24 + 4 + 10;
    const circle = [0x0c, 1, 0, 0, 0, 0, ...new Uint8Array(new Uint32Array([definition]).buffer), 0, 0, 0, 0];
    const broken = chunk.slice();
    broken.set(circle, definition + 24 + 4);
    expect(read(evtx(resealed(broken))).told.gaps).toEqual([
      { position: 4608, says: 'A record can’t be read: Templates or elements lie too deep, or there are too many.' },
    ]);
    fc.assert(
      fc.property(fc.integer({ min: 512, max: 2500 }), fc.integer({ min: 0, max: 255 }), (at, byte) => {
        const changed = chunk.slice();
        changed[at] = byte;
        const { all, told } = read(evtx(resealed(changed)));
        expect(all.length + told.notUnderstood).toBeGreaterThan(0);
      }),
      { numRuns: 400 },
    );
  });
});

function resealed(chunk: Uint8Array): Uint8Array {
  const view = new DataView(chunk.buffer);
  view.setUint32(52, crc32(chunk.subarray(512, view.getUint32(48, true))), true);
  view.setUint32(124, crc32(chunk.subarray(0, 120), chunk.subarray(128, 512)), true);
  return chunk;
}
