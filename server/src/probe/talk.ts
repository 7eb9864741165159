import { endpointName, passwordTargetOf, sayProblem, secretCover, tokenTypeOf } from '@loyal-hinge/core';
import type { EndpointDescription, LinkInPlant, UserTokenPolicy, Withheld } from '@loyal-hinge/core';
import { UaConnection } from '../ua/connection.js';
import type { SeenEndpoint, SessionIdentity } from '../ua/connection.js';
import type { Dial } from '../ua/dialling-transport.js';
import type { UaSession } from '../ua/session.js';
import { spokenPolicyOf } from '../ua/spoken-policies.js';
import { validateClient, validateShown } from './certificates.js';
import { useAnonymously } from './anonymous.js';
import type { CheckMeans } from './means.js';
import type { Walk } from './walk.js';

export type UseSession = (session: UaSession) => Promise<void>;

/** Opens the channel and the session; `host` is the one of the link’s URL, which the server’s certificate must name. */
export async function talk(walk: Walk, dial: Dial, chosen: SeenEndpoint, host: string, use: UseSession): Promise<void> {
  walk.begin('secure-channel', 'OpenSecureChannel');
  const { securityPolicyUri, securityMode } = chosen.description;
  const secured = securityMode !== 'None';
  if (spokenPolicyOf(securityPolicyUri) === null) {
    const what = endpointName(chosen.description);
    walk.log.note({ kind: 'not-tried', reason: 'policy not spoken here', purpose: 'link', what }, 'reckoned');
    return;
  }
  if (secured && !walk.means.credentials) {
    const what = walk.subject.client.name;
    walk.log.note({ kind: 'not-tried', reason: 'no client key', purpose: 'link', what }, 'reckoned');
    return;
  }
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
    await validateClient(walk, chosen.description, true);
    return;
  }
  try {
    walk.log.note({ ...channel, outcome: 'open' });
    await validateClient(walk, chosen.description, false);
    await signIn(walk, opened.value, chosen, host, use);
  } finally {
    await opened.value.close();
  }
}

async function signIn(
  walk: Walk,
  connection: UaConnection,
  chosen: SeenEndpoint,
  host: string,
  use: UseSession,
): Promise<void> {
  const endpoint = chosen.description;
  walk.begin('identity', 'the session');
  const { identity } = walk.subject.link;
  const tokenType = tokenTypeOf(identity);
  if (!walk.means.floor.floor.tokens.includes(tokenType)) return;
  const token = endpoint.userTokens.find((offered) => offered.tokenType === tokenType);
  if (!token) return;
  const fact = { kind: 'session' as const, tokenType, passwordInClear: false };
  const { userCertificate } = walk.means;
  if (identity.kind === 'certificate' && userCertificate) {
    const { certificate } = userCertificate;
    walk.log.keep(certificate.der);
    walk.log.note(
      { kind: 'user-certificate', name: identity.certificate, certificate: certificate.summary },
      'reckoned',
    );
  }
  const withheld =
    whyWithheld(walk.subject, endpoint, token, walk.means) ??
    (await whyUnproved(walk, chosen, host)) ??
    (await walk.means.signIns.whyPaused());
  if (withheld !== null) {
    walk.log.note({ ...fact, outcome: 'withheld', ...withheld, ms: 0 });
    return;
  }
  const begun = performance.now();
  const opened = await connection.openSession(sessionIdentity(walk));
  const ms = Math.round(performance.now() - begun);
  walk.signal.throwIfAborted();
  await walk.means.signIns.note(opened.ok ? null : opened.failure.code);
  if (!opened.ok) {
    const { code, reason } = opened.failure;
    walk.log.note({ ...fact, outcome: 'refused', code, reason, during: connection.failedService, ms });
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
    await noteRedundancy(walk, session);
    await use(session);
  } finally {
    await session.close();
  }
  await useAnonymously(walk, connection, endpoint);
}

/** Notes who stands in for the server, and whether the client would get there; nothing where it doesn’t tell. */
async function noteRedundancy(walk: Walk, session: UaSession): Promise<void> {
  const told = await session.redundancy().catch(() => null);
  if (told === null) return;
  const { support } = told;
  const own = walk.subject.server.applicationUri;
  const uris = support === 'None' || support === 'Transparent' ? [] : told.uris.filter((uri) => uri !== own);
  const { others, passage } = uris.length === 0 ? { others: [], passage: [] } : await walk.means.redundant(uris);
  walk.log.note({ kind: 'redundancy', support, others });
  for (const fact of passage) walk.log.note(fact, 'reckoned');
}

function sessionIdentity({ subject: { link }, means }: Walk): SessionIdentity {
  const { identity } = link;
  if (identity.kind === 'anonymous') return identity;
  if (identity.kind === 'user') return { ...identity, password: means.password ?? '' };
  if (!means.userCertificate) throw new Error('a user certificate that is not kept was to be used');
  const { certificate, privateKeyPem } = means.userCertificate;
  return { kind: 'certificate', certificate: certificate.der, privateKeyPem };
}

/**
 * A password is sent only where one is kept for just this target, and where the channel or the token’s own policy encrypts
 * it (Part 4 §7.40.4); a user certificate is used only where it and its key are kept.
 */
export function whyWithheld(
  { link, server }: Pick<LinkInPlant, 'link' | 'server'>,
  endpoint: Pick<EndpointDescription, 'securityMode' | 'securityPolicyUri'>,
  token: Pick<UserTokenPolicy, 'securityPolicyUri'>,
  { password, keptFor, userCertificate }: Pick<CheckMeans, 'password' | 'keptFor' | 'userCertificate'>,
): Withheld | null {
  if (link.identity.kind === 'certificate')
    return userCertificate ? null : { reason: 'no user certificate', name: link.identity.certificate };
  const wanted = passwordTargetOf(link, server);
  if (!wanted) return null;
  if (secretCover(endpoint, token).by === 'nothing') return { reason: 'password in clear' };
  if (keptFor) return { reason: 'kept for another target', keptFor, wanted };
  return password === null ? { reason: 'no password kept' } : null;
}

/**
 * At a server that the plant does not know nobody signs in: its certificate must say that it is the application of the
 * plant, and the client must trust it, also where the channel itself looks at no certificate. A password is encrypted for
 * the key of that certificate; what a user certificate signs could be shown to the genuine server by another one, unless
 * the channel proves that the server has the key.
 */
async function whyUnproved(
  walk: Walk,
  { description, certificate, issuers }: SeenEndpoint,
  host: string,
): Promise<Withheld | null> {
  const { link, server } = walk.subject;
  if (link.identity.kind === 'anonymous') return null;
  const unproved = (says: string): Withheld => ({ reason: 'server not proved', says });
  if (description.applicationUri !== server.applicationUri)
    return unproved(`The server calls itself ${description.applicationUri}; the plant knows ${server.applicationUri}.`);
  // A secured channel opened only because this very certificate was found valid.
  if (description.securityMode !== 'None') return null;
  if (link.identity.kind === 'certificate')
    return unproved('Without security, nothing proves that it has the key of its certificate.');
  if (!certificate) return unproved('It shows no certificate.');
  const { status, problems } = await validateShown(walk, { description, certificate, issuers }, host);
  return status === 'Good'
    ? null
    : unproved(problems.map(sayProblem).join(' ') || `Its certificate is not valid (${status}).`);
}
