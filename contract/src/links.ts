import * as z from 'zod';
import { factSources, linkKindIds, stepIds } from '@loyal-hinge/core';
import type {
  CertificateSummary,
  Change,
  Fact,
  Finding,
  LinkAssessment,
  LinkState,
  PasswordTarget,
  Remedy,
  StepVerdict,
  Verdict,
} from '@loyal-hinge/core';
import { keptOrigin, mappingChange } from './field.js';
import { address, chosenEndpoint, endpointUrl, id, link } from './plant.js';
import { thumbprint } from './thumbprint.js';

export const stepId = z.enum(stepIds);
export const verdict = z.enum(['holds', 'weak', 'fails', 'unknown', 'not-needed']) satisfies z.ZodType<Verdict>;
export const linkState = z.enum(['Sound', 'Strained', 'Parted', 'Untried']) satisfies z.ZodType<LinkState>;
const instant = z.string();

export const passwordState = z.enum(['none', 'kept', 'for another target']);
export type PasswordState = z.infer<typeof passwordState>;

const passwordTarget = z.object({
  applicationUri: z.string().max(2000),
  endpointUrl: z.string().max(4096),
  pinnedAddress: address.nullable(),
  userName: z.string().max(200),
}) satisfies z.ZodType<PasswordTarget>;

/** Where a kept password may go, and where it would go now. */
export const passwordMove = z.object({ before: passwordTarget, after: passwordTarget });
export type PasswordMove = z.infer<typeof passwordMove>;

export const change = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('set-endpoint-url'),
    linkId: id,
    before: endpointUrl,
    after: endpointUrl,
  }),
  z.object({ kind: z.literal('pin-address'), linkId: id, before: address.nullable(), after: address }),
  z.object({
    kind: z.literal('choose-endpoint'),
    linkId: id,
    before: chosenEndpoint.nullable(),
    after: chosenEndpoint.nullable(),
  }),
  z.object({
    kind: z.literal('trust-server-certificate'),
    linkId: id,
    clientId: id,
    thumbprint,
  }),
  z.object({
    kind: z.literal('accept-client-certificate'),
    linkId: id,
    serverId: id,
    thumbprint,
  }),
  z.object({
    kind: z.literal('change-lists'),
    linkId: id,
    holderId: id,
    wish: z.discriminatedUnion('what', [
      z.object({ what: z.literal('move-to-trusted'), thumbprint }),
      z.object({
        what: z.literal('supply-issuer'),
        subject: z.string().max(1000),
        keyId: z.string().max(200).nullable(),
      }),
      z.object({
        what: z.literal('trust-issuer'),
        subject: z.string().max(1000),
        keyId: z.string().max(200).nullable(),
      }),
      z.object({ what: z.literal('supply-crl'), issuer: z.string().max(1000) }),
    ]),
  }),
  z.object({ kind: z.literal('release-password'), linkId: id, before: passwordTarget, after: passwordTarget }),
  z.object({ kind: z.literal('set-password'), linkId: id, userName: z.string().max(200) }),
  z.object({ kind: z.literal('by-hand') }),
]) satisfies z.ZodType<Change>;

export const remedy = z.object({
  title: z.string(),
  target: z.string(),
  before: z.string(),
  after: z.string(),
  change,
  restart: z.boolean(),
  undo: z.string(),
}) satisfies z.ZodType<Remedy>;

export const evidenceLine = z.object({
  /** The probe that saw it, by its name; absent: the server itself. */
  seenBy: z.string().optional(),
  factId: z.string(),
  source: z.enum(factSources),
  at: instant,
  says: z.string(),
});

export const finding: z.ZodType<Finding> = z.lazy(() =>
  z.object({
    causeId: z.string(),
    step: stepId,
    severity: z.enum(['fails', 'weak']),
    grave: z.boolean(),
    title: z.string(),
    meaning: z.string(),
    clause: z.string(),
    evidence: z.array(evidenceLine),
    remedies: z.array(remedy),
    folded: z.array(finding),
  }),
);

export const stepVerdict = z.object({
  step: stepId,
  verdict,
  summary: z.string(),
  source: z.enum(factSources).nullable(),
  evidence: z.array(evidenceLine),
  findings: z.array(finding),
}) satisfies z.ZodType<StepVerdict>;

export const linkAssessment = z.object({
  linkId: z.string(),
  state: linkState,
  headline: z.string(),
  steps: z.array(stepVerdict),
  partedAt: stepId.nullable(),
  leadingCause: z.string().nullable(),
}) satisfies z.ZodType<LinkAssessment>;

export const checkState = z.enum(['queued', 'running', 'done', 'cancelled', 'failed']);
export type CheckState = z.infer<typeof checkState>;

export const check = z.object({
  id: z.string(),
  linkId: z.string(),
  state: checkState,
  askedBy: z.string(),
  askedAt: instant,
  begunAt: instant.nullable(),
  endedAt: instant.nullable(),
  /** Why it did not come to its end; null where it did or still may. */
  reason: z.string().nullable(),
  /** State of the link that it found; null until it has ended. */
  found: linkState.nullable(),
});
export type Check = z.infer<typeof check>;

/** Items of a link that are to be written with the value that they have, and read back. */
export const writeProof = z.object({
  paths: z.array(z.string().min(1).max(500)).min(1, 'Choose at least one item.').max(50),
  why: z.string().trim().min(5, 'Say why, in a few words: an auditor will ask.').max(500),
});
export type WriteProof = z.infer<typeof writeProof>;

/** A link on the step board. */
export const linkRow = z.object({
  id: z.string(),
  kind: z.enum(linkKindIds),
  name: z.string(),
  client: z.string(),
  clientZone: z.string(),
  server: z.string(),
  serverZone: z.string(),
  endpointUrl: z.string(),
  state: linkState,
  headline: z.string(),
  partedAt: stepId.nullable(),
  leadingCause: z.string().nullable(),
  /** In the order of the steps; empty where it was never checked. */
  verdicts: z.array(verdict),
  checkedAt: instant.nullable(),
  /** A check that has not ended yet. */
  checkId: z.string().nullable(),
  /** What that check waits for, such as “the bench of …”; null where it runs, or waits for other checks alone. */
  waitsFor: z.string().nullable(),
});
export type LinkRow = z.infer<typeof linkRow>;

/** How links can be sorted. `place`: what fails at the same step stands together, the worst first. */
export const linkOrders = ['place', 'name', 'server', 'checked'] as const;
export type LinkOrder = (typeof linkOrders)[number];

/** Which links of the board are asked for. */
export const linkFilter = z.object({
  /** Words that must all stand somewhere in the row. */
  find: z.string().max(300).optional(),
  state: linkState.optional(),
  kind: z.enum(linkKindIds).optional(),
  /** Only those on which a session can be held by hand. */
  usable: z.literal('yes').optional(),
});
export type LinkFilter = z.infer<typeof linkFilter>;

export const linkPage = linkFilter.extend({
  by: z.enum(linkOrders).optional(),
  /** The place of the first one, from 0. */
  from: z.coerce.number().int().min(0).max(10_000_000).optional(),
  most: z.coerce.number().int().min(1).max(500).optional(),
});

/** Some rows of the board, and how many there are. */
export const linkBoard = z.object({
  from: z.int(),
  rows: z.array(linkRow),
  /** How many fit the filter. */
  fitting: z.int(),
  /** The kinds of those that fit. */
  kinds: z.array(z.enum(linkKindIds)),
  /** How many links there are in each state, whatever the filter. */
  states: z.object({ Parted: z.int(), Strained: z.int(), Untried: z.int(), Sound: z.int() }),
  /** Checks that have not ended. */
  underWay: z.int(),
});
export type LinkBoard = z.infer<typeof linkBoard>;

const end = z.object({
  applicationId: z.string(),
  application: z.string(),
  applicationUri: z.string(),
  machine: z.string(),
  zone: z.string(),
  hostNames: z.array(z.string()),
  addresses: z.array(z.string()),
});

const behindRow = z.object({
  path: z.string(),
  /** null: nobody has stated it. */
  origin: keptOrigin.nullable(),
  /** The device’s name; null: the plant has no such machine, or no origin is stated. */
  device: z.string().nullable(),
  served: z.string().nullable(),
  atDevice: z.string().nullable(),
  /** null: they were not compared. */
  agrees: z.boolean().nullable(),
  /** What would have to be set at the server, where it reads another register or reads it otherwise. */
  mapping: mappingChange.nullable(),
});

export const linkDetail = z.object({
  link,
  client: end,
  server: end,
  assessment: linkAssessment,
  checks: z.array(check),
  /** True where the link’s settings were changed after the check that is shown. */
  changedSince: z.boolean(),
  /** Whether a password is kept; it is never shown. */
  /** The tunnel that it goes through, and where its client dials; null: it goes straight. */
  tunnel: z.object({ id: z.string(), name: z.string(), address: z.string(), port: z.int() }).nullable(),
  passwordState,
  /** Endpoints that both sides have, as the last check saw them. */
  usableEndpoints: z.array(chosenEndpoint),
  /** Each item that is read, with where its value comes from, and both values as the last check saw them. */
  behind: z.array(behindRow),
});
export type LinkDetail = z.infer<typeof linkDetail>;

/** Facts are shown as they were written down; their shape is described in docs/formats.md. */
export const fact = z.looseObject({ id: z.string(), kind: z.string(), source: z.enum(factSources), at: instant });
export const checkDetail = z.object({
  check,
  assessment: linkAssessment,
  facts: z.array(fact) as unknown as z.ZodType<readonly Fact[]>,
});
export type CheckDetail = z.infer<typeof checkDetail>;

/** A remedy that the product carries out itself, with what only a person can give. */
export const mending = z.object({
  change,
  /** For `set-password`, and for changes that point the link elsewhere: it belongs to the new target. */
  password: z.string().min(1, 'A password is needed.').max(500).optional(),
});
export const mended = z.object({
  says: z.string(),
  /** The check that proves it; null where another person has to approve first. */
  checkId: z.string().nullable(),
  /** The work order in which it waits for another person; null: it is done. */
  orderId: z.string().nullable(),
});
export type Mended = z.infer<typeof mended>;

export const certificateSummary = z.object({
  thumbprint: z.string(),
  sha256: z.string(),
  subject: z.string(),
  issuer: z.string(),
  serialNumber: z.string(),
  notBefore: instant,
  notAfter: instant,
  applicationUris: z.array(z.string()),
  dnsNames: z.array(z.string()),
  ipAddresses: z.array(z.string()),
  keyType: z.enum(['RSA', 'EC', 'other']),
  keyBits: z.int(),
  signatureHash: z.string(),
  keyUsages: z.array(z.string()),
  extendedKeyUsages: z.array(z.string()),
  isAuthority: z.boolean(),
  pathLength: z.int().nullable(),
  selfIssued: z.boolean(),
  subjectKeyId: z.string().nullable(),
  authorityKeyId: z.string().nullable(),
}) satisfies z.ZodType<CertificateSummary>;

/** A certificate with what is unusual about it, in words. */
export const certificateView = z.object({
  certificate: certificateSummary,
  unusual: z.array(z.string()),
  firstSeen: instant,
});
export type CertificateView = z.infer<typeof certificateView>;

export const judgedUrl = z.object({
  given: z.string(),
  cleaned: z.string().nullable(),
  flaws: z.array(z.object({ kind: z.string(), says: z.string() })),
});
