import { BinaryReader } from '../../ua/binary-reader.js';
import { identityTokens } from '../../ua/service-types.js';
import type { TokenType } from '../../ua/user-tokens.js';

/** Who asks for a session, and where (Part 4 §5.7.2). */
export interface SessionWish {
  readonly applicationUri: string | null;
  readonly endpointUrl: string | null;
}

/** What a user has shown (Part 4 §7.40); of a password only that it could be read by everybody. */
export interface SignIn {
  readonly tokenType: TokenType;
  readonly userName: string | null;
  readonly certificate: Uint8Array | null;
  readonly hasClearPassword: boolean;
}

/**
 * @param body of a CreateSession request, with its type
 * @throws BinaryFault where it is cut off or broken
 */
export function readSessionWish(body: Uint8Array): SessionWish {
  const reader = requestIn(body);
  const applicationUri = reader.string();
  reader.string();
  reader.localizedText();
  reader.skip(4);
  reader.string();
  reader.string();
  reader.array(() => reader.string());
  reader.string();
  return { applicationUri, endpointUrl: reader.string() };
}

/**
 * @param body of an ActivateSession request, with its type
 * @returns null: nobody signs in by it, or by something that is not known
 * @throws BinaryFault where it is cut off or broken
 */
export function readSignIn(body: Uint8Array): SignIn | null {
  const reader = requestIn(body);
  reader.string();
  reader.byteString();
  reader.array(() => {
    reader.byteString();
    reader.byteString();
  });
  reader.array(() => reader.string());
  const token = reader.extensionObject();
  const tokenType = tokenTypes[token.typeId ?? 0];
  if (!token.body || tokenType === undefined) return null;
  const nothing = { tokenType, userName: null, certificate: null, hasClearPassword: false };
  const shown = new BinaryReader(token.body);
  shown.string();
  if (tokenType === 'Certificate') return { ...nothing, certificate: shown.byteString() };
  if (tokenType !== 'UserName') return nothing;
  const userName = shown.string();
  const password = shown.byteString();
  const algorithm = shown.string();
  return { ...nothing, userName, hasClearPassword: password !== null && password.length > 0 && !algorithm };
}

const tokenTypes: Readonly<Record<number, TokenType>> = {
  [identityTokens.anonymous]: 'Anonymous',
  [identityTokens.userName]: 'UserName',
  [identityTokens.certificate]: 'Certificate',
  [identityTokens.issued]: 'IssuedToken',
};

/** Behind the type and the header of a request. */
function requestIn(body: Uint8Array): BinaryReader {
  const reader = new BinaryReader(body);
  reader.nodeId();
  reader.requestHeader();
  return reader;
}
