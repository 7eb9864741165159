import { z } from 'zod';
import { standings, trustWays, waivableSteps } from '@loyal-hinge/core';
import type { Ending, LinkTurn, RenewalGroup } from '@loyal-hinge/core';
import { certificateSummary, passwordMove, passwordState } from './links.js';
import { endpointUrl, id, pointInTime } from './plant.js';
import { trustChange } from './orders.js';
import { thumbprint as thumbprintText } from './thumbprint.js';

const instant = z.string();

export const trustParty = z.object({
  applicationId: z.string(),
  name: z.string(),
  kind: z.enum(['server', 'client']),
  zone: z.string(),
  /** Thumbprint of the certificate that it shows; null: not known. */
  certificate: z.string().nullable(),
  way: z.enum(trustWays),
  restarts: z.boolean(),
  /** When its lists were last read; null: never. */
  readAt: instant.nullable(),
  /** Why the newest try to read them failed. */
  fault: z.string().nullable(),
  trusted: z.int(),
  issuers: z.int(),
  crls: z.int(),
  rejected: z.int(),
  /** Its lists are being read just now. */
  reading: z.boolean(),
});
export type TrustPartyRow = z.infer<typeof trustParty>;

export const gridColumn = z.object({
  thumbprint: z.string(),
  name: z.string(),
  subject: z.string(),
  isAuthority: z.boolean(),
  notAfter: instant,
  shownBy: z.array(z.string()),
  revoked: z.boolean(),
});
export type GridColumnView = z.infer<typeof gridColumn>;

export const gridCell = z.object({
  holderId: z.string(),
  thumbprint: z.string(),
  standing: z.enum(standings),
  status: z.string(),
  says: z.string(),
  linkIds: z.array(z.string()),
});
export type GridCellView = z.infer<typeof gridCell>;

export const trustOverview = z.object({
  headline: z.string(),
  parties: z.array(trustParty),
  columns: z.array(gridColumn),
  cells: z.array(gridCell),
  /** Names of the links that cells speak of. */
  links: z.record(z.string(), z.string()),
});
export type TrustOverview = z.infer<typeof trustOverview>;

export const linkTurn = z.object({
  linkId: z.string(),
  name: z.string(),
  before: z.enum(['trusted', 'refused', 'unknown']),
  after: z.enum(['trusted', 'refused', 'unknown']),
  why: z.string(),
}) satisfies z.ZodType<LinkTurn>;

export const plannedChange = z.object({
  change: trustChange,
  title: z.string(),
  target: z.string(),
  why: z.string(),
  linkIds: z.array(z.string()),
});

export const trustPlan = z.object({
  strategy: z.enum(['direct', 'authority']),
  changes: z.array(plannedChange),
  /** Names of the applications that must be restarted. */
  restarts: z.array(z.string()),
  atRenewal: z.object({ most: z.int(), mean: z.number() }),
  remainder: z.array(z.object({ linkId: z.string(), link: z.string(), says: z.string() })),
  /** Links that turn by it, judged on paper; certificates that are still to be signed are taken as promised. */
  turns: z.array(linkTurn),
  /** How many links that are refused now it mends, those with new certificates among them. */
  mends: z.int(),
});
export type TrustPlanView = z.infer<typeof trustPlan>;

export const trustPlans = z.object({
  /** How many links the plans are for. */
  links: z.int(),
  direct: trustPlan,
  /** null: the plant has no authority yet. */
  authority: trustPlan.nullable(),
  /** Lists that were never read: the plans can’t speak of them. */
  unread: z.array(z.string()),
});
export type TrustPlans = z.infer<typeof trustPlans>;

export const setAsideEntry = z.object({
  holderId: z.string(),
  holder: z.string(),
  thumbprint: z.string(),
  certificate: certificateSummary,
  since: instant,
  /** The application that it says it is, where the plant knows it. */
  claims: z.string().nullable(),
  /** The certificate that we know for that application: the same, another one, or none. */
  known: z.enum(['the same', 'another', 'none']),
  knownThumbprint: z.string().nullable(),
  /** What it says otherwise than the one that we know. */
  differs: z.array(z.object({ what: z.string(), known: z.string(), here: z.string() })),
  /** Its issuer, where it is known and an authority. */
  issuer: z.object({ thumbprint: z.string(), name: z.string() }).nullable(),
  unusual: z.array(z.string()),
  blocks: z.array(z.object({ linkId: z.string(), name: z.string() })),
  dismissed: z.object({ by: z.string(), at: instant }).nullable(),
});
export type SetAsideEntry = z.infer<typeof setAsideEntry>;

export const ending = z.object({
  id: z.string(),
  kind: z.enum(['application', 'authority', 'crl', 'waiver']),
  subject: z.string(),
  begins: z.number(),
  ends: z.number(),
  applicationIds: z.array(z.string()),
  linkIds: z.array(z.string()),
}) satisfies z.ZodType<Ending>;

export const horizon = z.object({
  at: z.number(),
  endings: z.array(ending.extend({ name: z.string(), applications: z.array(z.string()), links: z.array(z.string()) })),
  groups: z.array(
    z.object({ endingIds: z.array(z.string()), by: z.number(), says: z.string() }) satisfies z.ZodType<RenewalGroup>,
  ),
});
export type HorizonView = z.infer<typeof horizon>;

/** How the lists of an application are to be changed. */
export const trustWay = z.discriminatedUnion('way', [
  z.object({
    way: z.literal('push'),
    clientId: id,
    endpointUrl,
    userName: z.string().trim().min(1, 'A user name is needed.').max(200),
    /** Left out: the one that is kept stays. */
    password: z.string().min(1, 'A password is needed.').max(500).optional(),
  }),
  z.object({ way: z.literal('files') }),
  z.object({ way: z.literal('unknown') }),
]);
export type TrustWayBody = z.infer<typeof trustWay>;

export const trustHistoryEntry = z.object({
  id: z.int(),
  at: instant,
  actor: z.string(),
  says: z.string(),
  added: z.array(z.string()),
  removed: z.array(z.string()),
});

export const holderDetail = z.object({
  party: trustParty,
  access: z
    .object({
      clientId: z.string(),
      endpointUrl: z.string(),
      userName: z.string(),
      passwordState,
      /** Where a kept password may go, and where it would go now; null: that is the same, or none is kept. */
      passwordMoves: passwordMove.nullable(),
    })
    .nullable(),
  lists: z.array(
    z.object({
      list: z.enum(['trusted', 'issuers', 'rejected']),
      thumbprint: z.string(),
      name: z.string(),
      notAfter: instant,
      since: instant,
      until: instant.nullable(),
    }),
  ),
  /** What lay in the lists when they were read last and can’t be read, each in a sentence. */
  unreadable: z.array(z.string()),
  crls: z.array(
    z.object({
      list: z.enum(['trusted', 'issuers']),
      id: z.string(),
      issuer: z.string(),
      thisUpdate: instant,
      nextUpdate: instant.nullable(),
      revoked: z.int(),
    }),
  ),
  history: z.array(trustHistoryEntry),
});
export type HolderDetail = z.infer<typeof holderDetail>;

export const readingOutcome = z.object({ applicationId: z.string(), ok: z.boolean(), says: z.string() });

/** A request that waits for its certificate from an authority whose key is kept elsewhere. */
export const signingRequest = z.object({
  id: z.string(),
  application: z.string(),
  requestPem: z.string(),
  madeBy: z.string(),
  madeAt: instant,
});
export type SigningRequestView = z.infer<typeof signingRequest>;

export const authorityView = z.object({
  thumbprint: z.string(),
  name: z.string(),
  certificate: certificateSummary,
  /** Plans reckon with it. */
  isCurrent: z.boolean(),
  /** Whether its key lies here, encrypted; else it is kept elsewhere. */
  keyKept: z.boolean(),
  crl: z
    .object({ number: z.int(), thisUpdate: instant, nextUpdate: instant.nullable(), warning: z.string().nullable() })
    .nullable(),
  issued: z.array(
    z.object({
      serialNumber: z.string(),
      thumbprint: z.string().nullable(),
      application: z.string().nullable(),
      issuedAt: instant.nullable(),
      revokedAt: instant.nullable(),
      reason: z.string().nullable(),
    }),
  ),
  /** What is to be signed where its key is kept. */
  requests: z.array(signingRequest),
  /** Its key lies here, it signed itself, and plans reckon with it. */
  mayRenew: z.boolean(),
  /** How far the plant has moved to the authority with which plans reckon now; null: it is that one itself. */
  succession: z
    .object({
      after: z.string(),
      afterName: z.string(),
      /** Since when that one is valid: it may have the same name. */
      afterSince: instant,
      /** Names of applications that trust this one and not yet the one after. */
      trustOnlyBefore: z.array(z.string()),
      /** They trust both. */
      trustBoth: z.array(z.string()),
      /** What they show hangs below this one alone. */
      showBefore: z.array(z.string()),
      isOver: z.boolean(),
    })
    .nullable(),
});
export type AuthorityView = z.infer<typeof authorityView>;

const passphrase = z.string().min(1, 'The passphrase is needed.').max(500);
const pem = z.string().min(1, 'It is empty.').max(200_000);

const newPassphrase = z.string().min(12, 'The passphrase needs at least 12 letters.').max(500);
const keyKind = z.enum(['RSA 2048', 'RSA 3072', 'RSA 4096', 'P-256']);
const authorityDays = z.int().min(30, 'At least 30 days.').max(7300, 'At most 20 years.');

export const createAuthority = z.object({
  commonName: z.string().trim().min(1, 'A name is needed.').max(64, 'A common name has at most 64 letters.'),
  organization: z.string().trim().max(64, 'An organisation has at most 64 letters.'),
  keyKind,
  validDays: authorityDays,
  pathLength: z.int().min(0).max(5).nullable(),
  passphrase: newPassphrase,
});
export type CreateAuthority = z.infer<typeof createAuthority>;

/** The same name, with the key that it has or with a new one. */
export const renewAuthority = z.object({
  /** null: it keeps its key, and all that it has signed. */
  newKey: keyKind.nullable(),
  validDays: authorityDays,
  passphrase,
  /** null: the passphrase stays. */
  newPassphrase: newPassphrase.nullable(),
});
export type RenewAuthority = z.infer<typeof renewAuthority>;

export const importAuthority = z.object({
  certificatePem: pem,
  /** null: the key is kept elsewhere. */
  encryptedKeyPem: pem.nullable(),
  passphrase: passphrase.nullable(),
});
export type ImportAuthority = z.infer<typeof importAuthority>;

export const issueRequest = z.object({
  applicationId: id,
  requestPem: pem,
  validDays: z.int().min(1).max(3650),
  passphrase,
});
export type IssueRequest = z.infer<typeof issueRequest>;
export const issuedCertificate = z.object({ thumbprint: z.string(), certificatePem: z.string(), chainPem: z.string() });
export type Issued = z.infer<typeof issuedCertificate>;

/** Why a certificate is revoked, as far as it can be said of an application’s (RFC 5280 §5.3.1). */
export const revocationReasons = [
  'unspecified',
  'keyCompromise',
  'affiliationChanged',
  'superseded',
  'cessationOfOperation',
  'privilegeWithdrawn',
] as const;
export const revokeRequest = z.object({
  serialNumber: z.string().regex(/^[0-9A-F]{1,40}$/, 'This is no serial number.'),
  reason: z.enum(revocationReasons),
  passphrase,
});
/** The certificate that an authority kept elsewhere has signed, perhaps with its issuers. */
export const broughtCertificate = z.object({ certificatePem: pem });

export const issueCrlRequest = z.object({ passphrase });

/** A step of the validation that an application passes over for a certificate (Part 4 §6.1.3). */
export const waiver = z.object({
  id: z.int(),
  holderId: z.string(),
  holder: z.string(),
  step: z.enum(waivableSteps),
  until: instant,
  why: z.string(),
  givenBy: z.string(),
  givenAt: instant,
  /** null: it is in force. */
  ended: z.object({ at: instant, by: z.string() }).nullable(),
});
export type WaiverView = z.infer<typeof waiver>;
export const giveWaiver = z.object({
  holderId: id,
  thumbprint: thumbprintText,
  step: z.enum(waivableSteps, { error: 'This step may not be waived (Part 4 §6.1.3).' }),
  until: pointInTime('A waiver needs the date on which it ends.'),
  why: z.string().trim().min(5, 'Say why, in a few words: an auditor will ask.').max(500),
});
export type GiveWaiver = z.infer<typeof giveWaiver>;

/** A certificate’s own page: what it says, where it lies, and what stands on it. */
export const certificatePage = z.object({
  certificate: certificateSummary,
  pem: z.string(),
  firstSeen: instant,
  unusual: z.array(z.string()),
  /** Rules of Part 6 §6.2.2 that it does not keep; null for authorities, which are no applications. */
  lint: z
    .array(
      z.object({
        ruleId: z.string(),
        clause: z.string(),
        severity: z.enum(['error', 'warning', 'advice']),
        says: z.string(),
        remedy: z.string(),
      }),
    )
    .nullable(),
  /** As it can be built from all that is known, itself first. */
  chain: z.array(
    z.object({
      thumbprint: z.string(),
      name: z.string(),
      notAfter: instant,
      isAuthority: z.boolean(),
      selfIssued: z.boolean(),
    }),
  ),
  /** The name of an issuer that is known nowhere; null where the chain is whole. */
  missingIssuer: z.string().nullable(),
  revoked: z.object({ since: instant, reason: z.string() }).nullable(),
  shownBy: z.array(z.object({ applicationId: z.string(), name: z.string(), now: z.boolean() })),
  lies: z.array(
    z.object({
      applicationId: z.string(),
      name: z.string(),
      list: z.enum(['trusted', 'issuers', 'rejected']),
      since: instant,
    }),
  ),
  links: z.array(z.object({ linkId: z.string(), name: z.string() })),
  /** Applications that validate it for a link. */
  meets: z.array(z.object({ applicationId: z.string(), name: z.string() })),
  /** The newest first. */
  waivers: z.array(waiver),
  /** Other certificates of the same application URI or, for an authority, of the same name; by their beginning. */
  relatives: z.array(
    z.object({
      thumbprint: z.string(),
      name: z.string(),
      notBefore: instant,
      notAfter: instant,
      is: z.enum(['before', 'after']),
    }),
  ),
});
export type CertificatePage = z.infer<typeof certificatePage>;

/** A ticket with which an application fetches its certificate and trust list by itself, once. */
export const pullTicket = z.object({
  id: z.string(),
  applicationId: z.string(),
  application: z.string(),
  madeBy: z.string(),
  madeAt: instant,
  expiresAt: instant,
  state: z.enum(['made', 'requested', 'signed', 'fetched', 'expired']),
  /** What the request asks for, in words; null until it was handed in. */
  asks: z.string().nullable(),
});
export type PullTicket = z.infer<typeof pullTicket>;
export const madeTicket = z.object({
  ticket: pullTicket,
  /** Shown this once. */
  token: z.string(),
});
export type MadeTicket = z.infer<typeof madeTicket>;

const token = z.string().min(20, 'This is no token.').max(200);
export const pullRequest = z.object({ token, requestPem: pem });
/** What the application fetches; before the request was signed, only that it waits. */
export const pulled = z.discriminatedUnion('state', [
  z.object({ state: z.literal('waiting'), says: z.string() }),
  z.object({
    state: z.literal('ready'),
    certificatePem: z.string(),
    chainPem: z.string(),
    trustList: z.object({
      trusted: z.array(z.string()),
      issuers: z.array(z.string()),
      trustedCrls: z.array(z.string()),
      issuerCrls: z.array(z.string()),
    }),
  }),
]);
export type Pulled = z.infer<typeof pulled>;
export const pullResult = z.object({ token });
export const signTicket = z.object({ authority: z.string().max(80), validDays: z.int().min(1).max(3650), passphrase });

/** A file as it was dropped, in Base64. */
export const droppedFile = z.object({ name: z.string().max(300), base64: z.base64().max(28_000_000) });
export const reportedBundle = z.object({
  lists: z.array(z.object({ list: z.string(), count: z.int() })),
  passedOver: z.array(z.object({ path: z.string(), says: z.string() })),
});
export type ReportedBundle = z.infer<typeof reportedBundle>;

export const recognisedFile = z.object({
  name: z.string(),
  kind: z.enum(['certificates', 'crl', 'request', 'pki-folder', 'pkcs12', 'private-key', 'unknown']),
  says: z.string(),
  /** Thumbprints of the certificates in it, which are kept from then on. */
  certificates: z.array(
    z.object({ thumbprint: z.string(), name: z.string(), isAuthority: z.boolean(), shownBy: z.string().nullable() }),
  ),
  crlId: z.string().nullable(),
  /** The application that a request or a PKI folder seems to be of. */
  applicationId: z.string().nullable(),
  requestPem: z.string().nullable(),
});
export type RecognisedFile = z.infer<typeof recognisedFile>;
