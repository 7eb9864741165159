import * as z from 'zod';
import { linkKindIds } from '@loyal-hinge/core';
import { compileReadingRule } from '@loyal-hinge/core/casebook';
import { id } from './plant.js';
import { finding, linkAssessment, stepId } from './links.js';
import { timeZone } from './rounds.js';

const instant = z.string();

/** Bytes of the largest file that is taken. */
export const mostEvidenceBytes = 8 * 1024 ** 3;
/** Bytes of one part of it. */
export const evidencePartBytes = 3 * 1024 ** 2;

/** What a person wants to bring. One that was cut off is gone on with: the answer says from where. */
export const evidenceWish = z.object({
  name: z.string().min(1, 'A file has a name.').max(200),
  bytes: z
    .int()
    .min(1, 'The file is empty.')
    .max(mostEvidenceBytes, 'The file is larger than 8 GB: bring it in parts.'),
});
export const evidenceBegun = z.object({ evidenceId: z.string(), received: z.int() });

export const evidencePart = z.object({
  /** Bytes before this part. */
  from: z.int().min(0).max(mostEvidenceBytes),
  /** In Base64. */
  content: z.base64().max(Math.ceil(evidencePartBytes / 3) * 4),
});
export const evidenceReceived = z.object({ received: z.int() });

/** How the clock stands of whatever wrote a file. */
export const evidenceClock = z.object({
  /** Where times say no zone: `+01:00`, or a name such as `Europe/Berlin`. */
  zone: timeZone,
  /** Seconds by which it is ahead of ours; negative: behind. */
  aheadSeconds: z
    .number('Write a number of seconds.')
    .min(-31_536_000, 'No more than a year.')
    .max(31_536_000, 'No more than a year.'),
});
export type EvidenceClock = z.infer<typeof evidenceClock>;

/** How a file is to be read: its clock, and the rule for lines of a form that is not known. */
export const evidenceReading = evidenceClock.extend({
  /** null: by none; absent: as before. */
  ruleId: z.string().max(60).nullable().optional(),
});
export type EvidenceReading = z.infer<typeof evidenceReading>;

export const lineMeanings = ['failed', 'worked'] as const;
/** A rule by which lines of a log are read that have no form that is known. */
export const readingRuleWish = z.object({
  name: z.string().trim().min(1, 'A rule needs a name.').max(80),
  pattern: z
    .string()
    .min(1, 'Write a pattern such as {time} login of {who} from {from} failed: {text}.')
    .max(1000, 'A pattern has at most 1,000 letters.')
    .superRefine((pattern, context) => {
      const compiled = compileReadingRule({ pattern });
      if (compiled.ok) return;
      context.addIssue({ code: 'custom', message: `At letter ${compiled.at + 1}: ${compiled.says}` });
    }),
  /** The machine that writes such lines; empty: they say it themselves, or nobody knows. */
  machine: z.string().trim().max(120),
  means: z.enum(lineMeanings),
});
export type ReadingRuleWish = z.infer<typeof readingRuleWish>;
export const readingRuleRow = readingRuleWish.extend({
  id: z.string(),
  changedBy: z.string(),
  changedAt: instant,
});
export type ReadingRuleRow = z.infer<typeof readingRuleRow>;

export const readingRulesFormat = 'loyal-hinge/reading-rules';
/** Rules as a file, for who wants to take them elsewhere. */
export const readingRulesFile = z.object({
  format: z.literal(readingRulesFormat, { error: 'This is no file of reading rules.' }),
  version: z.literal(1, { error: 'These rules are of a version that is not known here.' }),
  rules: z.array(readingRuleWish).min(1, 'There is no rule in it.').max(200, 'At most 200 rules at once.'),
});
export type ReadingRulesFile = z.infer<typeof readingRulesFile>;

export const ruleTrialWish = z.object({
  pattern: z.string().max(1000),
  zone: timeZone,
  sample: z.string().max(20_000, 'A sample has at most 20,000 letters.'),
});
export type RuleTrialWish = z.infer<typeof ruleTrialWish>;
export const ruleTrial = z.object({
  fault: z.object({ at: z.int(), says: z.string() }).nullable(),
  lines: z.array(z.object({ text: z.string(), parts: z.record(z.string(), z.string()).nullable() })),
});
export type RuleTrialView = z.infer<typeof ruleTrial>;

export const evidenceStates = ['arriving', 'reading', 'read', 'refused'] as const;
export const evidenceRow = z.object({
  id: z.string(),
  name: z.string(),
  bytes: z.number(),
  received: z.number(),
  /** How many of its bytes were read by now. */
  readBytes: z.number(),
  state: z.enum(evidenceStates),
  /** What it is; null: it was not read yet. */
  form: z.enum(['capture', 'log']).nullable(),
  clock: evidenceClock,
  /** The rule that it is read by; null: by none. */
  ruleId: z.string().nullable(),
  /** Packets of a capture, events of a log. */
  items: z.int(),
  attempts: z.int(),
  /** Places or kinds of things that were not understood. */
  notUnderstood: z.int(),
  gaps: z.array(z.object({ position: z.number(), says: z.string() })),
  passedOver: z.array(z.string()),
  /** Why it was refused, or read only in part. */
  fault: z.string().nullable(),
  firstAt: instant.nullable(),
  lastAt: instant.nullable(),
  broughtBy: z.string(),
  broughtAt: instant,
});
export type EvidenceRow = z.infer<typeof evidenceRow>;

/** A clock that stands otherwise than another file’s, as attempts show that both tell of. */
export const clockProposal = z.object({
  evidenceId: z.string(),
  /** The clock as it would be set. */
  clock: evidenceClock,
  /** By which it is ahead of the other file’s; negative: behind. */
  aheadMs: z.number(),
  against: z.string(),
  matches: z.int(),
});
export type ClockProposal = z.infer<typeof clockProposal>;

export const caseActKinds = ['note', 'assign', 'close', 'reopen'] as const;
/** What somebody does about a case. */
export const caseActWish = z
  .object({
    kind: z.enum(caseActKinds),
    text: z.string().trim().max(2000, 'Write at most 2,000 letters.'),
    /** A person, by the name that signs in; null: nobody. */
    to: z.string().max(100).nullable(),
  })
  .superRefine(({ kind, text }, context) => {
    if (kind === 'assign' || text !== '') return;
    const message = kind === 'note' ? 'Write something down.' : 'Say why.';
    context.addIssue({ code: 'custom', path: ['text'], message });
  });
export type CaseActWish = z.infer<typeof caseActWish>;

export const caseStates = ['open', 'proved', 'closed'] as const;
export const caseStatus = z.object({
  state: z.enum(caseStates),
  /** Since when it is over; null: it is open. */
  at: instant.nullable(),
  /** Who closed it; null: nobody did. */
  by: z.string().nullable(),
  why: z.string().nullable(),
});

export const caseAct = z.object({
  kind: z.enum(caseActKinds),
  at: instant,
  by: z.string(),
  text: z.string(),
  to: z.string().nullable(),
});
export type CaseActRow = z.infer<typeof caseAct>;

/** What changed before a case began. */
export const caseBefore = z.object({
  at: instant,
  kind: z.enum(['expiry', 'order', 'change', 'log', 'links']),
  says: z.string(),
  /** Where it stands in a file; null: the product knows it by itself. */
  evidence: z.object({ evidenceId: z.string(), file: z.string(), position: z.number() }).nullable(),
  orderId: z.string().nullable(),
});
export type CaseBefore = z.infer<typeof caseBefore>;

export const caseKinds = ['link', 'stranger', 'scan', 'guessing', 'unknown'] as const;
export const caseRow = z.object({
  id: z.string(),
  kind: z.enum(caseKinds),
  linkId: id.nullable(),
  linkName: z.string().nullable(),
  linkKind: z.enum(linkKindIds).nullable(),
  from: z.string(),
  to: z.string(),
  ports: z.array(z.int()),
  as: z.string().nullable(),
  step: stepId.nullable(),
  causeId: z.string().nullable(),
  /** In a few words. */
  title: z.string(),
  /** The case in one sentence. */
  says: z.string(),
  first: instant,
  last: instant,
  count: z.int(),
  /** How many of them are checks of our own. */
  checks: z.int(),
  status: caseStatus,
  assignedTo: z.string().nullable(),
  rhythm: z.object({ everyMs: z.number(), isRegular: z.boolean() }).nullable(),
  remarks: z.array(z.string()),
  /** When it was tried, in milliseconds since 1970; of many, some that lie evenly among them. */
  marks: z.array(z.number()),
});
export type CaseRow = z.infer<typeof caseRow>;

export const casebookView = z.object({
  /** The weightiest first. */
  cases: z.array(caseRow),
  /** What logs tell of changes at that time, the newest first. */
  happened: z.array(z.object({ at: instant, says: z.string() })),
  evidence: z.array(evidenceRow),
  clocks: z.array(clockProposal),
  /** Attempts that the cases are made of. */
  attempts: z.int(),
  /** The oldest that are looked at, where there are more than are looked at; null: all are. */
  since: instant.nullable(),
});
export type CasebookView = z.infer<typeof casebookView>;

export const attemptView = z.object({
  at: instant,
  from: z.string(),
  to: z.string(),
  port: z.int().nullable(),
  as: z.string().nullable(),
  says: z.string(),
  /** Where it stands, by the file’s name and the bytes before it, or by the server’s name and the number of its event. */
  evidence: z.array(
    z.object({
      /** null: an audit event of a server says it. */
      evidenceId: z.string().nullable(),
      /** Whether a conversation begins there: it is a capture. */
      isConversation: z.boolean(),
      file: z.string(),
      position: z.number(),
      says: z.string(),
    }),
  ),
});
export type AttemptView = z.infer<typeof attemptView>;

const conversationEnd = z.object({
  address: z.string(),
  port: z.int(),
  /** The machine’s, where the plant knows it. */
  name: z.string().nullable(),
});
export const conversationMessage = z.object({
  index: z.int(),
  /** Milliseconds since 1970, with parts of them. */
  at: z.number(),
  from: z.enum(['client', 'server', 'network']),
  /** Of the connection itself, or of what is spoken on it. */
  layer: z.enum(['connection', 'message']),
  what: z.string(),
  isAnswer: z.boolean(),
  outcome: z.enum(['well', 'badly']).nullable(),
  says: z.string(),
  details: z.array(z.object({ name: z.string(), value: z.string() })),
  /** Bytes on the wire. */
  size: z.int(),
  /** Why its bytes are not shown; null: they may be. */
  withheld: z.string().nullable(),
});
export type ConversationMessage = z.infer<typeof conversationMessage>;

/** What two machines said to each other. */
export const conversationView = z.object({
  evidenceId: z.string(),
  file: z.string(),
  position: z.number(),
  client: conversationEnd,
  server: conversationEnd,
  protocol: z.enum(['opc.tcp', 'dcerpc', 'tls', 'tcp']),
  user: z.string().nullable(),
  linkId: id.nullable(),
  linkName: z.string().nullable(),
  hasFailed: z.boolean(),
  /** How it ended. */
  says: z.string(),
  start: instant,
  end: instant,
  notes: z.array(z.string()),
  messages: z.array(conversationMessage),
  leftOut: z.int(),
});
export type ConversationView = z.infer<typeof conversationView>;

/** The bytes of one message, in Base64; the first of them where there are more. */
export const messageBytes = z.object({ index: z.int(), content: z.base64().nullable() });
export type MessageBytes = z.infer<typeof messageBytes>;

/** What stands at a place of a file; null: it is no text. */
export const evidencePlace = z.object({
  name: z.string(),
  lines: z.array(z.object({ position: z.number(), text: z.string() })).nullable(),
});
export type EvidencePlace = z.infer<typeof evidencePlace>;

export const caseView = caseRow.extend({
  findings: z.array(finding),
  /** What the last attempt shows of the link. */
  assessment: linkAssessment.nullable(),
  /** Attempts, without checks. */
  attempts: z.int(),
  /** The newest. */
  recent: z.array(attemptView),
  /** The newest check that saw it, and the one that proves that it is over. */
  checkId: z.string().nullable(),
  before: z.array(caseBefore),
  acts: z.array(caseAct),
  /** To whom it can be given. */
  people: z.array(z.string()),
});
export type CaseView = z.infer<typeof caseView>;
