import * as z from 'zod';
import { doorWeaknesses, tokenTypes } from '@loyal-hinge/core';
import type { Door, DoorChange, DoorRule, EntryFloor } from '@loyal-hinge/core';
import { id, pointInTime, securityMode, securityPolicyName } from './plant.js';

const tokenType = z.enum(tokenTypes);
/** A policy by its name; by its URI where it is not known. */
const policy = z.string().min(1, 'A policy is needed.').max(300);

/** A way into a server: a policy, a mode, and a kind of user that is taken there. */
export const door = z.object({ policy, mode: securityMode, token: tokenType }) satisfies z.ZodType<Door>;

const doorsOfServer = { serverId: id, doors: z.array(door).min(1, 'Name at least one door.').max(100).readonly() };

/** Doors of a server that are to be opened or closed. */
export const doorChange = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('open-doors'), ...doorsOfServer }),
  z.object({ kind: z.literal('close-doors'), ...doorsOfServer }),
]) satisfies z.ZodType<DoorChange>;

/** Doors that are closed or opened in a what-if: on one server or all; null fits any. */
export const doorRule = z
  .object({
    serverId: id.nullable(),
    policy: policy.nullable(),
    mode: securityMode.nullable(),
    token: tokenType.nullable(),
    to: z.enum(['closed', 'open']),
  })
  .refine(({ to, policy, mode, token }) => to === 'closed' || (policy && mode && token), {
    error: 'Only a door that is named can be opened: its policy, mode and kind of user.',
  }) satisfies z.ZodType<DoorRule>;

/** The least that the plant accepts of an endpoint and of who signs in there. */
export const entryFloor = z.object({
  policy: securityPolicyName,
  mode: securityMode,
  tokens: z.array(tokenType).min(1, 'At least one kind of user is needed: else nobody may sign in.').max(4).readonly(),
  /** Least length of an RSA key in a server’s certificate, in bits; 0: any. */
  keyBits: z.int().min(0, 'At least 0: any length.').max(8192, 'At most 8192 bits.'),
}) satisfies z.ZodType<EntryFloor>;

/** Another floor than the plant’s, for one server or link, until a day. */
export const giveException = z.object({
  of: z.enum(['server', 'link']),
  subjectId: id,
  floor: entryFloor,
  reason: z.string().trim().min(5, 'Say why, in a few words: an auditor will ask.').max(500),
  until: pointInTime('An exception needs the date on which it ends.'),
});
export type GiveException = z.infer<typeof giveException>;

export const exceptionView = giveException.extend({
  id: z.int(),
  /** Name of the server or link. */
  subject: z.string(),
  givenBy: z.string(),
  givenAt: z.string(),
  /** null: it is in force. */
  ended: z.object({ at: z.string(), by: z.string() }).nullable(),
});
export type ExceptionView = z.infer<typeof exceptionView>;

const namedLink = z.object({ id: z.string(), name: z.string() });

/** A door as a server has it, and who comes in by it. */
export const serverDoor = door.extend({
  /** What keeps a password or a token from being read on the way; null: none is sent. */
  cover: z.enum(['token', 'channel', 'nothing']).nullable(),
  /** What token is wanted, and who issues it; null: none, or that is not known. */
  issued: z.string().nullable(),
  weaknesses: z.array(z.enum(doorWeaknesses)),
  links: z.array(namedLink),
});
export type ServerDoor = z.infer<typeof serverDoor>;

/** A server with its doors, as it described them when a check asked it last. */
export const serverAtDoors = z.object({
  id: z.string(),
  name: z.string(),
  machine: z.string(),
  zone: z.string(),
  /** null: no check has seen its endpoints yet. */
  seenAt: z.string().nullable(),
  doors: z.array(serverDoor),
  /** Links that don’t get in, and why. */
  out: z.array(namedLink.extend({ why: z.string() })),
  /** All links that go there. */
  links: z.int(),
});
export type ServerAtDoors = z.infer<typeof serverAtDoors>;

export const doorChoices = ['weak', 'unused', 'unseen'] as const;
export const entryPage = z.object({
  /** Words that must all stand somewhere in a server’s name, machine, zone, doors or links. */
  find: z.string().max(300).optional(),
  /** Servers with a weak door, with a weak door that nobody uses, or whose endpoints were never seen. */
  only: z.enum(doorChoices).optional(),
  /** The place of the first server, from 0. */
  from: z.coerce.number().int().min(0).max(10_000_000).optional(),
  most: z.coerce.number().int().min(1).max(200).optional(),
});
export type EntryPage = z.infer<typeof entryPage>;

export const entryView = z.object({
  from: z.int(),
  fitting: z.int(),
  servers: z.array(serverAtDoors),
  /** Of the whole plant. */
  counts: z.object({
    servers: z.int(),
    unseen: z.int(),
    weakDoors: z.int(),
    /** Weak doors that can be closed without cutting a link off. */
    closable: z.int(),
  }),
  floor: entryFloor,
});
export type EntryView = z.infer<typeof entryView>;

export const entryFloors = z.object({ floor: entryFloor, exceptions: z.array(exceptionView) });
export type EntryFloors = z.infer<typeof entryFloors>;

const doorOfServer = z.object({ serverId: z.string(), server: z.string(), door });

/** What can be closed today, and what it takes to close the rest. */
export const entryClosing = z.object({
  close: z.array(doorOfServer),
  keep: z.array(doorOfServer.extend({ links: z.array(namedLink) })),
  /** The changes after which all can be closed, in words. */
  needs: z.array(z.object({ says: z.string(), links: z.array(namedLink) })),
  /** Links for which there is no way. */
  stuck: z.array(namedLink),
  /** False where there may be a shorter way. */
  isShortest: z.boolean(),
});
export type EntryClosing = z.infer<typeof entryClosing>;

export const doorRules = z.object({ rules: z.array(doorRule).max(2000, 'At most 2,000 rules at once.') });

const doorTurn = z.object({
  linkId: z.string(),
  name: z.string(),
  server: z.string(),
  turn: z.enum(['moves', 'cut off', 'gets in']),
  before: door.nullable(),
  after: door.nullable(),
  why: z.string().nullable(),
  /** What would let a link in that is cut off, each change in words; empty: it is not cut off, or there is no way. */
  needs: z.array(z.string()),
});
export type DoorTurnView = z.infer<typeof doorTurn>;

export const doorTurns = z.object({
  counts: z.object({ moves: z.int(), cutOff: z.int(), getsIn: z.int() }),
  /** Those that are cut off first; at most 500. */
  turns: z.array(doorTurn),
  /** What is to be done at the servers, and the links by which it is seen afterwards whether it was. */
  lines: z.array(z.object({ change: doorChange, server: z.string(), linkIds: z.array(z.string()) })),
});
export type DoorTurns = z.infer<typeof doorTurns>;
