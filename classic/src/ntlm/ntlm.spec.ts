import fc from 'fast-check';
import { WireFault } from '../octets/wire-fault.js';
import { services } from '../rpc/security.js';
import { ntlmClient } from './client.js';
import {
  clientPart,
  lmV2Response,
  passwordHash,
  proofOf,
  responseKey,
  sealingKey,
  sessionBaseKey,
  signingKey,
} from './keys.js';
import {
  ntlmFlags,
  readAttributes,
  readAuthenticate,
  readChallenge,
  readNegotiate,
  writeAttributes,
  writeChallenge,
} from './messages.js';
import { Rc4Stream, utf16 } from './primitives.js';
import { ntlmServer } from './server.js';
import type { NtlmServer } from './server.js';
import { ntlmSession } from './session.js';

const octets = (hex: string): Uint8Array => new Uint8Array(Buffer.from(hex.replace(/\s/g, ''), 'hex'));
const hex = (value: Uint8Array): string => Buffer.from(value).toString('hex');

/** MS-NLMP 4.2.1 and 4.2.4: values, keys and messages of the published example. */
describe('NTLMv2 as its specification computes it', () => {
  const serverChallenge = octets('0123456789abcdef');
  const clientChallenge = octets('aa'.repeat(8));
  const session = octets('55'.repeat(16));
  const target = octets('02000c0044006f006d00610069006e0001000c0053006500720076006500720000000000');
  const key = responseKey(passwordHash('Password'), 'User', 'Domain');
  const client = clientPart(new Uint8Array(8), clientChallenge, target);
  const proof = proofOf(key, serverChallenge, client);

  it('makes the key of the response', () => {
    expect(hex(passwordHash('Password'))).toBe('a4f49c406510bdcab6824ee7c30fd852');
    expect(hex(key)).toBe('0c868a403bfd7a93a3001ef22ef02e3f');
  });

  it('answers the challenge', () => {
    expect(hex(proof)).toBe('68cd0ab851e51c96aabc927bebef6a1c');
    expect(hex(lmV2Response(key, serverChallenge, clientChallenge))).toBe(
      '86c35097ac9cec102554764a57cccc19aaaaaaaaaaaaaaaa',
    );
  });

  it('makes the keys of the session', () => {
    const base = sessionBaseKey(key, proof);
    expect(hex(base)).toBe('8de40ccadbc14a82f15cb0ad0de95ca3');
    expect(hex(new Rc4Stream(base).apply(session.slice()))).toBe('c5dad2544fc9799094ce1ce90bc9d03e');
    expect(hex(sealingKey(session, 'client-to-server', ntlmFlags.key128))).toBe('59f600973cc4960a25480a7c196e4c58');
    expect(hex(signingKey(session, 'client-to-server'))).toBe('4788dc861b4782f35d43fd98fe1a2d39');
  });

  it('seals and signs', () => {
    const message = octets('50006c00610069006e007400650078007400');
    const flags = ntlmFlags.key128 | ntlmFlags.keyExchange;
    const signature = ntlmSession(session, flags, 'client').seal(message, 0, message.length);
    expect(hex(message)).toBe('54e50165bf1936dc996020c1811b0f06fb5f');
    expect(hex(signature)).toBe('010000007fb38ec5c55d497600000000');
  });

  it('reads the challenge of the example', () => {
    const message = octets(`4e544c4d53535000 02000000 0c000c00 38000000 33828ae2 0123456789abcdef 0000000000000000
      24002400 44000000 06007017 0000000f 530065007200760065007200 ${hex(target)}`);
    const read = readChallenge(message);
    expect(read.targetName).toBe('Server');
    expect(hex(read.challenge)).toBe('0123456789abcdef');
    expect(read.target.map(({ id, value }) => [id, Buffer.from(value).toString('utf16le')])).toEqual([
      [2, 'Domain'],
      [1, 'Server'],
    ]);
  });
});

const now = Date.UTC(2026, 2, 3, 8);
const account = { user: 'opc-reader', domain: 'FURNACE-3', password: 'made up for this test' };
const server = (more: Partial<NtlmServer> = {}) =>
  ntlmServer({
    computer: 'FURNACE-3',
    domain: 'FURNACE-3',
    dnsComputer: 'furnace-3.marrowby.example',
    now: () => now,
    hashOf: (user) => (user === account.user ? passwordHash(account.password) : null),
    ...more,
  });
const client = (more: Partial<Parameters<typeof ntlmClient>[0]> = {}) =>
  ntlmClient({
    account,
    level: 'privacy',
    targetName: 'RPCSS/furnace-3',
    workstation: 'CONTROL-1',
    now: () => now,
    ...more,
  });

function signIn(
  agreeing: ReturnType<typeof server>,
  agreement: ReturnType<typeof client>,
  changed = (token: Uint8Array) => token,
) {
  const there = agreeing(agreement.first, { address: '127.0.0.1', level: 'privacy' });
  const { token, security } = agreement.answer(there.challenge);
  return { security, taken: there.take(changed(token)) };
}

describe('signing in by NTLM', () => {
  it('gives both sides one key, and what one seals the other opens, in order', () => {
    const { security, taken } = signIn(server(), client());
    if ('refused' in taken) throw new Error(taken.refused);
    expect(taken.account).toEqual({
      user: 'opc-reader',
      domain: 'FURNACE-3',
      workstation: 'CONTROL-1',
      isProven: true,
    });
    for (const [from, to] of [
      [security, taken.security],
      [taken.security, security],
      [security, taken.security],
    ] as const) {
      const message = octets('000102030405060708090a0b0c0d0e0f');
      const signature = from.seal(message, 4, 12);
      expect(hex(message.subarray(0, 4))).toBe('00010203');
      expect(hex(message.subarray(4, 12))).not.toBe('0405060708090a0b');
      expect(to.unseal(message, 4, 12, signature)).toBe(true);
      expect(hex(message)).toBe('000102030405060708090a0b0c0d0e0f');
    }
    const message = octets('0102');
    expect(taken.security.isSigned(octets('0103'), security.sign(message))).toBe(false);
  });

  it('tells what the server says of itself, its clock among it', () => {
    let told: unknown;
    signIn(server({ now: () => now + 5000 }), client({ told: (target) => (told = target) }));
    expect(told).toEqual({
      name: 'FURNACE-3',
      computer: 'FURNACE-3',
      domain: 'FURNACE-3',
      dnsComputer: 'furnace-3.marrowby.example',
      time: now + 5000,
    });
  });

  it.each([
    [
      'a wrong password',
      client({ account: { ...account, password: 'another' } }),
      server(),
      'Unknown name or wrong password.',
    ],
    [
      'an unknown name',
      client({ account: { ...account, user: 'nobody' } }),
      server(),
      'Unknown name or wrong password.',
    ],
    [
      'nobody, where that is refused',
      client({ account: null }),
      server({ refusesAnonymous: true }),
      'Nobody may sign in as nobody.',
    ],
  ])('refuses %s', (_case, agreement, agreeing, says) => {
    expect(signIn(agreeing, agreement).taken).toEqual({ refused: says });
  });

  it('refuses clocks that are hours apart', () => {
    let time = now;
    const agreeing = server({ now: () => time });
    const agreement = client();
    const there = agreeing(agreement.first, { address: '127.0.0.1', level: 'privacy' });
    const { token } = agreement.answer(there.challenge);
    time += 2 * 3_600_000;
    expect(there.take(token)).toEqual({ refused: 'The clocks are too far apart.' });
  });

  it('refuses messages that were changed on the way', () => {
    // The workstation is under no proof, only under the integrity code.
    const changed = (token: Uint8Array) => {
      const at = Buffer.from(token).indexOf(utf16('CONTROL-1'));
      token[at] = 0x44;
      return token;
    };
    expect(signIn(server(), client(), changed).taken).toEqual({ refused: 'The messages were changed on the way.' });
  });

  it('lets nobody in as nobody', () => {
    const { taken } = signIn(server(), client({ account: null }));
    expect(taken).toMatchObject({ account: null });
  });

  it('tells of accounts that it can’t prove, and lets them in where nothing is signed', () => {
    const told: string[] = [];
    const agreeing = server({ hashOf: () => null, unproven: ({ user }) => told.push(user) > 0 });
    const there = (level: 'connect' | 'integrity') => {
      const agreement = client({ level });
      const begun = agreeing(agreement.first, { address: '127.0.0.1', level });
      return begun.take(agreement.answer(begun.challenge).token);
    };
    expect(there('connect')).toMatchObject({ account: { user: 'opc-reader', isProven: false } });
    expect(there('integrity')).toEqual({ refused: 'Unknown name or wrong password.' });
    expect(told).toEqual(['opc-reader', 'opc-reader']);
  });

  it('speaks no first version', () => {
    const challenge = writeChallenge({
      flags: ntlmFlags.unicode | ntlmFlags.ntlm,
      targetName: '',
      challenge: octets('01'.repeat(8)),
      target: [],
    });
    expect(() => client().answer(challenge)).toThrow(WireFault);
    expect(client().service).toBe(services.ntlm);
  });

  it('reads whatever comes, or says that it is none', () => {
    const readers = [readNegotiate, readChallenge, readAuthenticate, readAttributes];
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), fc.nat(3), (tail, kind) => {
        const message = Buffer.concat([Buffer.from('NTLMSSP\0'), Uint8Array.of(kind, 0, 0, 0), tail]);
        for (const read of readers)
          try {
            read(message);
          } catch (error) {
            expect(error).toBeInstanceOf(WireFault);
          }
      }),
    );
  });

  it('writes attributes so that they are read again', () => {
    const attribute = fc.record({ id: fc.integer({ min: 1, max: 10 }), value: fc.uint8Array({ maxLength: 40 }) });
    fc.assert(
      fc.property(fc.array(attribute, { maxLength: 12 }), (list) =>
        expect(readAttributes(writeAttributes(list))).toEqual(list),
      ),
    );
  });
});
