import { randomBytes, timingSafeEqual } from 'node:crypto';
import { protects } from '../rpc/security.js';
import type { Agreeing, Level, SaidAccount } from '../rpc/security.js';
import { fileTimeOctets, millisOfFileTime } from './client.js';
import { proofOf, responseKey, sessionBaseKey } from './keys.js';
import {
  attributeOf,
  carriesMic,
  hasFlag,
  micAt,
  ntlmFlags,
  readAttributes,
  readAuthenticate,
  readNegotiate,
  targetAttributes,
  writeChallenge,
  spokenFlags,
} from './messages.js';
import type { Authenticate } from './messages.js';
import { Rc4Stream, hmacMd5, utf16 } from './primitives.js';
import { ntlmSession } from './session.js';

export interface NtlmServer {
  readonly computer: string;
  readonly domain: string;
  readonly dnsComputer: string;
  /** Milliseconds since 1970, by the server’s clock. */
  readonly now: () => number;
  /** The hash of an account’s password; null: there is no such account, or it may not sign in. */
  readonly hashOf: (user: string, domain: string) => Uint8Array | null;
  /** Whether it says its time in the challenge: then clients answer by it, and clocks don’t matter. Absent: it does. */
  readonly tellsTime?: boolean;
  /**
   * Told of accounts that can’t be proven, and whether they are let in as what they say they are: that is possible at levels
   * without signatures alone, as nothing that they sign could be looked at. Absent: they are refused.
   */
  readonly unproven?: (account: SaidAccount, peer: { readonly address: string; readonly level: Level }) => boolean;
  /** Told of everybody who gave a name, and whether it was proven. */
  readonly tried?: (account: SaidAccount, peer: { readonly address: string; readonly level: Level }) => void;
  /** Whether nobody may sign in as nobody. Anonymous connections may still be refused what they ask for. */
  readonly refusesAnonymous?: boolean;
}

const f = ntlmFlags;
/** How far clocks may be apart: 30 minutes, as servers are set (MS-NLMP 3.2.5.1.2, MaxLifetime’s usual bound). */
const mostSkewMs = 30 * 60_000;

/** Lets clients in by NTLMv2 (MS-NLMP 3.2.5). The first version, and sessions without extended security, are refused. */
export function ntlmServer(server: NtlmServer): Agreeing {
  return (first, peer) => {
    const asked = readNegotiate(first);
    const challenge = randomBytes(8);
    const flags =
      ((asked.flags & spokenFlags) | f.targetInfo | f.targetIsServer | f.unicode | f.ntlm | f.extendedSecurity) >>> 0;
    const message = writeChallenge({
      flags,
      targetName: server.computer,
      challenge,
      target: [
        { id: targetAttributes.domainName, value: utf16(server.domain) },
        { id: targetAttributes.computerName, value: utf16(server.computer) },
        { id: targetAttributes.dnsComputerName, value: utf16(server.dnsComputer) },
        ...(server.tellsTime === false ? [] : [{ id: targetAttributes.time, value: fileTimeOctets(server.now()) }]),
      ],
    });
    return {
      challenge: message,
      take: (token) => {
        const said = readAuthenticate(token);
        if (isAnonymous(said)) {
          if (server.refusesAnonymous) return { refused: 'Nobody may sign in as nobody.' };
          return sessionFor(new Uint8Array(16), said, null);
        }
        const key = proven(server, challenge, said);
        server.tried?.(named(said, typeof key !== 'string'), peer);
        if (typeof key === 'string' && server.unproven?.(named(said, false), peer) && !protects(peer.level))
          return sessionFor(randomBytes(16), said, named(said, false));
        if (typeof key === 'string') return { refused: key };
        const session = sessionFor(key.key, said, named(said, true));
        if ('refused' in session || !key.carriesMic) return session;
        const whole = token.slice();
        whole.fill(0, micAt, micAt + 16);
        const mic = hmacMd5(session.key, first, message, whole);
        const isWhole = said.mic !== null && timingSafeEqual(mic, said.mic);
        return isWhole ? session : { refused: 'The messages were changed on the way.' };
      },
    };
  };
}

const isAnonymous = ({ user, ntResponse, lmResponse }: Authenticate): boolean =>
  user === '' && ntResponse.length === 0 && lmResponse.length <= 1;

const proofOctets = 16;
/** Up to the attributes: version, zeros, time, the client’s challenge, zeros. */
const headOctets = 28;

/** The key of the session, or why there is none. */
function proven({ hashOf, now }: NtlmServer, challenge: Uint8Array, { user, domain, ntResponse }: Authenticate) {
  if (ntResponse.length < proofOctets + headOctets) return 'The first version of NTLM is not taken.';
  const proof = ntResponse.subarray(0, proofOctets);
  const client = ntResponse.subarray(proofOctets);
  const hash = hashOf(user, domain);
  const key = responseKey(hash ?? new Uint8Array(16), user, domain);
  const isRight = timingSafeEqual(proofOf(key, challenge, client), proof);
  if (!hash || !isRight) return 'Unknown name or wrong password.';
  const time = millisOfFileTime(Buffer.from(client.subarray(8, 16)).readBigUInt64LE());
  if (Math.abs(time - now()) > mostSkewMs) return 'The clocks are too far apart.';
  const flags = attributeOf(readAttributes(client.subarray(headOctets)), targetAttributes.flags);
  return { key: sessionBaseKey(key, proof), carriesMic: flags !== null && ((flags[0] ?? 0) & carriesMic) !== 0 };
}

const named = ({ user, domain, workstation }: Authenticate, isProven: boolean): SaidAccount => ({
  user,
  domain,
  workstation,
  isProven,
});

function sessionFor(key: Uint8Array, said: Authenticate, account: SaidAccount | null) {
  const exchanges = hasFlag(said.flags, f.keyExchange);
  if (exchanges && said.encryptedKey.length !== 16) return { refused: 'There is no key for the session.' };
  if (!hasFlag(said.flags, f.extendedSecurity)) return { refused: 'Extended session security is wanted.' };
  const session = exchanges ? new Rc4Stream(key).apply(said.encryptedKey.slice()) : key;
  return { account, key: session, security: ntlmSession(session, said.flags, 'server') };
}
