import { randomBytes } from 'node:crypto';
import { WireFault } from '../octets/wire-fault.js';
import { services } from '../rpc/security.js';
import type { AgreedSecurity, ClientAgreement, Level } from '../rpc/security.js';
import { clientPart, lmV2Response, passwordHash, proofOf, responseKey, sessionBaseKey } from './keys.js';
import {
  attributeOf,
  carriesMic,
  hasFlag,
  micAt,
  ntlmFlags,
  readChallenge,
  targetAttributes,
  writeAttributes,
  writeAuthenticate,
  writeNegotiate,
  spokenFlags,
} from './messages.js';
import type { TargetAttribute } from './messages.js';
import { Rc4Stream, hmacMd5, utf16 } from './primitives.js';
import { ntlmSession } from './session.js';

/** As whom a client signs in. */
export interface Account {
  readonly user: string;
  /** A domain’s name, or the machine’s that knows the account; empty: whichever the server takes. */
  readonly domain: string;
  readonly password: string;
}

/** What the server said of itself in its challenge; null: it did not. */
export interface ToldTarget {
  readonly name: string;
  readonly computer: string | null;
  readonly domain: string | null;
  readonly dnsComputer: string | null;
  /** Its clock, in milliseconds since 1970. */
  readonly time: number | null;
}

export interface NtlmClient {
  /** null: as nobody. */
  readonly account: Account | null;
  readonly level: Level;
  /** The service that is meant, such as `RPCSS/furnace-3`: told to the server, which may look at it. */
  readonly targetName: string;
  readonly workstation: string;
  /** Milliseconds since 1970, where the server doesn’t say what time it is. */
  readonly now: () => number;
  readonly told?: (target: ToldTarget) => void;
  /** What is drawn by chance; tests give their own. */
  readonly chance?: (octets: number) => Uint8Array;
}

const f = ntlmFlags;

/** Signs in by NTLMv2 (MS-NLMP 3.1.5), never by the first version. */
export function ntlmClient({
  account,
  level,
  targetName,
  workstation,
  now,
  told,
  chance = randomBytes,
}: NtlmClient): ClientAgreement {
  const negotiate = writeNegotiate(spokenFlags | (account ? 0 : f.anonymous));
  return {
    service: services.ntlm,
    level,
    first: negotiate,
    answer: (message) => {
      const challenge = readChallenge(message);
      told?.(targetIn(challenge.targetName, challenge.target));
      const flags = challenge.flags & spokenFlags;
      if (!hasFlag(flags, f.extendedSecurity) || !hasFlag(flags, f.unicode))
        throw new WireFault('The peer wants the first version of NTLM, which is not spoken here.', 20);
      const { key, lmResponse, ntResponse, carries } = account
        ? answerFor(account, challenge, targetName, now, chance)
        : { key: new Uint8Array(16), lmResponse: Uint8Array.of(0), ntResponse: new Uint8Array(), carries: false };
      const exchanges = hasFlag(flags, f.keyExchange);
      const session = exchanges ? Uint8Array.from(chance(16)) : key;
      const token = writeAuthenticate({
        flags: flags | (account ? 0 : f.anonymous),
        lmResponse,
        ntResponse,
        domain: account?.domain ?? '',
        user: account?.user ?? '',
        workstation: account ? workstation : '',
        encryptedKey: exchanges ? new Rc4Stream(key).apply(session.slice()) : new Uint8Array(),
      });
      if (carries) token.set(hmacMd5(session, negotiate, message, token), micAt);
      const security: AgreedSecurity = ntlmSession(session, flags, 'client');
      return { token, security };
    },
  };
}

function answerFor(
  { user, domain, password }: Account,
  challenge: ReturnType<typeof readChallenge>,
  targetName: string,
  now: () => number,
  chance: (octets: number) => Uint8Array,
) {
  const key = responseKey(passwordHash(password), user, domain);
  const serverTime = attributeOf(challenge.target, targetAttributes.time);
  const clientChallenge = Uint8Array.from(chance(8));
  // Where the server says its time, it looks for an integrity code, too (MS-NLMP 3.1.5.1.2).
  const carries = serverTime !== null;
  const target = writeAttributes(answeredTarget(challenge.target, targetName, carries));
  const client = clientPart(serverTime ?? fileTimeOctets(now()), clientChallenge, target);
  const proof = proofOf(key, challenge.challenge, client);
  return {
    key: sessionBaseKey(key, proof),
    lmResponse: carries ? new Uint8Array(24) : lmV2Response(key, challenge.challenge, clientChallenge),
    ntResponse: Buffer.concat([proof, client]),
    carries,
  };
}

function answeredTarget(
  told: readonly TargetAttribute[],
  targetName: string,
  carries: boolean,
): readonly TargetAttribute[] {
  const { flags, targetName: name, channelBindings } = targetAttributes;
  const kept = told.filter(({ id }) => id !== flags && id !== name && id !== channelBindings);
  const value = new Uint8Array(4);
  const before = attributeOf(told, flags);
  new DataView(value.buffer).setUint32(
    0,
    ((before && before.length === 4 ? (before[0] ?? 0) : 0) | carriesMic) >>> 0,
    true,
  );
  return [
    ...kept,
    ...(carries ? [{ id: flags, value }] : []),
    { id: channelBindings, value: new Uint8Array(16) },
    { id: name, value: utf16(targetName) },
  ];
}

function targetIn(name: string, attributes: readonly TargetAttribute[]): ToldTarget {
  const text = (id: number): string | null => {
    const value = attributeOf(attributes, id);
    return value && Buffer.from(value).toString('utf16le');
  };
  const time = attributeOf(attributes, targetAttributes.time);
  return {
    name,
    computer: text(targetAttributes.computerName),
    domain: text(targetAttributes.domainName),
    dnsComputer: text(targetAttributes.dnsComputerName),
    time: time?.length === 8 ? millisOfFileTime(Buffer.from(time).readBigUInt64LE()) : null,
  };
}

/** 100 ns since 1601 (MS-DTYP 2.3.3) and milliseconds since 1970. */
const epoch = 11_644_473_600_000n;
export const millisOfFileTime = (time: bigint): number => Number(time / 10_000n - epoch);
export const fileTimeOfMillis = (millis: number): bigint => (BigInt(Math.round(millis)) + epoch) * 10_000n;
export function fileTimeOctets(millis: number): Uint8Array {
  const octets = Buffer.alloc(8);
  octets.writeBigUInt64LE(fileTimeOfMillis(millis));
  return octets;
}
