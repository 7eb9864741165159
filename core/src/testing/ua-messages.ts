import { serviceMessageOf } from '../ua/service-types';
import { ascii, joinBytes, le16, le32 } from './captures';

/** Messages of UA TCP, as they go over a connection (Part 6 §6.7, §7.1). */
export const noneUri = 'http://opcfoundation.org/UA/SecurityPolicy#None';

export const uaString = (text: string | null): Uint8Array =>
  text === null ? Uint8Array.from(le32(0xffffffff)) : joinBytes(le32(ascii(text).length), ascii(text));
export const byteString = (bytes: Uint8Array | null): Uint8Array =>
  bytes === null ? Uint8Array.from(le32(0xffffffff)) : joinBytes(le32(bytes.length), bytes);
const nothing = uaString(null);
const numericId = (id: number): Uint8Array => Uint8Array.from([1, 0, ...le16(id)]);

const message = (type: string, body: Uint8Array): Uint8Array => joinBytes(ascii(type), le32(8 + body.length), body);

export const hello = (endpointUrl: string): Uint8Array =>
  message('HELF', joinBytes(...[0, 65_536, 65_536, 0, 0].map(le32), uaString(endpointUrl)));
export const acknowledge = (): Uint8Array => message('ACKF', joinBytes(...[0, 65_536, 65_536, 0, 0].map(le32)));
export const errorMessage = (code: number, reason: string): Uint8Array =>
  message('ERRF', joinBytes(le32(code), uaString(reason)));
export const reverseHello = (serverUri: string, endpointUrl: string): Uint8Array =>
  message('RHEF', joinBytes(uaString(serverUri), uaString(endpointUrl)));

let idsByName: ReadonlyMap<string, number> | null = null;
/** The id of `Read`’s request, or with `isRequest` false of its answer. */
function typeIdOf(name: string, isRequest: boolean): number {
  idsByName ??= new Map(
    Array.from({ length: 13_000 }, (_, id) => id).flatMap((id) => {
      const found = serviceMessageOf(id);
      return found ? [[`${found.name} ${found.isRequest}`, id] as const] : [];
    }),
  );
  const id = idsByName.get(`${name} ${isRequest}`);
  if (id === undefined) throw new Error(`No service ${name}.`);
  return id;
}

export const requestHeader = (): Uint8Array =>
  joinBytes(numericId(0), new Uint8Array(8), le32(1), le32(0), nothing, le32(10_000), [0, 0, 0]);
const responseHeader = (code: number): Uint8Array =>
  joinBytes(new Uint8Array(8), le32(1), le32(code), [0], le32(0xffffffff), [0, 0, 0]);

export const request = (name: string, body: Uint8Array = new Uint8Array()): Uint8Array =>
  joinBytes(numericId(typeIdOf(name, true)), requestHeader(), body);
export const response = (name: string, code = 0): Uint8Array =>
  joinBytes(numericId(typeIdOf(name, false)), responseHeader(code));
export const fault = (code: number): Uint8Array => response('ServiceFault', code);

export interface Opening {
  readonly policyUri?: string;
  readonly certificate?: Uint8Array | null;
  readonly receiverThumbprint?: Uint8Array | null;
}
export const opening = (sequence: number, requestId: number, body: Uint8Array, more: Opening = {}): Uint8Array =>
  message(
    'OPNF',
    joinBytes(
      le32(1),
      uaString(more.policyUri ?? noneUri),
      byteString(more.certificate ?? null),
      byteString(more.receiverThumbprint ?? null),
      le32(sequence),
      le32(requestId),
      body,
    ),
  );
/** What opens a channel: client’s protocol version, kind of request, mode (1 None, 2 Sign, 3 SignAndEncrypt), nonce, lifetime. */
export const openRequest = (mode = 1): Uint8Array =>
  request('OpenSecureChannel', joinBytes(le32(0), le32(0), le32(mode), nothing, le32(3_600_000)));

export const chunk = (sequence: number, requestId: number, body: Uint8Array, type = 'MSGF'): Uint8Array =>
  message(type, joinBytes(le32(1), le32(1), le32(sequence), le32(requestId), body));

export const createSession = (applicationUri: string, endpointUrl: string): Uint8Array =>
  request(
    'CreateSession',
    joinBytes(
      uaString(applicationUri),
      nothing,
      [0],
      le32(1),
      nothing,
      nothing,
      le32(0xffffffff),
      nothing,
      uaString(endpointUrl),
      uaString('a session'),
    ),
  );

function signIn(tokenType: number, body: Uint8Array): Uint8Array {
  const token = joinBytes(numericId(tokenType), [1], byteString(body));
  return request('ActivateSession', joinBytes(nothing, nothing, le32(0), le32(0), token, nothing, nothing));
}
export const signInAnonymous = (): Uint8Array => signIn(321, uaString('anonymous'));
export const signInByPassword = (user: string, password: string, algorithm: string | null): Uint8Array =>
  signIn(324, joinBytes(uaString('name'), uaString(user), byteString(ascii(password)), uaString(algorithm)));
export const signInByCertificate = (certificate: Uint8Array): Uint8Array =>
  signIn(327, joinBytes(uaString('certificate'), byteString(certificate)));
