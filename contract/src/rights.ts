import * as z from 'zod';
import { gapRights, isPatternFault, itemPattern, rightNames } from '@loyal-hinge/core';

/** `waiting` for its turn; `whole`: all nodes were seen; `part`: it ended before, and what was seen is kept. */
export const snapshotState = z.enum(['waiting', 'running', 'whole', 'part', 'failed', 'cancelled']);
export type SnapshotState = z.infer<typeof snapshotState>;

/** What somebody may do with the nodes of a server, as their session saw it. */
export const rightsSnapshot = z.object({
  id: z.string(),
  /** A user name; null: anonymous. */
  userName: z.string().nullable(),
  /** A pattern: only nodes whose paths fit it were looked at; null: all nodes. */
  part: z.string().nullable(),
  state: snapshotState,
  nodes: z.int(),
  /** Why it is not whole. */
  says: z.string().nullable(),
  askedBy: z.string(),
  askedAt: z.string(),
  endedAt: z.string().nullable(),
});
export type RightsSnapshot = z.infer<typeof rightsSnapshot>;

/** A server, with those who sign in there by its links, or could without a name. */
export const rightsServer = z.object({
  id: z.string(),
  name: z.string(),
  machine: z.string(),
  /** null: anonymous. */
  identities: z.array(z.object({ userName: z.string().nullable(), links: z.array(z.string()) })),
  /** When the newest snapshot was asked for; null: none was. */
  newestAt: z.string().nullable(),
});
export type RightsServer = z.infer<typeof rightsServer>;

const rightsBits = z.int().min(0);

const example = z.object({ nodeId: z.string(), path: z.string(), rights: z.array(rightsBits) });

/** Nodes with the same rights for everybody, named by what their paths have in common. */
export const rightsGroup = z.object({
  pattern: z.string(),
  fitsOthers: z.boolean(),
  /** By identity, as bits in the order of the names of rights. */
  rights: z.array(rightsBits),
  nodes: z.int(),
  examples: z.array(example),
});
export type RightsGroupView = z.infer<typeof rightsGroup>;

/** Gaps of the same kind, named by what the paths of their nodes have in common. */
export const rightsGap = z.object({
  pattern: z.string(),
  nodes: z.int(),
  /** Path of one of the nodes. */
  example: z.string(),
  identity: z.string(),
  right: z.enum(gapRights),
  gap: z.enum(['missing', 'excess']),
  grade: z.enum(['grave', 'weak', 'slight']),
  /** Why it is missing, in words; null: it is not. */
  why: z.string().nullable(),
});
export type RightsGapView = z.infer<typeof rightsGap>;

/** What a snapshot is to be of. */
export const snapshotWish = z.object({
  /** A pattern for paths; empty: all nodes. */
  part: z
    .string()
    .trim()
    .max(500)
    .superRefine((text, context) => {
      const read = text === '' ? null : itemPattern(text);
      if (read && isPatternFault(read)) context.addIssue({ code: 'custom', message: read.says });
    }),
});
export type SnapshotWish = z.infer<typeof snapshotWish>;

/** Paths and patterns whose variables are looked for among the nodes that snapshots have seen. */
export const matchesWish = z.object({
  /** Who is to see them: a user name, empty for anonymous. */
  userName: z.string().max(300),
  paths: z.array(z.string().min(1).max(1000)).max(50),
});
export type MatchesWish = z.infer<typeof matchesWish>;

/** What paths and patterns of a server stand for, as far as snapshots have seen. */
export const knownMatches = z.object({
  /** When the nodes were seen; null: nothing is known of them. */
  seenAt: z.string().nullable(),
  /** As whom they were seen: a user name, empty for anonymous. */
  as: z.string(),
  /** In the order in which they were asked for. */
  paths: z.array(z.object({ path: z.string(), isPattern: z.boolean(), count: z.int(), examples: z.array(z.string()) })),
});
export type KnownMatches = z.infer<typeof knownMatches>;

/** The rights on one server, by the newest snapshots of each identity. */
export const rightsView = z.object({
  server: rightsServer,
  /** In the order of the columns, with the snapshots that are laid over each other, the newest last; none: nothing is known. */
  identities: z.array(z.object({ name: z.string(), isAnonymous: z.boolean(), snapshots: z.array(rightsSnapshot) })),
  /** All snapshots, the newest first. */
  snapshots: z.array(rightsSnapshot),
  nodes: z.int(),
  /** Those that fit what is looked for, the largest first; at most 500. */
  groups: z.array(rightsGroup),
  groupCount: z.int(),
  /** The gravest first; at most 500. */
  gaps: z.array(rightsGap),
  gapCounts: z.object({ missing: z.int(), excess: z.int(), anonymousWrite: z.int() }),
});
export type RightsView = z.infer<typeof rightsView>;

export const rightsWish = z.object({
  /** A pattern for paths, or words that must all stand in one. */
  find: z.string().max(500).optional(),
  /** Only what somebody may do: such as `write`. */
  right: z.enum(rightNames).optional(),
});
export type RightsWish = z.infer<typeof rightsWish>;

/** Nodes that somebody may write, named by what their paths have in common. */
export const rightsWriter = z.object({
  serverId: z.string(),
  server: z.string(),
  /** A user name, or anonymous. */
  identity: z.string(),
  isAnonymous: z.boolean(),
  pattern: z.string(),
  nodes: z.int(),
  /** Links that sign in so and need to write there; none: nobody needs it. */
  neededBy: z.array(z.string()),
  /** When the snapshot ended that says so. */
  seenAt: z.string().nullable(),
});
export type RightsWriter = z.infer<typeof rightsWriter>;

/** Who can write here: in the whole plant, or where words or a pattern fit. */
export const rightsWriters = z.object({
  /** What nobody needs stands first, the anonymous before all; at most 500, in a report 5,000. */
  writers: z.array(rightsWriter),
  /** Of all entries, also of those that are not listed. */
  total: z.int(),
  accounts: z.int(),
  /** Entries that no link needs. */
  unneeded: z.int(),
  /** Entries of those who come without a name. */
  unnamed: z.int(),
  /** Servers without a usable snapshot: nothing is known of them. */
  unseen: z.array(z.object({ serverId: z.string(), server: z.string() })),
});
export type RightsWriters = z.infer<typeof rightsWriters>;

/** What a report of who can write is about: a node, what fits a pattern, or everything, at one server or at all. */
export const rightsReportWish = rightsWish.pick({ find: true }).extend({ server: z.string().max(200).optional() });
export type RightsReportWish = z.infer<typeof rightsReportWish>;

/** What has become of somebody’s rights between two snapshots. */
export const rightsChange = z.object({
  nodeId: z.string(),
  path: z.string(),
  change: z.enum(['given', 'taken', 'new node', 'node is gone']),
  rights: rightsBits,
});
export type RightsChangeView = z.infer<typeof rightsChange>;
