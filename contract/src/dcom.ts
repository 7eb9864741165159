import * as z from 'zod';
import { comRights, isDcomPermission, readDescriptor } from '@loyal-hinge/core';
import type { DcomChange } from '@loyal-hinge/core';

/** Exports of a machine’s registry, zips of them, and what machines print of accounts. */
export const machineFiles = z.object({
  files: z
    .array(z.object({ name: z.string().max(255), base64: z.base64() }))
    .min(1, 'Choose at least one file.')
    .max(50, 'At most 50 files go at once; put them into a zip.'),
});
export type MachineFiles = z.infer<typeof machineFiles>;

/** A machine with classic applications, or with exports. */
export const dcomMachine = z.object({
  machineId: z.string(),
  machine: z.string(),
  zone: z.string(),
  /** Classic servers that the plant knows there. */
  servers: z.int(),
  /** The newest exports; null: there are none. */
  takenAt: z.string().nullable(),
  takenBy: z.string().nullable(),
  applications: z.int(),
  /** Cells of the servers’ rights: needed and not given, given and not needed, given to nearly everybody. */
  missing: z.int(),
  excess: z.int(),
  wide: z.int(),
});
export type DcomMachine = z.infer<typeof dcomMachine>;
export const dcomMachines = z.object({ machines: z.array(dcomMachine) });
export type DcomMachines = z.infer<typeof dcomMachines>;

export const rightStandings = ['needed', 'missing', 'given', 'excess', 'wide', 'none', 'unknown'] as const;

export const dcomCell = z.object({ right: z.enum(comRights), standing: z.enum(rightStandings), says: z.string() });
export const dcomRow = z.object({
  sid: z.string().nullable(),
  name: z.string(),
  isAccount: z.boolean(),
  links: z.array(z.string()),
  cells: z.array(dcomCell),
});
export type DcomRow = z.infer<typeof dcomRow>;

export const dcomApplication = z.object({
  appId: z.string(),
  name: z.string(),
  progIds: z.array(z.string()),
  /** Server applications of the plant that it is. */
  servers: z.array(z.string()),
  launchFrom: z.enum(['own', 'default', 'none']),
  accessFrom: z.enum(['own', 'default', 'none']),
  level: z.string().nullable(),
  runAs: z.string().nullable(),
  endpoints: z.array(z.string()),
  /** What could not be read of its permissions. */
  faults: z.array(z.string()),
  rows: z.array(dcomRow),
});
export type DcomApplicationView = z.infer<typeof dcomApplication>;

export const dcomExport = z.object({
  id: z.int(),
  takenAt: z.string(),
  takenBy: z.string(),
  files: z.array(
    z.object({
      name: z.string(),
      bytes: z.int(),
      holds: z.enum(['settings', 'account', 'services', 'groups', 'nothing']),
    }),
  ),
});
export type DcomExport = z.infer<typeof dcomExport>;

/** A security descriptor in base64; null: there is none. */
const descriptor = z
  .base64()
  .max(100_000)
  .refine((text) => readDescriptor(text) !== undefined, 'This is no security descriptor.')
  .nullable();

/** A permission of DCOM that becomes another one. */
export const dcomChange = z
  .object({
    kind: z.literal('set-permission'),
    machineId: z.string().min(1).max(80),
    what: z.string().min(1).max(300),
    path: z.string().max(300),
    name: z.string().max(80),
    before: descriptor,
    after: descriptor,
  })
  .refine(isDcomPermission, { error: 'This value of the registry is no permission of DCOM.', path: ['name'] })
  .refine(({ before, after }) => before !== after, {
    error: 'It is so already: nothing would change.',
    path: ['after'],
  }) satisfies z.ZodType<DcomChange>;

/** The least that lets every link work, as changes from what is there. */
export const smallestView = z.object({
  changes: z.array(
    z.object({
      what: z.string(),
      before: z.string().nullable(),
      after: z.string().nullable(),
      says: z.array(z.string()),
      /** As a line of a work order, with the links that depend on it. */
      change: dcomChange,
      linkIds: z.array(z.string()),
    }),
  ),
  restarts: z.array(z.string()),
  /** Links whose accounts may do what the link needs afterwards, and may not now, or the other way round. */
  turns: z.array(z.object({ link: z.string(), isGained: z.boolean() })),
  notes: z.array(z.string()),
  /** Texts of files for the registry: one that puts the changes in force, one that takes them back. */
  apply: z.string(),
  undo: z.string(),
});
export type SmallestView = z.infer<typeof smallestView>;

export const dcomView = z.object({
  machineId: z.string(),
  machine: z.string(),
  zone: z.string(),
  /** Newest first. */
  exports: z.array(dcomExport),
  /** The one that is shown; null: there are none. */
  shown: z.int().nullable(),
  /** Settings of the whole machine, each with its value in words; null: the export does not say. */
  settings: z.array(z.object({ what: z.string(), value: z.string().nullable(), isWeak: z.boolean() })),
  /** Applications that are servers of the plant first. */
  applications: z.array(dcomApplication),
  /** null: there is no export to begin from. */
  smallest: smallestView.nullable(),
  accounts: z.array(z.object({ name: z.string(), sid: z.string(), groups: z.int() })),
  faults: z.array(z.object({ file: z.string(), line: z.int(), says: z.string() })),
});
export type DcomView = z.infer<typeof dcomView>;

export const dcomDifferences = z.object({
  before: dcomExport,
  after: dcomExport,
  differences: z.array(z.object({ what: z.string(), before: z.string().nullable(), after: z.string().nullable() })),
});
export type DcomDifferences = z.infer<typeof dcomDifferences>;
