import fc from 'fast-check';
import { Dialogue, ascii, pcap } from '../../testing/captures';
import type { Frame } from '../../testing/captures';
import {
  acknowledge,
  chunk,
  createSession,
  errorMessage,
  fault,
  hello,
  opening,
  openRequest,
  request,
  response,
  signInByPassword,
} from '../../testing/ua-messages';
import { tls } from '../tls/tls-listener';
import { uaTcp } from '../ua-tcp/ua-listener';
import { StoryReading } from './story-reading';
import type { Story } from './story-reading';

const url = 'opc.tcp://press-1.works.example:4840';
const first = 24;

function storyIn(frames: readonly Frame[], bytesOf: number | null = null, partBytes = 1 << 20): Story | null {
  const bytes = pcap(frames);
  const reading = new StoryReading([uaTcp, tls], first, bytesOf);
  for (let at = 0; at < bytes.length; at += partBytes) reading.take(bytes.subarray(at, at + partBytes));
  return reading.end();
}
const told = (dialogue: Dialogue): readonly string[] =>
  (storyIn(dialogue.frames)?.messages ?? []).map(
    ({ from, what, isAnswer, outcome, says }) =>
      `${from}: ${[what, isAnswer ? 'answered' : '', outcome ?? '', says].filter(Boolean).join(', ')}`,
  );
const channel = (): Dialogue =>
  new Dialogue(1e6)
    .opened()
    .says(0, hello(url))
    .says(1, acknowledge())
    .says(0, opening(1, 1, openRequest()))
    .says(1, opening(1, 1, response('OpenSecureChannel')));
const session = (): Dialogue =>
  channel()
    .says(0, chunk(2, 2, createSession('urn:press-1:hmi', url)))
    .says(1, chunk(2, 2, response('CreateSession')))
    .says(0, chunk(3, 3, signInByPassword('operator', 'secret-1', null)))
    .says(1, chunk(3, 3, fault(0x801f0000)))
    .says(0, chunk(4, 4, request('Read')))
    .closed();

describe('the story of a conversation', () => {
  it('tells each message, and what happened to the connection', () => {
    expect(told(session())).toEqual([
      'client: Connection, asks for a connection',
      'server: Connection, answered, well, takes the connection',
      'client: Hello',
      'server: Acknowledge, answered, well',
      'client: OpenSecureChannel',
      'server: OpenSecureChannel, answered, well',
      'client: CreateSession',
      'server: CreateSession, answered, well',
      'client: ActivateSession',
      expect.stringMatching(/^server: ActivateSession, answered, badly, Bad_UserAccessDenied: ./),
      'client: Read',
      'client: Connection, closes its side',
      'server: Connection, closes its side',
    ]);
  });

  it('says who signs in, and never shows a password', () => {
    const whole = storyIn(session().frames);
    const signIn = whole?.messages.find(({ what }) => what === 'ActivateSession');
    expect(signIn?.details).toContainEqual(['User', 'operator']);
    expect(signIn?.withheld).toBe('It may hold a password.');
    expect(storyIn(session().frames, signIn?.index)?.bytes).toBeNull();
    expect(JSON.stringify(whole)).not.toContain('secret-1');
  });

  it.each(['Call', 'Write'])('withholds the bytes of %s, whose values may be passwords', (name) => {
    const story = storyIn(channel().says(0, chunk(2, 2, request(name))).frames);
    expect(story?.messages.at(-1)).toMatchObject({ what: name, withheld: 'It may hold a password.' });
  });

  it('withholds what is a part of a longer message', () => {
    const part = chunk(2, 2, signInByPassword('operator', 'secret-1', null), 'MSGC');
    const story = storyIn(
      channel()
        .says(0, part)
        .says(0, chunk(3, 2, ascii('secret-1'))).frames,
    );
    expect(story?.messages.slice(-2).map(({ withheld }) => withheld)).toEqual(Array(2).fill('It may hold a password.'));
  });

  it('has the bytes of a message that was asked for', () => {
    const story = storyIn(session().frames, 2);
    expect(new TextDecoder().decode(story?.bytes ?? undefined)).toContain(url);
  });

  it('tells of a connection that nobody took, and of one that was refused', () => {
    const asked = new Dialogue(1e6).packet(0, { syn: true });
    expect(told(asked.again())).toEqual([
      'client: Connection, asks for a connection',
      'client: Connection, asks again',
    ]);
    const refused = new Dialogue(1e6).packet(0, { syn: true }).packet(1, { rst: true, ack: true });
    expect(told(refused).at(-1)).toBe('server: Connection, badly, refuses it: nothing listens at the port');
    expect(told(channel().packet(1, { rst: true })).at(-1)).toBe('server: Connection, badly, breaks it off');
  });

  it('tells by which error a server ended it', () => {
    const ended = new Dialogue(1e6).opened().says(0, hello(url)).says(1, errorMessage(0x80830000, 'no such'));
    expect(told(ended).at(-1)).toMatch(/^server: Error, answered, badly, Bad_TcpEndpointUrlInvalid: ./);
  });

  it('tells of what nobody recognises only how much it was', () => {
    const talk = new Dialogue(1e6).opened().says(0, ascii('USER operator secret-1')).says(1, ascii('OK')).closed();
    const story = storyIn(talk.frames);
    expect(story?.messages.map(({ what, size }) => [what, size])).toContainEqual(['Data', 22]);
    expect(story?.messages.filter(({ layer }) => layer === 'message').every(({ withheld }) => withheld)).toBe(true);
    expect(JSON.stringify(story)).not.toContain('secret-1');
  });

  it('is of one connection alone, and is none where no conversation begins', () => {
    const other = new Dialogue(1e6, { address: '10.3.0.99', port: 1 }).opened().says(0, hello('opc.tcp://other'));
    const mixed = [...session().frames, ...other.frames].sort((one, two) => one.at - two.at);
    const own = session().frames[0];
    const story = storyIn([own as Frame, ...mixed.filter((frame) => frame !== mixed.find(({ at }) => at === own?.at))]);
    expect(JSON.stringify(story?.messages)).not.toContain('opc.tcp://other');
    const none = new StoryReading([uaTcp], 25);
    none.take(pcap(session().frames));
    expect(none.end()).toBeNull();
  });

  it('is the same however the file comes, and never throws', () => {
    const { frames } = session();
    const whole = storyIn(frames);
    expect(storyIn(frames, null, 7)).toEqual(whole);
    const bytes = pcap(frames);
    fc.assert(
      fc.property(fc.nat(bytes.length - 1), fc.nat(255), (at, value) => {
        const broken = bytes.slice();
        broken[at] = value;
        const reading = new StoryReading([uaTcp, tls], first, at % 20);
        reading.take(broken);
        reading.end();
      }),
    );
  });
});
