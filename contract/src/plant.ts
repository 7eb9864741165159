import * as z from 'zod';
import {
  callLevels,
  certificateMark,
  linkKindIds,
  itemUses,
  securityFloors,
  securityModes,
  securityPolicyNames,
} from '@loyal-hinge/core';
import { userCertificateName } from './user-certificates.js';
import type { Application, ClientApplication, Link, Machine, Plant, ServerApplication, Zone } from '@loyal-hinge/core';

/** A point in time that the database keeps as it is. */
export const pointInTime = (error: string) =>
  z.iso
    .datetime({ error, abort: true })
    .refine((text) => text >= '1970' && Number.isFinite(Date.parse(text)), { error });

/** Ids are short words: they stand in addresses of pages and in exported files. */
export const id = z
  .string()
  .min(1, 'An id is needed.')
  .max(80, 'An id has at most 80 letters.')
  .regex(/^[a-z0-9]+(-+[a-z0-9]+)*$/, 'An id is made of small letters, digits and hyphens.');

export const name = z.string().trim().min(1, 'A name is needed.').max(120, 'A name has at most 120 letters.');
const hostName = z
  .string()
  .max(253)
  .regex(/^[a-z0-9_]([a-z0-9_.-]*[a-z0-9_])?$/i, 'This is no host name.');
export const address = z.union([z.ipv4(), z.ipv6()], { error: 'This is no IP address.' });
const port = z.int().min(1, 'A port is at least 1.').max(65535, 'A port is at most 65535.');
const applicationUri = z.string().trim().max(500);
/** Of an application that speaks OPC UA. */
export const uaApplicationUri = applicationUri.min(1, 'An application URI is needed.');
/** What an application speaks; files of before there were several kinds don’t say it. */
const speaks = z.enum(linkKindIds).optional();
const uriWhereUa = ({
  applicationUri: uri,
  speaks: kind,
}: {
  readonly applicationUri: string;
  readonly speaks?: string | undefined;
}): boolean => uri !== '' || kind === 'classic';
const uriNeeded = { path: ['applicationUri'], error: 'An application URI is needed.' };

/** Target security level (SL-T, IEC 62443-3-2) of a zone or a conduit; null: none is set. */
export const targetLevel = z
  .int()
  .min(1, 'A security level is at least 1.')
  .max(4, 'A security level is at most 4.')
  .nullable();

export const zone = z.object({
  id,
  name,
  order: z.int().min(0).max(10_000),
  targetLevel: targetLevel.optional(),
}) satisfies z.ZodType<Zone>;

export const machine = z.object({
  id,
  zoneId: id,
  name,
  description: z.string().max(500).default(''),
  hostNames: z.array(hostName).max(20),
  addresses: z.array(address).max(20),
}) satisfies z.ZodType<Machine>;

export const serverApplication = z
  .object({
    kind: z.literal('server'),
    id,
    machineId: id,
    name,
    applicationUri,
    speaks,
    ports: z.array(port).max(20),
  })
  .refine(uriWhereUa, uriNeeded) satisfies z.ZodType<ServerApplication>;

export const securityPolicyName = z.enum(securityPolicyNames);
export const securityMode = z.enum(securityModes);

export const clientApplication = z
  .object({
    kind: z.literal('client'),
    id,
    machineId: id,
    name,
    applicationUri,
    speaks,
    securityPolicies: z.array(securityPolicyName).min(1, 'At least one security policy is needed.'),
    securityModes: z.array(securityMode).min(1, 'At least one security mode is needed.'),
  })
  .refine(uriWhereUa, uriNeeded) satisfies z.ZodType<ClientApplication>;

export const application = z.discriminatedUnion('kind', [
  serverApplication,
  clientApplication,
]) satisfies z.ZodType<Application>;

export const neededItem = z.object({
  path: z.string().trim().min(1, 'A path is needed.').max(500),
  uses: z.array(z.enum(itemUses)).min(1, 'Say what the item is needed for.'),
});

export const identity = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('anonymous') }),
  z.object({
    kind: z.literal('user'),
    userName: z
      .string()
      .trim()
      .min(1, 'A user name is needed.')
      .max(200)
      .refine((typed) => !typed.endsWith(certificateMark), `A user name can’t end with “${certificateMark.trim()}”.`),
  }),
  z.object({ kind: z.literal('certificate'), certificate: userCertificateName }),
]);

export const chosenEndpoint = z.object({ policy: securityPolicyName, mode: securityMode });

/** A typed URL may be wrong: it is kept as typed, and judged. */
export const endpointUrl = z.string().min(1, 'An endpoint URL is needed.').max(4096);

/** How a classic client calls. */
export const classicCalls = z.object({
  level: z.enum(callLevels),
  updateRateMs: z.int().min(50, 'Changes come at most every 50 ms.').max(3_600_000),
});

/** What only links of one kind have. */
const fitsKind = (
  {
    kind,
    identity: signsIn,
    needs,
    chosenEndpoint: chosen,
  }: Pick<Link, 'kind' | 'identity' | 'needs' | 'chosenEndpoint'>,
  context: z.RefinementCtx,
): void => {
  if (kind !== 'classic') return;
  const tell = (path: string, message: string) => context.addIssue({ code: 'custom', path: [path], message });
  if (signsIn.kind === 'certificate') tell('identity', 'A classic link signs in by an account, not by a certificate.');
  if (chosen) tell('chosenEndpoint', 'A classic link has no endpoint to choose.');
  if (needs.some(({ uses }) => uses.some((use) => use === 'history' || use === 'alarms')))
    tell('needs', 'A classic link reads, watches and writes; history and alarms are other interfaces.');
};

export const link = z
  .object({
    id,
    /** Files of before there were several kinds don’t say it. */
    kind: z.enum(linkKindIds).default('ua'),
    name,
    clientId: id,
    serverId: id,
    endpointUrl,
    pinnedAddress: address.nullable(),
    chosenEndpoint: chosenEndpoint.nullable(),
    needs: z.array(neededItem).max(200),
    identity,
    floor: z.enum(securityFloors),
    staleAfterMs: z.int().min(100).max(86_400_000),
    classic: classicCalls.nullable().optional(),
  })
  .superRefine(fitsKind) satisfies z.ZodType<Link>;

const mostZones = 500;
const mostMachines = 20_000;
const mostApplications = 40_000;
const mostLinks = 100_000;

export const plant = z.object({
  name,
  zones: z.array(zone).max(mostZones),
  machines: z.array(machine).max(mostMachines),
  applications: z.array(application).max(mostApplications),
  links: z.array(link).max(mostLinks),
}) satisfies z.ZodType<Plant>;

/** The whole plant in one file; it holds no key and no password. */
export const plantDocument = z.object({
  format: z.literal('loyal-hinge/plant'),
  version: z.literal(1),
  plant,
});
export type PlantDocument = z.infer<typeof plantDocument>;

/** The same before its rows were looked at: `plantRows` says what each has to be. */
export const unreadPlantDocument = plantDocument.extend({
  plant: z.object({
    name,
    zones: z.array(z.unknown()).max(mostZones),
    machines: z.array(z.unknown()).max(mostMachines),
    applications: z.array(z.unknown()).max(mostApplications),
    links: z.array(z.unknown()).max(mostLinks),
  }),
});
export const plantRows = { zones: zone, machines: machine, applications: application, links: link } as const;

/** One row of the machines’ CSV file: lists are divided by blanks. */
export const machineColumns = ['id', 'zone', 'name', 'description', 'hostNames', 'addresses'] as const;

export const plantParts = ['zones', 'machines', 'applications', 'links'] as const;
export type PlantPartName = (typeof plantParts)[number];

/** What rows of the plant can be sorted by, part by part; without it they are sorted by name, zones by position. */
export const plantOrders = {
  zones: ['order', 'name', 'machines'],
  machines: ['name', 'zone', 'hostNames', 'addresses', 'description'],
  applications: ['name', 'kind', 'machine', 'uri', 'more'],
  links: ['name', 'url', 'identity', 'floor', 'needs'],
} as const satisfies Record<PlantPartName, readonly string[]>;
export type PlantOrder = (typeof plantOrders)[PlantPartName][number];

export const plantPage = z.object({
  part: z.enum(plantParts),
  /** Words that must all stand somewhere in a row. */
  find: z.string().max(300).optional(),
  /** The place of the first row, from 0. */
  from: z.coerce.number().int().min(0).max(10_000_000).optional(),
  most: z.coerce.number().int().min(1).max(500).optional(),
  /** One that the part does not have counts for nothing. */
  by: z.enum(Object.values(plantOrders).flat()).optional(),
  descending: z.literal('yes').optional(),
});
export type PlantPage = z.infer<typeof plantPage>;

/** Some rows of a part of the plant, with whatever they stand on, and how many there are. */
export const plantView = z.object({
  name: z.string(),
  counts: z.object({ zones: z.int(), machines: z.int(), applications: z.int(), links: z.int() }),
  /** How many rows of the part fit, and the ids of those that are here, in their order. */
  fitting: z.int(),
  from: z.int(),
  ids: z.array(z.string()),
  /** How many machines stand in each zone. */
  machinesIn: z.record(z.string(), z.int()),
  zones: z.array(zone),
  machines: z.array(machine),
  applications: z.array(application),
  links: z.array(link),
});
export type PlantView = z.infer<typeof plantView>;

/** What a row can be put on, or lead to. */
export const choosable = ['machines', 'clients', 'servers', 'userCertificates'] as const;
export type Choosable = (typeof choosable)[number];
export const plantChoices = z.object({
  fitting: z.int(),
  choices: z.array(z.object({ id: z.string(), name: z.string(), port: z.int().nullable() })),
});
export type PlantChoices = z.infer<typeof plantChoices>;
