import fc from 'fast-check';
import type { WindowsEvent } from '../log-event';
import { LogReading } from '../read-log';
import type { LogRead } from '../read-log';

const event = (
  data: string,
  more = '',
): string => `<Event xmlns='http://schemas.microsoft.com/win/2004/08/events/event'>
  <System><Provider Name='Microsoft-Windows-DistributedCOM' Guid='{1}'/><EventID Qualifiers='0'>10016</EventID>
  <TimeCreated SystemTime='2026-11-20T02:10:00.1234567Z'/><Channel>System</Channel><Computer>lehr-data</Computer>${more}</System>
  <EventData>${data}</EventData></Event>`;
const refused = event(
  [
    'application-specific',
    'Remote',
    'Activation',
    '{5D8F0B52}',
    '{APP}',
    'trend',
    'MARROWBY',
    'S-1-5-21-1',
    '10.2.0.31',
  ]
    .map((text, index) => `<Data Name='param${index + 1}'>${text}</Data>`)
    .join(''),
);
const others = event("<Data>a &lt; b &#x26; c</Data><Data/><!-- no --><Data Name='n'><![CDATA[<raw>]]></Data>");

function read(bytes: Uint8Array, partBytes = bytes.length): { all: WindowsEvent[]; told: LogRead } {
  const all: WindowsEvent[] = [];
  const reading = new LogReading({ zone: 0, latest: 0 }, null, (one) => all.push(one as WindowsEvent));
  for (let at = 0; at < bytes.length; at += partBytes) reading.take(bytes.subarray(at, at + partBytes));
  return { all, told: reading.end() };
}
const utf8 = (text: string): Uint8Array => new TextEncoder().encode(text);
const utf16 = (text: string): Uint8Array => Uint8Array.from(Buffer.from(`\ufeff${text}`, 'utf16le'));
const swapped = (bytes: Uint8Array): Uint8Array => Uint8Array.from(Buffer.from(bytes).swap16());

describe('events of Windows in XML', () => {
  const file = `<?xml version="1.0"?>\n<Events>${refused}\n${others}</Events>`;

  it.each([
    ['UTF-8', utf8(file), 1],
    ['UTF-8 with a mark', utf8(`\ufeff${file}`), 1],
    ['UTF-16', utf16(file), 2],
    ['UTF-16 in the other order', swapped(utf16(file)), 2],
    ['one after another, without an element around them', utf8(`${refused}${others}`), 1],
  ])('are read in %s', (_, bytes, unit) => {
    const { all, told } = read(bytes);
    expect(told).toMatchObject({ events: 2, notUnderstood: 0 });
    expect(all[0]).toMatchObject({
      time: '2026-11-20T02:10:00.1234567Z',
      provider: 'Microsoft-Windows-DistributedCOM',
      eventId: 10016,
      channel: 'System',
      computer: 'lehr-data',
      says: 'COM refused MARROWBY\\trend from 10.2.0.31 remote activation of {5D8F0B52}: its settings grant it no such permission.',
    });
    expect(all[1]?.data).toEqual({ '#1': 'a < b & c', '#2': '', n: '<raw>' });
    expect((all[1]?.position ?? 0) - (all[0]?.position ?? 0)).toBeGreaterThanOrEqual(refused.length * unit);
    for (const partBytes of [1, 3, 100]) expect(read(bytes, partBytes).all).toEqual(all);
  });

  it('take no entities from a document: nothing grows', () => {
    const bomb = `<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "${'b'.repeat(100)}"><!ENTITY c "&a;&a;&a;">]><Events>${event('<Data>&c;</Data>')}</Events>`;
    expect(read(utf8(bomb)).all[0]?.data).toEqual({ '#1': '&c;' });
  });

  it('have no time where no calendar has it', () => {
    const never = refused.replace('2026-11-20T02:10:00', '2026-13-45T02:10:00');
    expect(read(utf8(never)).all[0]).toMatchObject({ time: null, eventId: 10016 });
  });

  it('tell what can’t be read, with its place, and go on behind it', () => {
    const broken = `<Events><Event><System></Event>${'<Event>'}${'x'.repeat(1.5 * 2 ** 20)}</Event>${refused}<Event><b>`;
    const { all, told } = read(utf8(broken), 70_000);
    expect(all).toHaveLength(1);
    expect(told.gaps.map(({ says }) => says)).toEqual([
      'An event can’t be read: The element System ends by another name.',
      'An event is longer than 1 MB; it is skipped.',
      'The file is cut off within an event.',
    ]);
    expect(told.gaps[0]?.position).toBe(8);
  });

  it('are refused where elements lie deeper than anything should', () => {
    const deep = event(`${'<a>'.repeat(500)}${'</a>'.repeat(500)}`);
    expect(read(utf8(deep)).told.gaps[0]?.says).toContain('too deep');
  });

  it('never throw, whatever is broken about them', () => {
    fc.assert(
      fc.property(fc.nat(file.length), fc.string({ maxLength: 5 }), (at, more) => {
        read(utf8(file.slice(0, at) + more + file.slice(at + 3)));
      }),
    );
  });
});

describe('what an event says', () => {
  const said = (provider: string, id: number, data: Readonly<Record<string, string>>): string | null => {
    const fields = Object.entries(data).map(([name, value]) => `<Data Name="${name}">${value}</Data>`);
    const xml = `<Event><System><Provider Name="${provider}"/><EventID>${id}</EventID></System><EventData>${fields.join('')}</EventData></Event>`;
    return read(utf8(xml)).all[0]?.says ?? null;
  };
  const auditing = 'Microsoft-Windows-Security-Auditing';
  const user = { TargetUserName: 'trend', TargetDomainName: 'MARROWBY' };
  const flow = {
    Protocol: '6',
    SourceAddress: '10.2.0.31',
    SourcePort: '50100',
    DestAddress: '10.3.0.40',
    DestPort: '135',
  };

  it.each([
    [auditing, 4624, { ...user, LogonType: '3', IpAddress: '-' }, 'MARROWBY\\trend signed in over the network.'],
    [
      auditing,
      4625,
      { ...user, Status: '0xc0000234', SubStatus: '0x0' },
      'MARROWBY\\trend was refused: the account is locked.',
    ],
    [auditing, 4625, { ...user, Status: '0xc0009999' }, 'MARROWBY\\trend was refused: status 0xc0009999.'],
    [
      auditing,
      4771,
      { TargetUserName: 'trend', Status: '0x18', IpAddress: '::ffff:10.2.0.31' },
      'trend was refused by Kerberos from 10.2.0.31: the password was wrong.',
    ],
    [
      auditing,
      4776,
      { TargetUserName: 'trend', Workstation: 'TREND-1', Status: '0xc0000064' },
      'trend was refused (NTLM) from TREND-1: there is no such user.',
    ],
    [auditing, 5152, flow, 'The firewall dropped TCP from 10.2.0.31 port 50100 to 10.3.0.40 port 135.'],
    [auditing, 5157, flow, 'The firewall blocked TCP from 10.2.0.31 port 50100 to 10.3.0.40 port 135.'],
    [
      'Service Control Manager',
      7000,
      { param1: 'Lehr Data', param2: 'access is denied' },
      'The service Lehr Data could not start: access is denied.',
    ],
    ['Schannel', 36881, {}, 'The certificate of the other side has expired or is not valid yet.'],
    [auditing, 1, {}, null],
    ['Somebody', 4625, user, null],
  ])('%s %i', (provider, id, data, says) => {
    expect(said(provider, id, data)).toBe(says);
  });
});
