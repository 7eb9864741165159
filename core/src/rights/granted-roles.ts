import { certificateNamed } from '../plant/signing-in.js';
import type { SecurityMode } from '../ua/security-policies.js';
import { sayEndpointRule, sayIdentityRule } from './role-set.js';
import { plainThumbprint } from './shown-certificate.js';
import type { ShownCertificate } from './shown-certificate.js';
import type { EndpointRule, IdentityRule, ServerAccess, ServerRole } from './role-set.js';

/** A session as roles are given by it (Part 18 §4.4). */
export interface AskingSession {
  /** null: anonymous; a user certificate by its name in the plant. */
  readonly userName: string | null;
  /** null: it signs in with none, or the one of the name is not known. */
  readonly certificate: ShownCertificate | null;
  /** ApplicationUri of the client. */
  readonly applicationUri: string;
  /** The endpoint that it uses; null: it is not known. */
  readonly endpoint: AskingEndpoint | null;
}

export interface AskingEndpoint {
  readonly url: string;
  readonly mode: SecurityMode;
  readonly policyUri: string;
  readonly transportProfileUri: string;
}

/** Whether a role is given to a session, by which rule, or why not. */
export interface RoleVerdict {
  readonly role: Pick<ServerRole, 'nodeId' | 'name'>;
  readonly verdict: 'given' | 'not given' | 'unknown';
  /** The rule that names the identity; null: none does. */
  readonly rule: IdentityRule | null;
  readonly why: string;
}

/**
 * What each role of a server is to a session: given where a rule names the identity, and neither its application nor its
 * endpoint is left out (Part 18 §4.4.1). What the server decides by rules that it does not show, or that could not be
 * read, is unknown.
 */
export function judgeRoles(
  access: Pick<ServerAccess, 'roles' | 'users' | 'userCertificates'>,
  session: AskingSession,
): RoleVerdict[] {
  const barred = whyBarred(access, session);
  return access.roles.map((role) => {
    const { verdict, rule, why } =
      barred === null
        ? withUnread(role, judgeRole(role, session))
        : { verdict: 'not given' as const, rule: null, why: barred };
    return { role: { nodeId: role.nodeId, name: role.name }, verdict, rule, why };
  });
}

/** Whether a server trusts a user certificate; null: that is not known. */
export function trustsUser(
  { userCertificates }: Pick<ServerAccess, 'userCertificates'>,
  { thumbprints, isWhole }: ShownCertificate,
): boolean | null {
  if (!userCertificates) return null;
  const isListed = userCertificates.some(({ thumbprint }) => thumbprints.includes(thumbprint));
  return isListed || isWhole ? isListed : null;
}

/** One whose certificate is not trusted, or who gets no further than the own password (Part 18 §5.2.4, §5.2.8). */
function whyBarred(
  access: Pick<ServerAccess, 'users' | 'userCertificates'>,
  { userName, certificate }: AskingSession,
): string | null {
  if (certificate && trustsUser(access, certificate) === false)
    return 'The server does not trust its user certificate.';
  const { users } = access;
  const flags = users?.find((user) => user.userName === userName)?.flags ?? [];
  if (flags.includes('Disabled')) return 'The account is disabled.';
  return flags.includes('MustChangePassword') ? 'Its first password must be changed before it is given a role.' : null;
}

type Judged = Omit<RoleVerdict, 'role'>;

/** Only what was read and leaves the session out for sure outweighs what was not read. */
const withUnread = ({ isPartlyUnread }: ServerRole, judged: Judged): Judged =>
  !isPartlyUnread || (judged.verdict === 'not given' && judged.rule !== null)
    ? judged
    : { ...judged, verdict: 'unknown', why: 'Some of its rules could not be read.' };

function judgeRole(role: ServerRole, session: AskingSession): Judged {
  const rule = role.identities.find((one) => isNamed(one, session)) ?? null;
  if (!rule) {
    if (role.isCustom) return { verdict: 'unknown', rule, why: 'The server gives it by rules that it does not show.' };
    const hidden = role.identities.find((one) => mayBeAbove(one, session));
    if (hidden)
      return {
        verdict: 'unknown',
        rule: hidden,
        why: 'Not all certificates above the user’s are known, and the rule may name one of them.',
      };
    const unsure = session.endpoint === null ? role.identities.find((one) => isOfApplication(one, session)) : undefined;
    if (unsure) return { verdict: 'unknown', rule: unsure, why: 'Whether its channel is secured is not known.' };
    return { verdict: 'not given', rule, why: 'None of its rules fits.' };
  }
  const limits = [byApplication(role, session), byEndpoint(role, session)];
  const limited = limits.find((limit) => limit?.verdict === 'not given') ?? limits.find((limit) => limit !== null);
  return limited ? { ...limited, rule } : { verdict: 'given', rule, why: `It is for ${sayIdentityRule(rule)}.` };
}

/** Access tokens are not used by links: rules on them name nobody here. */
function isNamed(rule: IdentityRule, session: AskingSession): boolean {
  switch (rule.criterion) {
    case 'UserName':
      return session.userName !== null && session.userName === rule.criteria;
    case 'Thumbprint':
      return session.certificate?.thumbprints.includes(plainThumbprint(rule.criteria)) ?? false;
    case 'X509Subject':
      return session.certificate?.subjects.includes(rule.criteria) ?? false;
    case 'Anonymous':
      return session.userName === null;
    case 'AuthenticatedUser':
      return session.userName !== null;
    case 'Application':
    case 'TrustedApplication':
      return isSecured(session) && isOfApplication(rule, session);
    default:
      return false;
  }
}

/** A rule may name the certificate of a user, or of an authority above it (Part 18 §4.4.3). */
const mayBeAbove = ({ criterion }: IdentityRule, { userName, certificate }: AskingSession): boolean =>
  (criterion === 'Thumbprint' || criterion === 'X509Subject') &&
  (certificate ? !certificate.isWhole : userName !== null && certificateNamed(userName) !== null);

const isOfApplication = ({ criterion, criteria }: IdentityRule, { applicationUri }: AskingSession): boolean =>
  criterion === 'TrustedApplication' || (criterion === 'Application' && criteria === applicationUri);

/** Without security nothing proves which application it is. */
const isSecured = ({ endpoint }: AskingSession): boolean => endpoint !== null && endpoint.mode !== 'None';

function byApplication({ applications }: ServerRole, session: AskingSession): Pick<Judged, 'verdict' | 'why'> | null {
  if (!applications) return null;
  const { exclude, listed } = applications;
  if (exclude && listed.length === 0) return null;
  if (!exclude && !listed.includes(session.applicationUri))
    return {
      verdict: 'not given',
      why:
        listed.length === 0
          ? 'It is limited to applications, and none is listed.'
          : `It is limited to ${listed.join(', ')}.`,
    };
  if (exclude && listed.includes(session.applicationUri))
    return { verdict: 'not given', why: `It is not for ${session.applicationUri}.` };
  if (isSecured(session)) return null;
  return session.endpoint === null
    ? { verdict: 'unknown', why: 'It depends on the application, and whether the channel is secured is not known.' }
    : {
        verdict: exclude ? 'unknown' : 'not given',
        why: 'It depends on the application, and without security nothing proves which one it is.',
      };
}

function byEndpoint({ endpoints }: ServerRole, { endpoint }: AskingSession): Pick<Judged, 'verdict' | 'why'> | null {
  if (!endpoints) return null;
  const { exclude, listed } = endpoints;
  if (exclude && listed.length === 0) return null;
  if (!exclude && listed.length === 0)
    return { verdict: 'not given', why: 'It is limited to endpoints, and none is listed.' };
  if (!endpoint) return { verdict: 'unknown', why: 'It depends on the endpoint, which is not known.' };
  const fits = listed.find((rule) => isEndpoint(rule, endpoint));
  if (exclude) return fits ? { verdict: 'not given', why: `It is not for ${sayEndpointRule(fits)}.` } : null;
  return fits ? null : { verdict: 'not given', why: `It is limited to ${listed.map(sayEndpointRule).join(' or ')}.` };
}

/** Fields with their default values are not compared (Part 18 §4.4.2). */
const isEndpoint = (rule: EndpointRule, endpoint: AskingEndpoint): boolean =>
  (rule.url === '' || rule.url.toLowerCase() === endpoint.url.toLowerCase()) &&
  (rule.mode === null || rule.mode === endpoint.mode) &&
  (rule.policyUri === '' || rule.policyUri === endpoint.policyUri) &&
  (rule.transportProfileUri === '' || rule.transportProfileUri === endpoint.transportProfileUri);

/** The names of the roles that are given for sure. */
export const givenRoles = (verdicts: readonly RoleVerdict[]): readonly string[] =>
  verdicts.filter(({ verdict }) => verdict === 'given').map(({ role }) => role.name);
