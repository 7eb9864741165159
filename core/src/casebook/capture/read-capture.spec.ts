import type { Conversation } from '../conversation/conversation';
import { tls } from '../tls/tls-listener';
import { uaTcp } from '../ua-tcp/ua-listener';
import {
  ascii,
  clientPeer,
  Dialogue,
  fragmented,
  inLinkLayer,
  ipPacket,
  joinBytes,
  pcap,
  pcapngSection,
  serverPeer,
  tcpSegment,
  unreachable,
} from '../../testing/captures';
import type { Frame, PcapForm } from '../../testing/captures';
import { acknowledge, hello } from '../../testing/ua-messages';
import { CaptureReading } from './read-capture';
import type { CaptureRead } from './read-capture';

const start = 1_795_000_000_000_000;
const url = 'opc.tcp://press-1:4840';

function read(file: Uint8Array, partBytes = file.length): { all: Conversation[]; told: CaptureRead } {
  const all: Conversation[] = [];
  const reading = new CaptureReading([uaTcp, tls], (conversation) => all.push(conversation));
  for (let at = 0; at < file.length; at += Math.max(1, partBytes)) reading.take(file.subarray(at, at + partBytes));
  return { all, told: reading.end() };
}
const readFrames = (frames: readonly Frame[], form?: PcapForm): Conversation[] => read(pcap(frames, form)).all;
function only(frames: readonly Frame[], form?: PcapForm): Conversation {
  const all = readFrames(frames, form);
  expect(all).toHaveLength(1);
  return all[0] as Conversation;
}

const greeting = (): Dialogue => new Dialogue(start).opened().says(0, hello(url)).says(1, acknowledge());

describe('a capture', () => {
  const { frames } = greeting().closed();
  const expected = {
    protocol: 'opc.tcp',
    client: clientPeer,
    server: serverPeer,
    start,
    end: start + 7000,
    packets: 8,
    bytes: hello(url).length + acknowledge().length,
    outcome: 'closed',
    endpointUrl: url,
  };

  it.each([
    ['pcap in either order of bytes', pcap(frames, { isLittle: false })],
    ['pcap in nanoseconds', pcap(frames, { isNano: true })],
    ['pcap in nanoseconds in the other order', pcap(frames, { isNano: true, isLittle: false })],
    ['pcapng', pcapngSection(frames)],
    ['pcapng in the other order', pcapngSection(frames, ['ethernet'], { isLittle: false })],
    ['pcapng in nanoseconds', pcapngSection(frames, ['ethernet'], { resolution: 9 })],
    ['pcapng in units of a tenth of a nanosecond', pcapngSection(frames, ['ethernet'], { resolution: 10 })],
    [
      'pcapng with two interfaces and two sections in different orders',
      joinBytes(
        pcapngSection(
          frames.slice(0, 4).map((frame, index) => ({ ...frame, by: index % 2 })),
          ['raw', 'linux cooked'],
        ),
        pcapngSection(frames.slice(4), ['ethernet with one tag'], { isLittle: false }),
      ),
    ],
    ...Object.keys(inLinkLayer).map((layer) => [layer, pcap(frames, { layer })] as const),
  ] as (readonly [string, Uint8Array])[])('is read as %s', (_, file) => {
    const { all, told } = read(file);
    expect(all).toEqual([expect.objectContaining(expected)]);
    expect([told.fault, told.passedOver]).toEqual([null, []]);
  });

  it('is read the same whatever parts it comes in', () => {
    for (const file of [pcap(frames), pcapngSection(frames)])
      for (const partBytes of [1, 7, 100, 1000])
        expect(read(file, partBytes).all).toEqual([expect.objectContaining(expected)]);
  });

  it('is read with IPv6, headers between included', () => {
    const peers = [
      { address: 'fd00:3::21', port: 50_100 },
      { address: 'fd00:3::40', port: 4840 },
    ] as const;
    const dialogue = new Dialogue(start, ...peers).opened().says(0, hello(url)).closed();
    expect(only(dialogue.frames)).toMatchObject({ client: peers[0], server: peers[1], outcome: 'closed' });
    const options = [6, 0, 1, 4, 0, 0, 0, 0];
    const segment = tcpSegment(...peers, 5, 0, { syn: true });
    const ip = ipPacket(peers[0].address, peers[1].address, 6, segment, { more: options });
    expect(only([{ at: start, ip }], { layer: 'raw' })).toMatchObject({ client: peers[0], outcome: 'silent' });
  });

  it.each([
    ['IPv4', ['10.3.0.21', '11.3.0.21', '10.4.0.21', '10.3.1.21', '10.3.0.22'], '10.3.0.40'],
    [
      'IPv6',
      ['fd00:3::a:21', 'fd01:3::a:21', 'fd00:4::a:21', 'fd00:3:1::a:21', 'fd00:3::b:21', 'fd00:3::a:22'],
      'fd00:3::40',
    ],
  ])('keeps conversations of %s apart whose addresses differ anywhere, with the same ports', (_, addresses, server) => {
    const dialogues = addresses.map((address, index) =>
      new Dialogue(start + index, { address, port: 50_100 }, { address: server, port: 4840 })
        .opened()
        .says(0, hello(`opc.tcp://press-${index}:4840`))
        .closed(),
    );
    /* Packet by packet in turn, so that none follows one of its own. */
    const most = Math.max(...dialogues.map(({ frames: all }) => all.length));
    const inTurn = Array.from({ length: most }, (_each, at) => dialogues.flatMap(({ frames: all }) => all[at] ?? []));
    const told = readFrames(inTurn.flat());
    expect(told.map(({ client, endpointUrl, packets }) => [client.address, endpointUrl, packets]).sort()).toEqual(
      addresses.map((address, index) => [address, `opc.tcp://press-${index}:4840`, 7]).sort(),
    );
  });

  it('puts fragments together, in whatever order they came', () => {
    const dialogue = greeting().closed();
    const long = dialogue.frames.findIndex(({ ip }) => ip.length > 90);
    const frame = dialogue.frames[long] as Frame;
    const pieces = fragmented(frame.ip, 24).map((ip) => ({ at: frame.at, ip }));
    expect(pieces.length).toBeGreaterThan(3);
    const inOrder = [...dialogue.frames.slice(0, long), ...pieces, ...dialogue.frames.slice(long + 1)];
    const reversed = [...dialogue.frames.slice(0, long), ...pieces.reverse(), ...dialogue.frames.slice(long + 1)];
    for (const all of [inOrder, reversed]) expect(only(all)).toMatchObject(expected);
    const { all, told } = read(pcap([...dialogue.frames.slice(0, long), ...pieces.slice(1)]));
    expect(all).toHaveLength(1);
    expect(told.passedOver).toEqual(['1 packet whose fragments never came together']);
  });

  it('has times that a calendar has, whatever it claims', () => {
    const file = pcapngSection(frames, ['ethernet'], { resolution: 0 });
    for (const { start: begun, end } of read(file).all)
      for (const at of [begun, end]) expect(new Date(at / 1000).getUTCFullYear()).toBe(9999);
  });

  it('tells what it does not understand, and how often', () => {
    const udp = { at: start, ip: ipPacket('10.3.0.1', '10.3.0.2', 17, new Uint8Array(8)) };
    const { told } = read(pcap([udp, udp, ...frames]));
    expect(told).toMatchObject({ packets: 10, conversations: 1, passedOver: ['2 packets of UDP'] });
    expect(read(pcap([udp], { layer: 'none' })).told.passedOver).toEqual(['1 packet of no IP']);
  });

  it.each([
    ['nothing at all', new Uint8Array(), 'The file is empty.'],
    [
      'another kind of file',
      ascii('PK\u0003\u0004 and more'),
      'This is no capture: it begins like neither pcap nor pcapng.',
    ],
    ['the first bytes alone', pcap([]).subarray(0, 3), 'This is no capture: it begins like neither pcap nor pcapng.'],
  ])('is not %s', (_, file, says) => {
    expect(read(file).told.fault?.message).toBe(says);
  });

  it('is read up to the place where it is cut off or lies, wherever that is', () => {
    for (const file of [pcap(frames), pcapngSection(frames)])
      for (let length = 4; length < file.length; length += 1) {
        const { told } = read(file.subarray(0, length));
        if (told.fault) expect(told.fault.position).toBeLessThanOrEqual(length);
      }
    const lying = pcap(frames);
    new DataView(lying.buffer).setUint32(24 + 8, 0x7fffffff, true);
    expect(read(lying).told.fault).toMatchObject({ position: 24 });
  });
});

describe('a conversation ended', () => {
  const rest = new Dialogue(start + 60e6, { address: '10.3.0.99', port: 1 }, { address: '10.3.0.98', port: 2 });
  const later = rest.opened().closed().frames;

  it('closed, and by whom first', () => {
    expect(only(greeting().closed(1).frames)).toMatchObject({
      outcome: 'closed',
      notes: ['The server closed it first.'],
    });
  });

  it('reset by one of them', () => {
    for (const [end, outcome] of [
      [0, 'reset-by-client'],
      [1, 'reset-by-server'],
    ] as const)
      expect(only(greeting().packet(end, { rst: true }).frames).outcome).toBe(outcome);
  });

  it('refused, where the machine said at once that nobody listens', () => {
    const dialogue = new Dialogue(start).packet(0, { syn: true }).packet(1, { rst: true, ack: true });
    expect(only(dialogue.again().frames)).toMatchObject({ outcome: 'refused', packets: 3, bytes: 0, protocol: 'tcp' });
  });

  it('silent, where nothing answered', () => {
    expect(only(new Dialogue(start).packet(0, { syn: true }).again().again().frames)).toMatchObject({
      outcome: 'silent',
      packets: 3,
    });
  });

  it.each([
    [13, 'a rule prohibits it'],
    [3, 'the port is closed or blocked'],
    [1, 'the machine can’t be reached'],
  ])('prohibited by an answer of ICMP with code %i', (code, words) => {
    const dialogue = new Dialogue(start).packet(0, { syn: true });
    const answer = unreachable('10.3.0.1', clientPeer.address, code, (dialogue.frames[0] as Frame).ip);
    expect(only([...dialogue.frames, { at: start + 500, ip: answer }])).toMatchObject({
      outcome: 'prohibited',
      packets: 1,
      notes: [`10.3.0.1 answered that ${words}.`],
    });
  });

  it('prohibited by an answer of ICMPv6', () => {
    const peers = [
      { address: 'fd00::1', port: 50_100 },
      { address: 'fd00::2', port: 4840 },
    ] as const;
    const dialogue = new Dialogue(start, ...peers).packet(0, { syn: true });
    const answer = unreachable('fd00::9', 'fd00::1', 1, (dialogue.frames[0] as Frame).ip);
    expect(only([...dialogue.frames, { at: start, ip: answer }]).outcome).toBe('prohibited');
  });

  it('as before where only a packet was too large', () => {
    const dialogue = new Dialogue(start).packet(0, { syn: true });
    const answer = unreachable('10.3.0.1', clientPeer.address, 4, (dialogue.frames[0] as Frame).ip);
    expect(only([...dialogue.frames, { at: start, ip: answer }]).outcome).toBe('silent');
  });

  it('left open, where nobody closed it and the capture went on', () => {
    expect(readFrames([...greeting().frames, ...later]).at(0)).toMatchObject({ outcome: 'left-open' });
    const half = greeting().packet(0, { fin: true, ack: true }).packet(1, { ack: true });
    expect(only(half.frames)).toMatchObject({
      outcome: 'left-open',
      notes: ['Only the client has closed its side.'],
    });
  });

  it('cut off, where the capture ends within a message', () => {
    const amid = new Dialogue(start).opened().says(0, hello(url).subarray(0, 20));
    expect(only(amid.frames).outcome).toBe('cut-off');
    expect(readFrames([...amid.frames, ...later]).at(0)?.outcome).toBe('left-open');
    const file = pcap(greeting().frames);
    expect(read(file.subarray(0, file.length - 5)).all.at(0)?.outcome).toBe('cut-off');
  });

  it('twice, where the same ports were used again', () => {
    const first = greeting().closed();
    const second = new Dialogue(start + 2e6, clientPeer, serverPeer, [900_000, 5]).opened().packet(1, { rst: true });
    expect(readFrames([...first.frames, ...second.frames]).map(({ outcome }) => outcome)).toEqual([
      'closed',
      'reset-by-server',
    ]);
  });
});

describe('who asks', () => {
  it('has sent the SYN, whatever the ports', () => {
    const dialogue = new Dialogue(start, serverPeer, clientPeer).opened();
    expect(only(dialogue.frames)).toMatchObject({ client: serverPeer, server: clientPeer });
  });

  it('is told by the answer to it, by the messages, by the port or by who speaks first', () => {
    const { frames } = greeting();
    for (const from of [1, 2, 3, 4])
      expect(only(frames.slice(from))).toMatchObject({ client: clientPeer, server: serverPeer });
    const plain = new Dialogue(start, { address: '10.1.0.1', port: 9000 }, { address: '10.1.0.2', port: 9001 });
    plain.opened().says(1, ascii('ready')).says(0, ascii('go'));
    expect(only(plain.frames.slice(3))).toMatchObject({ client: { port: 9001 }, protocol: 'tcp' });
  });
});

describe('what is counted', () => {
  it('is every packet, and each byte of payload once', () => {
    const dialogue = greeting().again();
    expect(only(dialogue.frames)).toMatchObject({ packets: 6, bytes: hello(url).length + acknowledge().length });
  });

  it('is what was on the wire, where less was recorded', () => {
    const told = only(greeting().closed().frames, { snapLength: 80 });
    expect(told).toMatchObject({ bytes: hello(url).length + acknowledge().length, outcome: 'closed', packets: 8 });
    expect(told.notes).toContain('Some of what was sent was not recorded.');
  });

  it('is bounded: of a scan of more ports than are followed at once, each is told', () => {
    const count = 60_000;
    const frames = Array.from({ length: count }, (_, index) => {
      const to = { address: '10.3.0.40', port: index & 0xffff };
      const from = { address: '10.3.0.66', port: 20_000 };
      return {
        at: start + index,
        ip: ipPacket(from.address, to.address, 6, tcpSegment(from, to, 1, 0, { syn: true })),
      };
    });
    const all = readFrames(frames);
    expect(all).toHaveLength(count);
    expect(new Set(all.map(({ outcome }) => outcome))).toEqual(new Set(['silent']));
  });
});
