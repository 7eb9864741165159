import fc from 'fast-check';
import type { LogEvent } from '../log-event';
import { LogReading } from '../read-log';
import type { LogRead } from '../read-log';
import { linesAt } from './lines-at';
import { compileReadingRule } from './reading-rule';
import { timeAt, zoneOf } from './times';
import type { LogClock } from './times';

const clock: LogClock = { zone: 0, latest: Date.parse('2026-11-20T12:00:00Z') };

function read(
  bytes: Uint8Array | string,
  { zone = 0 as LogClock['zone'], pattern = '', partBytes = 0 } = {},
): { all: LogEvent[]; told: LogRead } {
  const all: LogEvent[] = [];
  const compiled = pattern === '' ? null : compileReadingRule({ pattern });
  const file = typeof bytes === 'string' ? new TextEncoder().encode(bytes) : bytes;
  const reading = new LogReading({ ...clock, zone }, compiled?.ok ? compiled.rule : null, (event) => all.push(event));
  for (let at = 0; at < file.length; at += partBytes || file.length)
    reading.take(file.subarray(at, at + (partBytes || file.length)));
  return { all, told: reading.end() };
}

const kernel =
  'Nov 20 02:10:01 door-1 kernel: [ 812.40] OPC-DROP IN=eth0 OUT=eth1 MAC=00:11 SRC=10.2.0.31 DST=10.3.0.40 LEN=60 TOS=0x00 TTL=63 ID=1 DF PROTO=TCP SPT=50100 DPT=4840 WINDOW=64240 RES=0x00 SYN URGP=0';

describe('lines of a firewall', () => {
  it('are read as the kernel writes them', () => {
    expect(read(`${kernel}\n`).all).toEqual([
      {
        kind: 'firewall',
        position: 0,
        time: '2026-11-20T02:10:01Z',
        computer: 'door-1',
        action: 'drop',
        label: 'OPC-DROP',
        in: 'eth0',
        out: 'eth1',
        protocol: 'tcp',
        from: { address: '10.2.0.31', port: 50_100 },
        to: { address: '10.3.0.40', port: 4840 },
      },
    ]);
  });

  it('say what they did only where their rule’s name does, and never by a packet that they quote', () => {
    const icmp =
      '2026-11-20T02:10:01.250+01:00 door-1 kernel: seen: IN=eth0 OUT= SRC=10.3.0.1 DST=10.2.0.31 PROTO=ICMP TYPE=3 CODE=13 [SRC=10.2.0.31 DST=10.3.0.40 PROTO=TCP SPT=50100 DPT=4840 ]';
    expect(read(icmp).all).toEqual([
      expect.objectContaining({
        time: '2026-11-20T01:10:01.250Z',
        action: 'unknown',
        label: 'seen:',
        protocol: 'icmp',
        from: { address: '10.3.0.1', port: null },
      }),
    ]);
  });

  it('are read as the Windows firewall writes them, by its own columns, at local time', () => {
    const log = `#Version: 1.5\r\n#Software: Microsoft Windows Firewall\r\n#Time Format: Local\r\n#Fields: date time action protocol src-ip dst-ip src-port dst-port size tcpflags tcpsyn tcpack tcpwin icmptype icmpcode info path\r\n\r\n2026-07-20 02:10:01 DROP TCP 10.2.0.31 10.3.0.40 50100 135 60 S 1 0 64240 - - - RECEIVE\r\n2026-11-20 02:10:01 ALLOW ICMP fe80::1 fe80::2 - - 0 - - - - 8 0 - SEND\r\n`;
    const { all, told } = read(log, { zone: 'Europe/Berlin' });
    expect(told.notUnderstood).toBe(0);
    expect(all).toEqual([
      expect.objectContaining({
        position: log.indexOf('2026-07'),
        time: '2026-07-20T00:10:01Z',
        action: 'drop',
        out: 'receive',
        to: { address: '10.3.0.40', port: 135 },
      }),
      expect.objectContaining({
        time: '2026-11-20T01:10:01Z',
        action: 'accept',
        from: { address: 'fe80::1', port: null },
      }),
    ]);
  });
});

describe('records', () => {
  it('are read from JSON lines, with what lies deeper by its path', () => {
    const { all } = read(
      '{"timestamp":"2026-11-20T02:10:00.5Z","event":{"type":"login","n":3}}\n{"ts":1795140600,"ok":true}\n{"no',
    );
    expect(all).toEqual([
      {
        kind: 'record',
        position: 0,
        time: '2026-11-20T02:10:00.5Z',
        data: { timestamp: '2026-11-20T02:10:00.5Z', 'event.type': 'login', 'event.n': '3' },
      },
      expect.objectContaining({ time: '2026-11-20T02:10:00.000Z', data: { ts: '1795140600', ok: 'true' } }),
      expect.objectContaining({ kind: 'text', text: '{"no' }),
    ]);
  });

  it('are read from CSV by the names in its first line', () => {
    const { all, told } = read('Time;Who;Text\n2026-11-20 02:10:00;trend;"a; b"\n2026-11-20 02:11:00;shift\na;b;c;d\n');
    expect(all).toEqual([
      {
        kind: 'record',
        position: 14,
        time: '2026-11-20T02:10:00Z',
        data: { Time: '2026-11-20 02:10:00', Who: 'trend', Text: 'a; b' },
      },
      expect.objectContaining({ data: { Time: '2026-11-20 02:11:00', Who: 'shift' } }),
    ]);
    expect(told.gaps).toEqual([{ position: 73, says: 'A line has more columns than the table.' }]);
  });
});

describe('other lines', () => {
  it('are told as they are, with the time that they begin with', () => {
    expect(read('2026-11-20 02:10:00,123 service started\nno time here\n').all).toEqual([
      { kind: 'text', position: 0, time: '2026-11-20T02:10:00.123Z', text: 'service started', data: {} },
      { kind: 'text', position: 40, time: null, text: 'no time here', data: {} },
    ]);
  });

  it('are read by a rule, and told where they don’t fit', () => {
    const { all, told } = read(
      '2026-11-20 02:10:00 WARN  [opc] login of trend from 10.2.0.31 failed: wrong password\nother\n',
      {
        pattern: '{time} {level} [{program}] login of {who} from {from} failed: {text}',
      },
    );
    expect(all).toEqual([
      expect.objectContaining({
        kind: 'text',
        time: '2026-11-20T02:10:00Z',
        data: {
          time: '2026-11-20T02:10:00Z',
          level: 'WARN',
          program: 'opc',
          who: 'trend',
          from: '10.2.0.31',
          text: 'wrong password',
        },
      }),
    ]);
    expect(told.gaps).toEqual([{ position: 85, says: 'The line has no form that is known.' }]);
  });

  it('are the same in every encoding and in whatever parts they come', () => {
    const text = `${kernel}\r\nGrüße von Ofen 3\nlast`;
    const whole = read(text).all.map(({ position: _, ...event }) => event);
    expect(whole).toHaveLength(3);
    const wide = Uint8Array.from(Buffer.from(`\ufeff${text}`, 'utf16le'));
    for (const file of [
      new TextEncoder().encode(text),
      Uint8Array.from(Buffer.from(text, 'latin1')),
      wide,
      Uint8Array.from(Buffer.from(wide).swap16()),
    ])
      for (const partBytes of [0, 1, 7])
        expect(read(file, { partBytes }).all.map(({ position: _, ...event }) => event)).toEqual(whole);
  });

  it('have an end even where they have none', () => {
    const { all, told } = read(`${'x'.repeat(300_000)}\nafter\n`, { partBytes: 50_000 });
    expect(all.map((event) => (event.kind === 'text' ? event.text.length : 0))).toEqual([65_536, 5]);
    expect(told.gaps).toEqual([{ position: 0, says: 'A line is longer than 64 kB; the rest of it is skipped.' }]);
  });
});

describe('lines at a place', () => {
  const text = 'first\r\nsecond, Grüße\n\nlast';
  const wide = Uint8Array.from(Buffer.from(text, 'utf16le'));

  it('are those that begin there, in every encoding, as many as are wanted', () => {
    const utf8 = new TextEncoder().encode(text);
    expect(linesAt(utf8, utf8.subarray(7), 7, 2)).toEqual([
      { position: 7, text: 'second, Grüße' },
      { position: 23, text: '' },
    ]);
    for (const bytes of [wide, Uint8Array.from(Buffer.from(wide).swap16())])
      expect(linesAt(bytes, bytes.subarray(14), 14, 9)?.map((line) => line.text)).toEqual([
        'second, Grüße',
        '',
        'last',
      ]);
    expect(linesAt(utf8, new TextEncoder().encode('x'.repeat(3000)), 0, 1)?.[0]?.text).toHaveLength(2001);
  });

  it('are none of a file that is no text', () => {
    const evtx = new TextEncoder().encode('ElfFile\0');
    expect(linesAt(evtx, evtx, 0, 1)).toBeNull();
    expect(linesAt(Uint8Array.of(0xd4, 0xc3, 0xb2, 0xa1), Uint8Array.of(1, 0, 0), 24, 1)).toBeNull();
  });
});

describe('what is no text', () => {
  it.each([
    ['an archive', Uint8Array.of(0x50, 0x4b, 3, 4, 20, 0), 'This is an archive: unpack it, and bring what is in it.'],
    [
      'a program',
      Uint8Array.of(0x7f, 0x45, 0x4c, 0x46, 2, 1, 0, 0, 5),
      'This is no log: it holds bytes that no text has.',
    ],
  ])('is refused as a whole: %s', (_, file, says) => {
    expect(read(file)).toEqual({ all: [], told: { events: 0, notUnderstood: 1, gaps: [{ position: 0, says }] } });
  });
});

describe('a reading rule', () => {
  const fault = (pattern: string) => {
    const compiled = compileReadingRule({ pattern });
    return compiled.ok ? null : [compiled.at, compiled.says];
  };

  it.each([
    ['no names', [0, 'A pattern names at least one part, such as {text}.']],
    ['{a}{b}', [3, 'Something must stand between two names.']],
    ['{a} {a}', [5, 'The name “a” stands twice.']],
    ['{A}', [1, 'A name has letters and digits, the first one small.']],
    ['{a', [0, 'A “{” without “}”; write “{{” for the letter itself.']],
    ['a} {b}', [1, 'A “}” without “{”; write “}}” for the letter itself.']],
  ])('says where it is wrong: %s', (pattern, says) => {
    expect(fault(pattern)).toEqual(says);
  });

  it('takes braces that stand twice as they are', () => {
    const compiled = compileReadingRule({ pattern: '{{{a}}}' });
    expect(compiled.ok && compiled.rule.read('{x}', clock)).toEqual({ a: 'x' });
  });

  it('reads back whatever was written by it', () => {
    const word = fc.stringMatching(/^[a-z0-9.:]{1,12}$/);
    fc.assert(
      fc.property(word, word, word, (who, from, text) => {
        const compiled = compileReadingRule({ pattern: '<{who}> at [{from}] says "{text}"' });
        const line = `<${who}>   at [${from}] says "${text}"`;
        expect(compiled.ok && compiled.rule.read(line, clock)).toEqual({ who, from, text });
      }),
    );
  });
});

describe('a time', () => {
  it.each([
    ['2026-11-20T02:10:00Z x', '2026-11-20T02:10:00Z'],
    ['2026-11-20 02:10:00.123456+0130', '2026-11-20T00:40:00.123456Z'],
    ['Nov  5 02:10:00 host', '2026-11-05T02:10:00Z'],
    ['Dec 24 02:10:00 host', '2025-12-24T02:10:00Z'],
    ['Foo 24 02:10:00 host', null],
    ['20 November', null],
    ['2026-99-99 02:10:00', null],
  ])('is read from %s', (text, time) => {
    expect(timeAt(text, clock)?.time ?? null).toBe(time);
  });

  it('follows summer time, also around the hour of the change', () => {
    const berlin = (text: string) => timeAt(text, { ...clock, zone: 'Europe/Berlin' })?.time;
    expect(['2026-03-29 01:59:59', '2026-03-29 03:00:00', '2026-10-25 03:00:00'].map(berlin)).toEqual([
      '2026-03-29T00:59:59Z',
      '2026-03-29T01:00:00Z',
      '2026-10-25T02:00:00Z',
    ]);
    expect([zoneOf('+01:00'), zoneOf('UTC'), zoneOf('Europe/Berlin'), zoneOf('Nowhere')]).toEqual([
      60,
      0,
      'Europe/Berlin',
      null,
    ]);
  });
});
