import * as z from 'zod';
import { linkKindIds, recordingShapes } from '@loyal-hinge/core';

export const benchOpened = z.object({
  benchId: z.string(),
  linkId: z.string(),
  linkName: z.string(),
  kind: z.enum(linkKindIds),
  security: z.string(),
  user: z.string(),
});
export type BenchOpened = z.infer<typeof benchOpened>;

export const benchNode = z.object({
  nodeId: z.string(),
  browseName: z.string(),
  displayName: z.string(),
  nodeClass: z.enum(['Object', 'Variable', 'Method', 'other']),
});
export type BenchNode = z.infer<typeof benchNode>;

export const benchValue = z.object({
  nodeId: z.string(),
  code: z.string(),
  /** Code and meaning in words. */
  status: z.string(),
  value: z.string().nullable(),
  number: z.number().nullable(),
  dataType: z.string().nullable(),
  sourceTimestamp: z.string().nullable(),
  serverTimestamp: z.string().nullable(),
});
export type BenchValue = z.infer<typeof benchValue>;

/** How a value is shown where its text alone says too little. */
export const benchShape = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('plain') }),
  z.object({ kind: z.literal('switch'), isOn: z.boolean() }),
  z.object({ kind: z.literal('named'), name: z.string() }),
  /** The first elements; `count` says how many there are. */
  z.object({ kind: z.literal('list'), count: z.int(), elements: z.array(z.string()) }),
  z.object({ kind: z.literal('structure'), fields: z.array(z.object({ name: z.string(), value: z.string() })) }),
]);
export type BenchShape = z.infer<typeof benchShape>;

export const benchReading = benchValue.extend({
  shape: benchShape,
  /** Engineering unit as the server shows it; empty where it has none. */
  unit: z.string(),
  /** What this session’s user may do with it, in the server’s words. */
  may: z.array(z.string()),
  mayWrite: z.boolean(),
  mayLookBack: z.boolean(),
});
export type BenchReading = z.infer<typeof benchReading>;

/** What a value to be written is held to. */
export const benchTyped = z.object({
  nodeId: z.string(),
  /** As it is now, an element a line where it is a list. */
  value: z.string().nullable(),
  dataType: z.string(),
  /** Whether values of this type can be typed. */
  canBeTyped: z.boolean(),
  isArray: z.boolean(),
  range: z.object({ low: z.number(), high: z.number() }).nullable(),
  /** Names of an enumeration. */
  names: z.array(z.string()),
  mayWrite: z.boolean(),
  /** The value that was there before the last write of this session; null: it wrote nothing here. */
  undo: z.string().nullable(),
});
export type BenchTyped = z.infer<typeof benchTyped>;

const nodeId = z.string().min(1, 'A node is needed.').max(1000);

export const benchWrite = z.object({
  nodeId,
  typed: z.string().max(100_000),
  /** The value that was shown when it was typed: where another one stands there now, nothing is written. */
  seen: z.string().max(100_000).nullable(),
  why: z.string().trim().min(5, 'Say why, in a few words: an auditor will ask.').max(500),
});
export type BenchWrite = z.infer<typeof benchWrite>;

export const benchUndo = z.object({ nodeId });

export const benchWritten = z.object({
  before: z.string().nullable(),
  /** As it was read back. */
  after: z.string().nullable(),
  /** What was written stands there now. */
  stays: z.boolean(),
  says: z.string(),
});
export type BenchWritten = z.infer<typeof benchWritten>;

export const benchDescribed = z.object({
  nodeId: z.string(),
  attributes: z.array(z.object({ name: z.string(), value: z.string() })),
  references: z.array(
    z.object({
      type: z.string(),
      isForward: z.boolean(),
      nodeId: z.string(),
      name: z.string(),
      nodeClass: z.string(),
    }),
  ),
  referenceCount: z.int(),
});
export type BenchDescribed = z.infer<typeof benchDescribed>;

/** Variables whose paths fit a pattern. */
export const benchMatches = z.object({
  nodes: z.array(benchNode.extend({ path: z.string() })),
  /** Nodes that were looked at. */
  seen: z.int(),
  /** All of the server’s nodes that can fit were looked at. */
  isWhole: z.boolean(),
});
export type BenchMatches = z.infer<typeof benchMatches>;

/** Items in one recording. */
export const mostRecordedItems = 1000;

/** What is to be recorded of watched items. */
export const recordingWish = z.object({
  items: z
    .array(z.object({ nodeId, name: z.string().min(1).max(1000) }))
    .min(1, 'Watch something first.')
    .max(mostRecordedItems, `At most ${mostRecordedItems.toLocaleString('en')} items can be recorded at once.`),
  /** A row for each change, or a row a sample with the items in columns. */
  shape: z.enum(recordingShapes),
  everyMs: z.int('A whole number is needed.').min(100, 'At least 100 ms.').max(3_600_000, 'At most an hour.'),
  seconds: z.int('A whole number is needed.').min(1, 'At least a second.').max(86_400, 'At most a day.'),
});
export type RecordingWish = z.infer<typeof recordingWish>;

export const recording = z.object({
  id: z.string(),
  linkName: z.string(),
  items: z.int(),
  shape: z.enum(recordingShapes),
  everyMs: z.int(),
  seconds: z.int(),
  state: z.enum(['running', 'done', 'stopped', 'failed']),
  /** Why it ended before its time; null: it did not. */
  says: z.string().nullable(),
  rows: z.int(),
  bytes: z.int(),
  begunAt: z.string(),
  endedAt: z.string().nullable(),
});
export type Recording = z.infer<typeof recording>;

/** Values of a span that is over, as the server has recorded them. */
export const benchHistory = z.object({
  nodeId: z.string(),
  code: z.string(),
  status: z.string(),
  from: z.string(),
  to: z.string(),
  /** The oldest first. */
  values: z.array(
    z.object({
      at: z.string().nullable(),
      value: z.string().nullable(),
      number: z.number().nullable(),
      code: z.string(),
    }),
  ),
  /** There are more in the span than are here. */
  hasMore: z.boolean(),
});
export type BenchHistory = z.infer<typeof benchHistory>;

/** An event as it came. */
export const benchEvent = z.object({
  at: z.string().nullable(),
  severity: z.number(),
  sourceName: z.string(),
  message: z.string(),
});
export type BenchEvent = z.infer<typeof benchEvent>;

/** Events heard since the last message, the oldest first. */
export const benchEvents = z.object({
  events: z.array(benchEvent),
  /** Older ones that are left out, since more came than a page shows. */
  skipped: z.int(),
  /** How listening stands, in words, where that has changed; null: it has not. */
  says: z.string().nullable(),
});
export type BenchEvents = z.infer<typeof benchEvents>;

/** In all the sessions of one bench. */
export const mostWatched = 5000;

/** What of a session is watched, and how often it is asked for. */
export const benchWatchWish = z.object({
  nodeIds: z
    .array(nodeId)
    .max(mostWatched, `At most ${mostWatched.toLocaleString('en')} nodes can be watched at once.`)
    .refine((nodeIds) => new Set(nodeIds).size === nodeIds.length, 'A node is named twice.'),
  /** Requested sampling and publishing interval, in milliseconds. */
  everyMs: z.int('A whole number is needed.').min(50, 'At least 50 ms.').max(60_000, 'At most a minute.'),
});
export type BenchWatchWish = z.infer<typeof benchWatchWish>;

/** The number by which changes of a watched node are told from now on. */
export const benchSlot = z.object({ slot: z.int(), nodeId: z.string() });
export type BenchSlot = z.infer<typeof benchSlot>;

/**
 * How often the server samples and publishes a watched node, in milliseconds (Part 4 §5.13.2, §5.14.2; of a classic server,
 * the update rate of its group).
 */
export const benchWatching = z.object({
  slot: z.int(),
  revisedSamplingIntervalMs: z.number(),
  revisedPublishingIntervalMs: z.number(),
  /** The server tells changes by itself; false: it can’t come back to us, and is asked each time. */
  isTold: z.boolean(),
});
export type BenchWatching = z.infer<typeof benchWatching>;

/**
 * A change of a watched node, short because there are many: slot; value (a number stands for its own usual text); source
 * time and server time in ms since 1970; then, only where they are needed, the status code where it is not Good (“” is Good),
 * and the number of a value that has another text.
 */
export const benchChange = z.tuple([
  z.int(),
  z.union([z.string(), z.number(), z.null()]),
  z.number().nullable(),
  z.number().nullable(),
  z.string().optional(),
  z.number().optional(),
]);
export type BenchChange = z.infer<typeof benchChange>;

/** Whose events a page listens to. */
export const benchListenWish = z.object({ nodeId: z.string().min(1, 'A node is needed.').max(1000) });

/** What was heard of a session since the last message; at most a few messages a second. */
export const benchHeard = z.object({
  benchId: z.string(),
  /** Nodes whose changes may come from now on. */
  slots: z.array(benchSlot),
  /** Nodes whose intervals are others than before. */
  watching: z.array(benchWatching),
  /** Each change, the oldest first. */
  changes: z.array(benchChange),
  /** Of this stream until now: changes that came, those that are not sent because it is read too slowly, and times at which the server’s own queue was too short. */
  came: z.int(),
  thinned: z.int(),
  overflown: z.int(),
  /** Whether the session is there, where that has changed; null: it has not. */
  session: z.object({ isLost: z.boolean(), at: z.string(), says: z.string() }).nullable(),
});
export type BenchHeard = z.infer<typeof benchHeard>;

/** A message of the one stream that a page has for all its sessions. */
export const benchMessage = z.object({
  /** In the first message: the sessions of this page that are there. null: in all others. */
  here: z.array(z.string()).nullable(),
  /** Sessions that are there no more. */
  ended: z.array(z.string()),
  /** Sessions that were closed since nobody used them for a while: they are not wanted any more. */
  unused: z.array(z.string()),
  heard: z.array(benchHeard),
});
export type BenchMessage = z.infer<typeof benchMessage>;

const page = z.string().regex(/^[0-9a-f]{32}$/, 'A page calls itself by 32 hexadecimal digits.');

/** For whom a session is opened: a page that hears of it, and that has chosen this name for itself; none: it is heard of nowhere. */
export const benchOpening = z.object({ page: page.optional() });

/** Which page wants to hear of its sessions. */
export const benchStreamWish = z.object({ page });
