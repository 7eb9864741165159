import fc from 'fast-check';
import { LogReading } from '../read-log';
import { syslogLine } from './syslog-line';

const at = Date.parse('2026-11-20T02:10:05Z');
const line = (message: string): string | null => syslogLine(message, '10.0.0.9', at);

describe('a message of syslog as a line', () => {
  it.each([
    [
      '<4>1 2026-11-20T02:10:00.003Z door-1 kernel - - - OPC-DROP IN=a',
      '2026-11-20T02:10:00.003Z door-1 kernel: OPC-DROP IN=a',
    ],
    [
      '<165>1 2026-11-20T02:10:00Z press-1 opc 812 ID47 [origin@1 ip="x\\]"][b c="d"] \ufeffsession ended',
      '2026-11-20T02:10:00Z press-1 opc[812]: session ended',
    ],
    ['<34>1 - - - - - -', '2026-11-20T02:10:05.000Z 10.0.0.9'],
    ['<34>Nov 20 02:10:00 door-1 kernel: OPC-DROP IN=a', 'Nov 20 02:10:00 door-1 kernel: OPC-DROP IN=a'],
    ['just words\nof two lines', '2026-11-20T02:10:05.000Z 10.0.0.9 just words of two lines'],
    ['<13>', null],
    ['  ', null],
  ])('%j', (message, expected) => {
    expect(line(message)).toBe(expected);
  });

  it('is read as firewalls write it', () => {
    const drop = 'OPC-DROP IN=a OUT=b SRC=10.0.0.2 DST=10.0.0.1 PROTO=TCP SPT=50100 DPT=4840 SYN';
    const found: unknown[] = [];
    const reading = new LogReading({ zone: 0, latest: at }, null, (event) => found.push(event));
    reading.take(new TextEncoder().encode(`${line(`<4>1 2026-11-20T02:10:00Z door-1 kernel - - - ${drop}`) ?? ''}\n`));
    reading.end();
    expect(found).toEqual([expect.objectContaining({ kind: 'firewall', computer: 'door-1', action: 'drop' })]);
  });

  it('is always one line, and never longer than is believed', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (message) => {
        const told = line(message) ?? '';
        expect(/[\r\n]/.test(told)).toBe(false);
        expect(told.length).toBeLessThan(17_000);
      }),
    );
  });
});
