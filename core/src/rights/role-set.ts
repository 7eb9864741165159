import type { Instant } from '../time.js';
import type { SecurityMode } from '../ua/security-policies.js';

/** What an identity rule goes by (IdentityCriteriaType, Part 18 §4.4.3), in the order of its numbers, which begin at 1. */
export const identityCriteria = [
  'UserName',
  'Thumbprint',
  'Role',
  'GroupId',
  'Anonymous',
  'AuthenticatedUser',
  'Application',
  'X509Subject',
  'TrustedApplication',
] as const;
export type IdentityCriterion = (typeof identityCriteria)[number];

/** A rule by which an identity is given a role (IdentityMappingRuleType, Part 18 §4.4.3). */
export interface IdentityRule {
  readonly criterion: IdentityCriterion;
  /** A user name, thumbprint, subject, URI and the like; empty where the kind alone says all. */
  readonly criteria: string;
}

/** An endpoint that a role names (EndpointType, Part 18 §4.4.2): what is empty is not compared. */
export interface EndpointRule {
  readonly url: string;
  readonly mode: SecurityMode | null;
  readonly policyUri: string;
  readonly transportProfileUri: string;
}

/** Only those that are listed, or all but those (ApplicationsExclude, EndpointsExclude; Part 18 §4.4.1). */
export interface RoleLimit<Listed> {
  readonly exclude: boolean;
  readonly listed: readonly Listed[];
}

/** A role of a server (RoleType, Part 18 §4.4.1). */
export interface ServerRole {
  readonly nodeId: string;
  readonly name: string;
  readonly identities: readonly IdentityRule[];
  /** By ApplicationUri; null: the server limits by no application. */
  readonly applications: RoleLimit<string> | null;
  /** null: the server limits by no endpoint. */
  readonly endpoints: RoleLimit<EndpointRule> | null;
  /** The server gives it by rules of its own that it does not show (CustomConfiguration). */
  readonly isCustom: boolean;
  /** The server has no call that changes its rules. */
  readonly isFixed: boolean;
  /** Some of its rules could not be read, or are of a kind that is not known: what follows from the others alone is not sure. */
  readonly isPartlyUnread: boolean;
}

/** Bits of UserConfigurationMask (Part 18 §5.2.4). */
export const userFlags = { NoDelete: 1, Disabled: 2, NoChangeByUser: 4, MustChangePassword: 8 } as const;
export type UserFlag = keyof typeof userFlags;
export const userFlagNames = Object.keys(userFlags) as readonly UserFlag[];

/** A user as the server keeps it (UserManagementDataType, Part 18 §5.2.3). */
export interface ServerUser {
  readonly userName: string;
  readonly flags: readonly UserFlag[];
  readonly description: string;
}

/** A certificate in the list by which a server trusts users (DefaultUserTokenGroup, Part 12 §7.8.3.1). */
export interface ListedUserCertificate {
  readonly thumbprint: string;
  readonly subject: string;
  readonly notAfter: Instant;
}

/** Roles and users of a server, as an administrator read them. */
export interface ServerAccess {
  readonly roles: readonly ServerRole[];
  /** null: the server has no user management. */
  readonly users: readonly ServerUser[] | null;
  /** How many characters a password may have; null: the server does not say. */
  readonly passwordLength: { readonly least: number; readonly most: number } | null;
  /** Certificates of users that the server trusts, and of authorities for such; null: they are not known. */
  readonly userCertificates: readonly ListedUserCertificate[] | null;
  /** What could not be read, and why, in words. */
  readonly unread: readonly string[];
}

export type RoleRule =
  | ({ readonly about: 'identity' } & IdentityRule)
  | { readonly about: 'application'; readonly uri: string }
  | ({ readonly about: 'endpoint' } & EndpointRule);

const criterionWords: Readonly<Record<IdentityCriterion, (criteria: string) => string>> = {
  UserName: (name) => `the user “${name}”`,
  Thumbprint: (thumbprint) => `the user certificate ${thumbprint}`,
  Role: (role) => `access tokens with the role “${role}”`,
  GroupId: (group) => `access tokens of the group “${group}”`,
  Anonymous: () => 'anonymous users',
  AuthenticatedUser: () => 'every user who has signed in',
  Application: (uri) => `the application ${uri}`,
  X509Subject: (subject) => `user certificates of ${subject}`,
  TrustedApplication: () => 'every trusted application',
};

/** Such as: the user “display”. */
export const sayIdentityRule = ({ criterion, criteria }: IdentityRule): string => criterionWords[criterion](criteria);

/** Such as: opc.tcp://lehr:4840, SignAndEncrypt. */
export const sayEndpointRule = ({ url, mode, policyUri, transportProfileUri }: EndpointRule): string =>
  [url, mode ?? '', policyUri.split('#').at(-1) ?? '', transportProfileUri].filter((part) => part !== '').join(', ') ||
  'any endpoint';

export function sayRoleRule(rule: RoleRule): string {
  if (rule.about === 'identity') return sayIdentityRule(rule);
  return rule.about === 'application' ? `the application ${rule.uri}` : `the endpoint ${sayEndpointRule(rule)}`;
}

/** The same for the same rule, in whatever order its fields stand. */
export const ruleKey = (rule: RoleRule): string => {
  switch (rule.about) {
    case 'identity':
      return JSON.stringify([rule.about, rule.criterion, rule.criteria]);
    case 'application':
      return JSON.stringify([rule.about, rule.uri]);
    case 'endpoint':
      return JSON.stringify([rule.about, rule.url, rule.mode, rule.policyUri, rule.transportProfileUri]);
  }
};

/** All rules of a role: who is named, and what limits it. */
export const rulesOf = ({ identities, applications, endpoints }: ServerRole): readonly RoleRule[] => [
  ...identities.map((rule) => ({ about: 'identity' as const, ...rule })),
  ...(applications?.listed ?? []).map((uri) => ({ about: 'application' as const, uri })),
  ...(endpoints?.listed ?? []).map((rule) => ({ about: 'endpoint' as const, ...rule })),
];
