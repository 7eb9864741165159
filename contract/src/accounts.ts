import * as z from 'zod';
import { accountWeaknesses, identityCriteria, userFlagNames } from '@loyal-hinge/core';
import type { AccessChange, RoleRule, UserSettings } from '@loyal-hinge/core';
import { id, securityMode } from './plant.js';
import { thumbprint } from './thumbprint.js';

const userName = z.string().min(1, 'A user name is needed.').max(200, 'A user name has at most 200 letters.');
const text = z.string().max(500);

/** What names somebody in a role, or limits it (Part 18 §4.4). */
export const roleRule = z.discriminatedUnion('about', [
  z.object({ about: z.literal('identity'), criterion: z.enum(identityCriteria), criteria: text }),
  z.object({ about: z.literal('application'), uri: z.string().min(1, 'An application URI is needed.').max(500) }),
  z.object({
    about: z.literal('endpoint'),
    url: text,
    mode: securityMode.nullable(),
    policyUri: text,
    transportProfileUri: text,
  }),
]) satisfies z.ZodType<RoleRule>;
export const userFlag = z.enum(userFlagNames);
const userSettings = z.object({
  flags: z.array(userFlag).max(userFlagNames.length).readonly(),
  description: text,
}) satisfies z.ZodType<UserSettings>;

const ofRole = {
  serverId: id,
  roleId: z.string().min(1).max(300),
  role: z.string().min(1).max(200),
  rule: roleRule,
};
/** A password that was sealed for a work order. */
const secretId = z.uuid();

const ofUserTrust = { serverId: id, thumbprint, subject: z.string().max(2000), notAfter: z.string().max(40) };

/** A change of a server’s roles, users, or of the user certificates that it trusts. */
export const accessChange = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('add-role-rule'), ...ofRole }),
  z.object({ kind: z.literal('remove-role-rule'), ...ofRole }),
  z.object({
    kind: z.literal('change-user'),
    serverId: id,
    userName,
    before: userSettings.nullable(),
    after: userSettings.nullable(),
    secretId: secretId.nullable(),
  }),
  z.object({ kind: z.literal('change-password'), serverId: id, userName, secretId }),
  z.object({ kind: z.literal('trust-user'), ...ofUserTrust }),
  z.object({ kind: z.literal('distrust-user'), ...ofUserTrust }),
]) satisfies z.ZodType<AccessChange>;

/** A password for an account, which a work order will set; it is sealed at once. */
export const newPassword = z.object({
  userName,
  password: z.string().min(1, 'A password is needed.').max(500, 'A password has at most 500 letters.'),
});
export const sealedPassword = z.object({ secretId });

export const saidWeakness = z.object({
  kind: z.enum(accountWeaknesses),
  grade: z.enum(['fails', 'weak', 'slight']),
  says: z.string(),
});
export type SaidWeaknessView = z.infer<typeof saidWeakness>;

const namedLink = z.object({ id: z.string(), name: z.string() });

/** Somebody who signs in at a server, or could. */
export const accountView = z.object({
  serverId: z.string(),
  server: z.string(),
  machine: z.string(),
  /** null: anonymous. */
  userName: z.string().nullable(),
  links: z.array(namedLink),
  clients: z.array(z.string()),
  /** Signs in to administer the server, for this product. */
  administers: z.boolean(),
  /** What the server gives it, by the rules that were read last; null: they are not known. */
  roles: z.array(z.string()).nullable(),
  /** As the server keeps the user; null: it does not, or it is not known. */
  user: z.object({ flags: z.array(userFlag), description: z.string() }).nullable(),
  password: z.enum(['none', 'stored', 'not stored']),
  /** The user certificate that it is; null: it is a user name, or anonymous. */
  certificate: z
    .object({ name: z.string(), thumbprint: z.string().nullable(), notAfter: z.string().nullable() })
    .nullable(),
  signedInAt: z.string().nullable(),
  /** Name of the link by which it was. */
  signedInBy: z.string().nullable(),
  refusedAt: z.string().nullable(),
  /** No password is sent before that; null: it is. */
  pausedUntil: z.string().nullable(),
  weaknesses: z.array(saidWeakness),
});
export type AccountView = z.infer<typeof accountView>;

export const accountsView = z.object({
  accounts: z.array(accountView),
  /** Servers whose roles and users could not be read when that was tried last, and why. */
  unread: z.array(z.object({ serverId: z.string(), server: z.string(), says: z.string() })),
  from: z.int(),
  /** So many fit what is looked for. */
  fitting: z.int(),
  counts: z.object({
    accounts: z.int(),
    servers: z.int(),
    /** With a weakness that is more than slight. */
    weak: z.int(),
    /** Servers whose roles and users were read. */
    read: z.int(),
    /** Servers whose roles and users can be read. */
    readable: z.int(),
  }),
});
export type AccountsView = z.infer<typeof accountsView>;

export const accountsPage = z.object({
  find: z.string().max(500).optional(),
  only: z.enum(accountWeaknesses).optional(),
  server: z.string().max(200).optional(),
  from: z.coerce.number().int().min(0).max(1_000_000).optional(),
  most: z.coerce.number().int().min(1).max(200).optional(),
});
export type AccountsPage = z.infer<typeof accountsPage>;

const roleLimit = z.object({ exclude: z.boolean(), listed: z.int() }).nullable();

/** A role of a server with its rules. */
export const roleView = z.object({
  nodeId: z.string(),
  name: z.string(),
  rules: z.array(z.object({ rule: roleRule, says: z.string() })),
  /** How applications and endpoints limit it; null: the server has no such limit. */
  applications: roleLimit,
  endpoints: roleLimit,
  isCustom: z.boolean(),
  /** The server has no call that changes its rules. */
  isFixed: z.boolean(),
});
export type RoleView = z.infer<typeof roleView>;

/** What the roles of a server are to one who signs in there. */
export const sessionRoles = z.object({
  link: namedLink,
  client: z.string(),
  userName: z.string().nullable(),
  roles: z.array(z.object({ role: z.string(), verdict: z.enum(['given', 'not given', 'unknown']), why: z.string() })),
});
export type SessionRoles = z.infer<typeof sessionRoles>;

/** Roles and users of a server as they were read last. */
export const accessView = z.object({
  server: z.object({ id: z.string(), name: z.string(), machine: z.string() }),
  /** Whether an administrator’s access is known, by which they are read and changed. */
  canBeRead: z.boolean(),
  /** Why they could not be read when that was tried last; null: they were, or nobody tried. */
  says: z.string().nullable(),
  seenAt: z.string().nullable(),
  roles: z.array(roleView),
  users: z
    .array(
      z.object({
        userName: z.string(),
        flags: z.array(userFlag),
        description: z.string(),
        /** Links that sign in as this user. */
        links: z.int(),
        /** Signs in to administer the server, for Loyal Hinge. */
        administers: z.boolean(),
      }),
    )
    .nullable(),
  passwordLength: z.object({ least: z.number(), most: z.number() }).nullable(),
  /** Those that the server trusts as users; null: they are not known. */
  userCertificates: z
    .array(
      z.object({
        thumbprint: z.string(),
        subject: z.string(),
        notAfter: z.string(),
        /** Its name in the plant; null: it has none. */
        name: z.string().nullable(),
        links: z.int(),
      }),
    )
    .nullable(),
  unread: z.array(z.string()),
  /** Who was connected when that was read; null: nobody asked yet. */
  connected: z
    .object({
      readAt: z.string(),
      says: z.string(),
      /** null: the server does not tell of single ones. */
      sessions: z
        .array(
          z.object({
            id: z.string(),
            name: z.string(),
            applicationUri: z.string(),
            applicationName: z.string(),
            user: z.string().nullable(),
            /** How it signed in, as the server calls it; empty: it does not tell. */
            mechanism: z.string(),
            mode: securityMode.nullable(),
            policyUri: z.string(),
            connectedAt: z.string().nullable(),
            items: z.int(),
            unauthorized: z.int(),
            isOwn: z.boolean(),
            weaknesses: z.array(z.object({ grade: z.enum(['fails', 'weak']), says: z.string() })),
          }),
        )
        .nullable(),
    })
    .nullable(),
  sessions: z.array(sessionRoles),
});
export type AccessView = z.infer<typeof accessView>;

export const accessChanges = z.object({
  changes: z.array(accessChange).min(1, 'Name at least one change.').max(200),
});

/** What changes would do to those who sign in; nothing is changed. */
export const accessTurns = z.object({
  turns: z.array(
    z.object({
      /** null: it is Loyal Hinge itself, as administrator of the server. */
      link: namedLink.nullable(),
      userName: z.string().nullable(),
      gains: z.array(z.string()),
      loses: z.array(z.string()),
      /** Whether the link needs to write. */
      writes: z.boolean(),
    }),
  ),
});
export type AccessTurns = z.infer<typeof accessTurns>;
