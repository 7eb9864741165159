import { securityPolicyOf } from '@loyal-hinge/core';
import type { EndpointDescription, Link, UserTokenPolicy } from '@loyal-hinge/core';
import { UaConnection } from '../../ua/connection.js';
import type { SeenEndpoint, SessionIdentity } from '../../ua/connection.js';
import type { Dial } from '../../ua/dialling-transport.js';
import type { UaSession } from '../../ua/session.js';
import { lookIntoServerLists } from './certificates.js';
import type { Walk } from './walk.js';

type Identity = Link['identity'];

export type UseSession = (session: UaSession) => Promise<void>;

export async function talk(walk: Walk, dial: Dial, chosen: SeenEndpoint, use: UseSession): Promise<void> {
  walk.begin('secure-channel', 'OpenSecureChannel');
  const { securityPolicyUri, securityMode } = chosen.description;
  const secured = securityMode !== 'None';
  if (secured && !walk.means.credentials)
    throw new Error('No key is kept for this client, so no secured channel can be opened as this client.');
  const begun = performance.now();
  const opened = await UaConnection.open(
    dial,
    { securityPolicyUri, securityMode, serverCertificate: secured ? chosen.certificate : null },
    walk.means.credentials,
    walk.signal,
  );
  walk.signal.throwIfAborted();
  const channel = {
    kind: 'channel' as const,
    securityPolicyUri,
    securityMode,
    ms: Math.round(performance.now() - begun),
  };
  if (!opened.ok) {
    const { closed, code, reason } = opened.failure;
    walk.log.note(
      closed ? { ...channel, outcome: 'closed', reason } : { ...channel, outcome: 'refused', code, reason },
    );
    await lookIntoServerLists(walk, chosen.description);
    return;
  }
  try {
    walk.log.note({ ...channel, outcome: 'open' });
    await signIn(walk, opened.value, chosen.description, use);
  } finally {
    await opened.value.close();
  }
}

async function signIn(
  walk: Walk,
  connection: UaConnection,
  endpoint: EndpointDescription,
  use: UseSession,
): Promise<void> {
  walk.begin('identity', 'the session');
  const { identity } = walk.subject.link;
  const tokenType = identity.kind === 'user' ? ('UserName' as const) : ('Anonymous' as const);
  const token = endpoint.userTokens.find((offered) => offered.tokenType === tokenType);
  if (!token) return;
  const fact = { kind: 'session' as const, tokenType, passwordInClear: false };
  const withheld = whyWithheld(identity, endpoint, token, walk.means.password);
  if (withheld !== null) {
    walk.log.note({ ...fact, outcome: 'withheld', reason: withheld, ms: 0 });
    return;
  }
  const asking: SessionIdentity =
    identity.kind === 'user' ? { ...identity, password: walk.means.password ?? '' } : { kind: 'anonymous' };
  const begun = performance.now();
  const opened = await connection.openSession(asking);
  const ms = Math.round(performance.now() - begun);
  walk.signal.throwIfAborted();
  if (!opened.ok) {
    const { code, reason } = opened.failure;
    walk.log.note({ ...fact, outcome: 'refused', code, reason, during: duringOf(code), ms });
    return;
  }
  const session = opened.value;
  try {
    const asked = Date.now();
    const serverTime = await session.serverTime().catch(() => null);
    const middle = (asked + Date.now()) / 2;
    walk.log.note({
      ...fact,
      outcome: 'active',
      revisedSessionTimeoutMs: session.revisedSessionTimeoutMs,
      serverTime,
      clockApartMs: serverTime === null ? null : Math.round(Date.parse(serverTime) - middle),
      ms,
    });
    await use(session);
  } finally {
    await session.close();
  }
}

/** A password is sent only where one is kept, and where the channel or the token’s own policy encrypts it (Part 4 §7.40.4). */
export function whyWithheld(
  identity: Identity,
  endpoint: Pick<EndpointDescription, 'securityMode'>,
  token: Pick<UserTokenPolicy, 'securityPolicyUri'>,
  password: string | null,
): 'password in clear' | 'no password kept' | null {
  if (identity.kind === 'anonymous') return null;
  const encrypts = endpoint.securityMode !== 'None' || (securityPolicyOf(token.securityPolicyUri)?.strength ?? 0) > 0;
  if (!encrypts) return 'password in clear';
  return password === null ? 'no password kept' : null;
}

/** Codes that only CreateSession gives; all others come from ActivateSession, where the user is looked at. */
const createSessionCodes = [
  'BadTooManySessions',
  'BadServerUriInvalid',
  'BadApplicationSignatureInvalid',
  'BadCertificateUriInvalid',
];
const duringOf = (code: string): 'CreateSession' | 'ActivateSession' =>
  createSessionCodes.includes(code) ? 'CreateSession' : 'ActivateSession';
