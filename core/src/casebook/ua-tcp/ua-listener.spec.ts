import { sha1 } from '@noble/hashes/legacy';
import fc from 'fast-check';
import { Budget } from '../capture/budget';
import type { End, Listener } from '../conversation/dialect';
import { certify, party, rootOf } from '../../testing/pki';
import { ascii, joinBytes } from '../../testing/captures';
import {
  acknowledge,
  chunk,
  createSession,
  errorMessage,
  fault,
  hello,
  noneUri,
  opening,
  openRequest,
  request,
  response,
  reverseHello,
  signInAnonymous,
  signInByCertificate,
  signInByPassword,
} from '../../testing/ua-messages';
import { uaTcp } from './ua-listener';

type Said = readonly [from: 0 | 1, bytes: Uint8Array];
const url = 'opc.tcp://press-1:4840';
const secured = 'http://opcfoundation.org/UA/SecurityPolicy#Basic256Sha256';
const upper = (bytes: Uint8Array): string => Buffer.from(bytes).toString('hex').toUpperCase();

function listened(said: readonly Said[], partBytes = Number.MAX_SAFE_INTEGER): Listener {
  const listener = uaTcp.listen(new Budget(1 << 24));
  said.forEach(([from, bytes], index) => {
    for (let at = 0; at < bytes.length; at += partBytes)
      listener.hear(from, bytes, at, Math.min(at + partBytes, bytes.length), 1_000_000 * (index + 1));
  });
  return listener;
}
const told = (said: readonly Said[], partBytes?: number) => {
  const listener = listened(said, partBytes);
  listener.end();
  return listener.told();
};

const opened: readonly Said[] = [
  [0, hello(url)],
  [1, acknowledge()],
  [0, opening(1, 1, openRequest())],
  [1, opening(1, 1, response('OpenSecureChannel'))],
];
const session: readonly Said[] = [
  ...opened,
  [0, chunk(2, 2, createSession('urn:press-1:hmi', url))],
  [1, chunk(2, 2, response('CreateSession'))],
];

const hears = (listener: Listener, from: End, bytes: Uint8Array): void =>
  listener.hear(from, bytes, 0, bytes.length, 1);

describe('a conversation in UA', () => {
  it('is known by its first bytes alone, and nothing else is', () => {
    expect(uaTcp.recognises(hello(url).subarray(0, 8))).toBe(true);
    expect(uaTcp.recognises(ascii('HE'))).toBeNull();
    expect(uaTcp.recognises(ascii('HELX1234'))).toBe(false);
    expect(uaTcp.recognises(ascii('GET / HTTP/1.1'))).toBe(false);
  });

  it('tells its endpoint, its policy and all calls with what came of them', () => {
    const all = told([
      ...session,
      [0, chunk(3, 3, signInAnonymous())],
      [1, chunk(3, 3, response('ActivateSession'))],
      [0, chunk(4, 4, request('Read'))],
      [1, chunk(4, 4, fault(0x80340000))],
      [0, chunk(5, 5, request('CloseSecureChannel'), 'CLOF')],
    ]);
    expect(all).toMatchObject({
      endpointUrl: url,
      securityPolicyUri: noneUri,
      securityMode: 'None',
      error: { code: 0x80340000, name: 'BadNodeIdUnknown', reason: 'Read failed.' },
      notes: ['The client calls itself urn:press-1:hmi.', 'Signed in without a name (anonymous).'],
    });
    expect(all.services?.map(({ name, result }) => [name, result])).toEqual([
      ['OpenSecureChannel', 'Good'],
      ['CreateSession', 'Good'],
      ['ActivateSession', 'Good'],
      ['Read', 'BadNodeIdUnknown'],
      ['CloseSecureChannel', null],
    ]);
    expect(all.services?.at(0)?.at).toBe(3_000_000);
  });

  it('is the same in whatever pieces it came', () => {
    const said: readonly Said[] = [
      ...session,
      [0, chunk(3, 3, signInByPassword('shift', 'Marrowby-1', null))],
      [1, chunk(3, 3, fault(0x801f0000))],
    ];
    const whole = told(said);
    expect(whole.user).toBe('shift');
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 40 }), (partBytes) => expect(told(said, partBytes)).toEqual(whole)),
    );
  });

  it('tells a password in clear text as seen, and never gives it out', () => {
    const clear = told([...session, [0, chunk(3, 3, signInByPassword('shift', 'Marrowby-1', null))]]);
    expect(clear.user).toBe('shift');
    expect(clear.notes).toContain('A password went over this connection in clear text.');
    expect(JSON.stringify(clear)).not.toContain('Marrowby-1');
    const hidden = told([...session, [0, chunk(3, 3, signInByPassword('shift', 'x', 'http://rsa'))]]);
    expect(hidden.notes).not.toContain('A password went over this connection in clear text.');
  });

  it('tells who signed in by a certificate', async () => {
    const root = await party('Marrowby root');
    const user = await certify(await party('Shift lead'), root);
    const all = told([...session, [0, chunk(3, 3, signInByCertificate(user))]]);
    expect(all.user).toContain('Shift lead');
    expect(all.notes.join()).toContain(upper(sha1(user)));
  });

  it('tells of a secured channel by whom for whom, and how much can’t be told', async () => {
    const authority = await party('Marrowby root');
    const certificate = await certify(await party('Press HMI'), authority);
    const chain = joinBytes(certificate, await rootOf(authority));
    const receiver = Uint8Array.from({ length: 20 }, (_, index) => index);
    const hidden = Uint8Array.from({ length: 256 }, (_, index) => (index * 7 + 3) & 255);
    const more = { policyUri: secured, certificate: chain, receiverThumbprint: receiver };
    const said: readonly Said[] = [
      ...opened.slice(0, 2),
      [0, opening(0x4711, 0x4712, hidden, more)],
      [1, opening(0x4713, 0x4714, hidden, more)],
      [0, chunk(0x5511, 0x5512, hidden)],
    ];
    const expected = {
      securityPolicyUri: secured,
      securityMode: 'SignAndEncrypt',
      senderThumbprint: upper(sha1(certificate)),
      receiverThumbprint: upper(receiver),
      notes: ['1 message was encrypted: what it says can’t be told.'],
    };
    expect(told(said)).toMatchObject(expected);
    expect(told(said).services?.map(({ name, result }) => [name, result])).toEqual([['OpenSecureChannel', 'Good']]);
    expect(listened(said).isAmid).toBe(true);
    expect(listened([...said, [1, chunk(0x5513, 0x5514, hidden)]]).isAmid).toBe(false);
  });

  it('reads what is only signed', () => {
    const said: readonly Said[] = [
      ...opened.slice(0, 2),
      [0, opening(1, 1, new Uint8Array(256), { policyUri: secured })],
      [1, opening(1, 1, new Uint8Array(256), { policyUri: secured })],
      [0, chunk(2, 2, joinBytes(createSession('urn:press-1:hmi', url), new Uint8Array(32)))],
      [1, chunk(2, 2, joinBytes(fault(0x80130000), new Uint8Array(32)))],
    ];
    expect(told(said)).toMatchObject({ securityMode: 'Sign', error: { name: 'BadSecurityChecksFailed' } });
    expect(
      told(said)
        .services?.map(({ name, result }) => [name, result])
        .at(-1),
    ).toEqual(['CreateSession', 'BadSecurityChecksFailed']);
  });

  it('ends by the error that one of them sent, whatever failed before', () => {
    const said: readonly Said[] = [
      ...session,
      [0, chunk(3, 3, request('Read'))],
      [1, chunk(3, 3, fault(0x80340000))],
      [1, errorMessage(0x80860000, 'the channel is gone')],
    ];
    expect(told(said).error).toEqual({
      code: 0x80860000,
      name: 'BadSecureChannelClosed',
      reason: 'the channel is gone',
    });
  });

  it('forgets a failure once the same service has worked', () => {
    const said: readonly Said[] = [
      ...session,
      [0, chunk(3, 3, signInAnonymous())],
      [1, chunk(3, 3, fault(0x801f0000))],
      [0, chunk(4, 4, signInByPassword('shift', 'x', 'http://rsa'))],
      [1, chunk(4, 4, response('ActivateSession'))],
    ];
    expect(told(said).error).toBeUndefined();
    expect(told(said.slice(0, -1)).error?.name).toBe('BadUserAccessDenied');
  });

  it('tells when the server called its client', () => {
    const said: readonly Said[] = [
      [0, reverseHello('urn:press-1', url)],
      ...opened.map(([from, bytes]) => [from === 0 ? 1 : 0, bytes] as const),
    ];
    expect(listened(said).asks).toBe(1);
    expect(told(said).notes).toContain('The server urn:press-1 called its client (ReverseHello).');
  });

  it('puts a message of several chunks together, and hears that one was given up', () => {
    const whole = signInByPassword('shift', 'x', 'http://rsa');
    const said: readonly Said[] = [
      ...session,
      [0, chunk(3, 3, whole.subarray(0, 70), 'MSGC')],
      [0, chunk(4, 3, whole.subarray(70, 90), 'MSGC')],
      [0, chunk(5, 3, whole.subarray(90))],
      [1, chunk(3, 3, joinBytes([0, 0, 0x80, 0x80], [0xff, 0xff, 0xff, 0xff]), 'MSGA')],
    ];
    expect(told(said)).toMatchObject({ user: 'shift', error: { name: 'BadTcpMessageTooLarge' } });
  });

  it('says when sequence numbers jump', () => {
    const said: readonly Said[] = [...session, [0, chunk(9, 9, request('Read'))]];
    expect(told(said).notes).toContain('Sequence numbers did not follow one another, once.');
    expect(told(session).notes.join()).not.toContain('Sequence');
  });

  it('goes on behind what is missing, within a message and over several', () => {
    for (const lost of [100, 5000]) {
      const listener = uaTcp.listen(new Budget(1 << 24));
      for (const [from, bytes] of session) hears(listener, from, bytes);
      const large = chunk(3, 3, joinBytes(response('Read'), new Uint8Array(1000)));
      hears(listener, 1, large.subarray(0, 300));
      listener.miss(1, lost);
      if (lost === 100) hears(listener, 1, large.subarray(400));
      hears(listener, 0, chunk(3, 3, request('Write')));
      hears(listener, 1, chunk(4, 3, response('Write')));
      expect(listener.told().services?.at(-1)).toMatchObject({ name: 'Write', result: 'Good' });
    }
  });

  it('hears whatever comes without a complaint, and gives back what it held', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom(0 as const, 1 as const), fc.uint8Array({ maxLength: 300 }))),
        (noise) => {
          const budget = new Budget(1 << 20);
          const listener = uaTcp.listen(budget);
          for (const [from, bytes] of [...session, ...noise]) hears(listener, from, bytes);
          listener.told();
          listener.end();
          expect(budget.take(1 << 20)).toBe(true);
        },
      ),
    );
  });
});
