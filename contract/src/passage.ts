import * as z from 'zod';
import { openingPurposes, passageHooks, ruleSetFormats, serviceKinds, worths } from '@loyal-hinge/core';
import type { OpeningPurpose, PassageChange, PlantService } from '@loyal-hinge/core';
import { id, name, targetLevel } from './plant.js';

/** A firewall: a machine’s own, or one between zones. */
export const firewallWish = z
  .object({
    name,
    /** Whose own it is; null: it stands between zones. */
    machineId: id.nullable(),
    /** Its interfaces, as its rules name them, and the zones behind. */
    interfaces: z
      .array(z.object({ name: z.string().trim().min(1, 'Give the interface’s name.').max(64), zoneId: id }))
      .max(64),
  })
  .refine((wish) => wish.machineId !== null || wish.interfaces.length >= 2, {
    path: ['interfaces'],
    message: 'A firewall between zones has at least two interfaces.',
  })
  .refine((wish) => new Set(wish.interfaces.map((each) => each.name)).size === wish.interfaces.length, {
    path: ['interfaces'],
    message: 'Two interfaces have the same name.',
  });
export type FirewallWish = z.infer<typeof firewallWish>;

export const conduitWish = z
  .object({
    name,
    /** From here connections are opened. */
    fromZoneId: id,
    toZoneId: id,
    /** In the order from one to the other; empty: whichever join the two. */
    firewallIds: z.array(id).max(16),
    /** Security level that is wanted (IEC 62443-3-3, SL-T); null: none is set. */
    targetLevel,
  })
  .refine((wish) => wish.fromZoneId !== wish.toZoneId, {
    path: ['toZoneId'],
    message: 'A conduit leads from one zone to another.',
  });
export type ConduitWish = z.infer<typeof conduitWish>;

/** A service that machines use, and where it runs. */
export const serviceWish = z
  .object({
    name,
    kind: z.enum(serviceKinds),
    machineId: id,
    /** On which it answers; null: it goes to the ports of the servers that it manages. */
    port: z.int().min(1, 'A port is at least 1.').max(65_535, 'A port is at most 65535.').nullable(),
    /** Zones whose machines use it; empty: all. */
    zoneIds: z.array(id).max(200),
  })
  .refine(({ kind, port }) => (kind === 'management') === (port === null), {
    path: ['port'],
    message: 'Give the port on which it answers; the management of certificates has none.',
  });
export type ServiceWish = z.infer<typeof serviceWish>;

export const plantService = serviceWish.safeExtend({ id: z.string() }) satisfies z.ZodType<PlantService>;

const purpose = z.enum(Object.keys(openingPurposes) as [OpeningPurpose, ...OpeningPurpose[]]);
const verdict = z.enum(['accept', 'drop', 'reject', 'partly', 'unknown', 'not-told']);
const rulePlace = z.object({ table: z.string().max(255), chain: z.string().max(255), index: z.int().min(0) });

const ruleText = z.string().trim().min(1).max(4000);
const placedRules = z.object({
  firewallId: id,
  what: z.string().max(300),
  hook: z.enum(passageHooks),
  in: z.string().max(64),
  out: z.string().max(64),
  table: z.string().max(255),
  chain: z.string().max(255),
  before: z.int().min(0).nullable(),
  commands: z.array(ruleText).max(100).readonly(),
  undo: z.array(ruleText).max(100).readonly(),
});
const someRules = z.array(ruleText).max(100).readonly();
const rulesThere = z.array(ruleText).min(1).max(100).readonly();
/** Rules of a firewall that somebody adds, takes away or changes there. */
export const passageChange = z.discriminatedUnion('kind', [
  placedRules.extend({ kind: z.enum(['add-rules', 'remove-rules']), rules: rulesThere }),
  placedRules
    .extend({ kind: z.literal('replace-rules'), rules: someRules, by: someRules })
    .refine(({ rules, by }) => rules.length + by.length > 0, { path: ['rules'], message: 'Name a rule.' }),
]) satisfies z.ZodType<PassageChange>;

/** What the firewalls make of one opening that a link needs. */
export const passageOpening = z.object({
  purpose,
  opens: z.enum(['client', 'server']),
  /** The machines that it joins, and the zones between, from the one that opens the connection. */
  between: z.object({ from: z.string(), to: z.string(), zoneIds: z.array(z.string()) }),
  from: z.array(z.string()),
  to: z.array(z.string()),
  protocol: z.enum(['tcp', 'udp']),
  ports: z.array(z.string()),
  /** How many ports that are. */
  portCount: z.int(),
  verdict,
  /** The conduit that leads this way; null: there is none, or both ends are in one zone. */
  conduitId: z.string().nullable(),
  /** In the order in which a packet meets them, up to the one that stops it. */
  firewalls: z.array(
    z.object({
      id: z.string(),
      name: z.string(),
      verdict,
      rule: rulePlace.extend({ text: z.string() }).nullable(),
      why: z.string().nullable(),
      translated: z.string().nullable(),
      /** The connection is opened through it, and the verdict is on the answers. */
      isAnswer: z.boolean(),
      /** The smallest change that lets it through; null: none is known, or none is needed. */
      change: passageChange.nullable(),
    }),
  ),
});
export type PassageOpening = z.infer<typeof passageOpening>;

/** The way over firewalls of what the plant needs: a link, a service for one zone, or a server that asks a device behind it. */
export const linkPassage = z.object({
  /** Unique among all needs; of a link its id. */
  linkId: z.string(),
  link: z.string(),
  kind: z.enum(['ua', 'classic', 'service', 'device']),
  /** Who opens the first connection, and to whom: machines, or all of a zone. */
  clientMachine: z.string(),
  serverMachine: z.string(),
  /** Zones from the client’s to the server’s, those between among them. */
  zoneIds: z.array(z.string()),
  /** Whether the firewalls that are known join the two zones. */
  isJoined: z.boolean(),
  openings: z.array(passageOpening),
});
export type LinkPassage = z.infer<typeof linkPassage>;

export const keptRules = z.object({
  id: z.int(),
  takenAt: z.string(),
  takenBy: z.string(),
  file: z.string(),
  format: z.enum(ruleSetFormats),
  rules: z.int(),
});
export type KeptRules = z.infer<typeof keptRules>;

export const firewall = z.object({
  id: z.string(),
  name: z.string(),
  machineId: z.string().nullable(),
  machine: z.string().nullable(),
  interfaces: z.array(z.object({ name: z.string(), zoneId: z.string() })),
  /** The newest; null: none were imported. */
  rules: keptRules.nullable(),
  /** Links whose way leads over it, and those of them that it stops. */
  links: z.int(),
  stopped: z.int(),
});
export type Firewall = z.infer<typeof firewall>;

export const conduit = z.object({
  id: z.string(),
  name: z.string(),
  fromZoneId: z.string(),
  toZoneId: z.string(),
  firewallIds: z.array(z.string()),
  targetLevel: z.int().nullable(),
});
export type Conduit = z.infer<typeof conduit>;

/** What a conduit lets through between machines of its zones that no opening needs. */
export const conduitWidth = z.object({
  conduitId: z.string(),
  /** At most some, one line a box. */
  unneeded: z.array(z.string()),
  moreUnneeded: z.int(),
  /** The firewall of which the rules aren’t known, or don’t tell all; null: it is known of all. */
  unsureAt: z.string().nullable(),
});
export type ConduitWidth = z.infer<typeof conduitWidth>;
/** Of those that firewalls are on. */
export const conduitWidths = z.object({ widths: z.array(conduitWidth) });
export type ConduitWidths = z.infer<typeof conduitWidths>;

export const passageView = z.object({
  zones: z.array(z.object({ id: z.string(), name: z.string(), targetLevel: z.int().nullable() })),
  machines: z.array(z.object({ id: z.string(), name: z.string(), zoneId: z.string() })),
  firewalls: z.array(firewall),
  conduits: z.array(conduit),
  services: z.array(plantService),
  /** Links, and services zone by zone. */
  links: z.array(linkPassage),
});
export type PassageView = z.infer<typeof passageView>;

export const firewallRule = rulePlace.extend({
  text: z.string(),
  worth: z.enum(worths),
  /** What links need of it, and what it lets through that no link needs, one line a box. */
  needed: z.array(z.string()),
  /** At most some. */
  unneeded: z.array(z.string()),
  moreUnneeded: z.int(),
  /** Of one that lets through more than links need: rules that let through just that. */
  narrowed: z.array(z.string()),
  /** The change that leaves of it just what links need; null: it is worth what it is. */
  tightened: passageChange.nullable(),
  /** Zones between which it lets connections be opened although there is no conduit for that, by name. */
  withoutConduit: z.array(z.object({ from: z.string(), to: z.string() })),
  shadowedBy: z.array(rulePlace),
  links: z.array(z.object({ id: z.string(), name: z.string() })),
});
export type FirewallRule = z.infer<typeof firewallRule>;

export const firewallView = z.object({
  firewall,
  history: z.array(keptRules),
  notes: z.array(z.object({ line: z.int(), says: z.string() })),
  rules: z.array(firewallRule),
});
export type FirewallView = z.infer<typeof firewallView>;

export const ruleFile = z.object({
  name: z.string().max(255),
  text: z
    .string()
    .min(1, 'The file is empty.')
    .max(64 * 1024 * 1024, 'At most 64 million letters.'),
});

/** Firewalls with their newest rules, conduits and services in one file. */
export const passageDocument = z.object({
  format: z.literal('loyal-hinge/passage'),
  version: z.literal(1),
  firewalls: z
    .array(
      firewallWish.safeExtend({
        id,
        /** Left out or null: none are known, and those that are stay. */
        rules: ruleFile
          .extend({ takenAt: z.iso.datetime('Give the time as 2026-03-01T06:00:00Z.') })
          .nullable()
          .optional(),
      }),
    )
    .max(1000, 'At most 1,000 firewalls.'),
  conduits: z.array(conduitWish.safeExtend({ id })).max(5000, 'At most 5,000 conduits.'),
  services: z.array(serviceWish.safeExtend({ id })).max(1000, 'At most 1,000 services.'),
});
export type PassageDocument = z.infer<typeof passageDocument>;

export const ruleEdits = z.object({
  edits: z
    .array(
      z.discriminatedUnion('kind', [
        z.object({ kind: z.literal('add'), at: rulePlace, text: z.string().trim().min(1).max(4000) }),
        z.object({
          kind: z.literal('replace'),
          at: rulePlace,
          text: z.string().trim().min(1, 'Write the rule.').max(4000),
        }),
        z.object({ kind: z.literal('remove'), at: rulePlace }),
      ]),
    )
    .min(1)
    .max(200),
});
export type RuleEdits = z.infer<typeof ruleEdits>;

/** Openings of links that would be judged otherwise. */
export const passageTurns = z.object({
  turns: z.array(z.object({ linkId: z.string(), link: z.string(), purpose, before: verdict, after: verdict })),
});
export type PassageTurns = z.infer<typeof passageTurns>;
