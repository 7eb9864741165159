import * as z from 'zod';
import {
  addressConventions,
  modbusPort,
  modbusTables,
  mostInPattern,
  mostPlacesSearched,
  mostTextRegisters,
  mostUnit,
  originFault,
  originsOfPattern,
  placesInTable,
  valueOrders,
  valueTypes,
} from '@loyal-hinge/core/field';
import type { MappingChange } from '@loyal-hinge/core';
import type { ItemOrigin, Sureness } from '@loyal-hinge/core/field';
import { id, neededItem } from './plant.js';

const path = neededItem.shape.path;
const finite = z.number().refine((value) => Number.isFinite(value), 'This must be a number.');

export const valueForm = z.object({
  type: z.enum(valueTypes),
  order: z.enum(valueOrders),
  scale: finite,
  offset: finite,
  bits: z.object({ from: z.int().min(0).max(63), count: z.int().min(1).max(63) }).nullable(),
  registers: z.int().min(1).max(mostTextRegisters).optional(),
});

const originShape = z.object({
  deviceId: id,
  port: z.int().min(1, 'A port is at least 1.').max(65_535, 'A port is at most 65535.'),
  unit: z.int().min(0).max(mostUnit, `A unit is at most ${mostUnit}.`),
  table: z.enum(modbusTables),
  address: z.string().trim().min(1, 'An address is needed.').max(6, 'An address has at most six digits.'),
  convention: z.enum(addressConventions),
  form: valueForm,
  within: finite.min(0, 'At least 0.').nullable(),
});

/** An origin that was kept: it was judged then. */
export const keptOrigin = originShape satisfies z.ZodType<ItemOrigin>;

/** What a server reads of a device, as a line of a work order. */
export const mappingChange = z.object({
  kind: z.literal('set-mapping'),
  serverId: id,
  path,
  before: z.string().trim().min(1).max(300),
  after: z.string().trim().min(1).max(300),
}) satisfies z.ZodType<MappingChange>;

const holdsTogether = (origin: ItemOrigin, context: z.RefinementCtx): void => {
  const fault = originFault(origin);
  if (!fault) return;
  const place = fault.field === 'address' ? ['address'] : ['form', fault.field];
  context.addIssue({ code: 'custom', path: place, message: fault.says });
};

/** Where the value of an item comes from. */
export const itemOrigin = originShape.superRefine(holdsTogether) satisfies z.ZodType<ItemOrigin>;
/** Of an item of a server. */
export const originWish = z.object({ path, origin: itemOrigin });
export type OriginWish = z.infer<typeof originWish>;

export const originPattern = z
  .object({
    path,
    from: z.int().min(0).max(100_000),
    to: z.int().min(0).max(100_000),
    step: z.int().min(1, 'At least 1.').max(1000),
    origin: itemOrigin,
  })
  .superRefine((pattern, context) => {
    const all = originsOfPattern(pattern);
    if (typeof all === 'string') context.addIssue({ code: 'custom', path: ['path'], message: all });
  });

export const originRow = z.object({
  serverId: id,
  path: z.string(),
  origin: keptOrigin,
  /** null: the plant has no such machine any more. */
  device: z.string().nullable(),
  /** Another item of the plant that comes from the same register; null: none does. */
  sharesWith: z.string().nullable(),
  changedBy: z.string(),
  changedAt: z.string(),
});
export type OriginRow = z.infer<typeof originRow>;

export const originsQuery = z.object({ server: id.optional(), device: id.optional() });
export const originsView = z.object({
  origins: z.array(originRow),
  /** More are kept than are shown. */
  isMore: z.boolean(),
});
export type OriginsView = z.infer<typeof originsView>;

export const originColumns = [
  'path',
  'device',
  'port',
  'unit',
  'table',
  'address',
  'convention',
  'type',
  'order',
  'scale',
  'offset',
  'bits',
  'registers',
  'within',
] as const;

/** So many lines of CSV are read at once. */
export const mostOriginLines = 5000;
export const originsCsv = z.object({
  csv: z.string().min(1, 'There is nothing in it.').max(2_000_000, 'The file is larger than 2 MB: take it apart.'),
  /** Lines that are wrong are left out, and the others kept; otherwise nothing is kept where one is wrong. */
  leaveOutWrong: z.boolean(),
});
export type OriginsCsv = z.infer<typeof originsCsv>;
export const originsTaken = z.object({
  kept: z.int(),
  faults: z.array(z.object({ line: z.int(), says: z.string() })),
});
export type OriginsTaken = z.infer<typeof originsTaken>;

export const originsRemoval = z.object({ paths: z.array(path).min(1).max(mostInPattern) });

/** As an origin begins when somebody states it. */
export const usualOrigin = (deviceId: string): ItemOrigin => ({
  deviceId,
  port: modbusPort,
  unit: 1,
  table: 'holding',
  address: '',
  convention: 'from-1-with-digit',
  form: { type: 'uint16', order: 'high-first', scale: 1, offset: 0, bits: null },
  within: null,
});

/** A run of places of a device. @param most how many at once, and what is said of more */
const placeRun = (most: number, tooMany: string) => ({
  port: originShape.shape.port,
  unit: originShape.shape.unit,
  table: originShape.shape.table,
  /** The first place, on the wire, from 0. */
  first: z
    .int()
    .min(0)
    .max(placesInTable - 1, `At most ${placesInTable - 1}.`),
  count: z.int().min(1, 'At least 1.').max(most, { error: tooMany, abort: true }),
});
const staysInTable = ({ first, count }: { readonly first: number; readonly count: number }): boolean =>
  first + count <= placesInTable;
const beyondTable = { path: ['count'], error: `A table ends at place ${placesInTable - 1}.` };

/** Who reads a device, by the probe’s id; absent or null: the server itself. */
const reader = id.nullable().optional();

/** The search for the register from which an item’s value comes. */
export const mostSearchSamples = 600;
export const registerSearchWish = z
  .object({
    path,
    deviceId: id,
    ...placeRun(
      mostPlacesSearched,
      `At most ${mostPlacesSearched} at once: more is no search, but a copy of the device.`,
    ),
    samples: z.int().min(5, 'At least 5.').max(mostSearchSamples, `At most ${mostSearchSamples}.`),
    everyMs: z.int().min(250, 'At least 250 ms.').max(60_000, 'At most a minute.'),
    reader,
  })
  .refine(staysInTable, beyondTable);
export type RegisterSearchWish = z.infer<typeof registerSearchWish>;

const sureness = z.enum(['proved', 'likely', 'alike', 'near', 'unmoved']) satisfies z.ZodType<Sureness>;
export const foundRegister = z.object({
  place: z.int(),
  /** In the convention of the origin, or from 1 with the digit. */
  address: z.string(),
  form: valueForm,
  says: z.string(),
  lag: z.int(),
  explained: z.int(),
  compared: z.int(),
  changes: z.int(),
  sureness,
  /** What the register says by this form at each sample; null: it was not read. */
  series: z.array(z.number().nullable()),
});
export type FoundRegister = z.infer<typeof foundRegister>;

export const registerSearch = z.object({
  id: z.string(),
  linkId: id,
  wish: registerSearchWish,
  device: z.string(),
  state: z.enum(['running', 'done', 'stopped']),
  /** Why it was stopped, or what it comes to. */
  says: z.string(),
  taken: z.int(),
  /** The server’s values, as they were sampled. */
  values: z.array(z.object({ at: z.string(), value: z.number().nullable() })),
  changesSeen: z.int(),
  /** The best first; while it runs, by what was seen so far. */
  found: z.array(foundRegister),
  by: z.string(),
  begunAt: z.string(),
});
export type RegisterSearch = z.infer<typeof registerSearch>;

/** A field device: what answered in the checks that went there last, and which items come from it. */
export const deviceView = z.object({
  id,
  name: z.string(),
  zone: z.string(),
  addresses: z.array(z.string()),
  ports: z.array(
    z.object({
      port: z.int(),
      /** As the newest check met it; null: none went there. */
      outcome: z.enum(['open', 'refused', 'silent', 'unreachable', 'reset', 'withheld']).nullable(),
      ms: z.number().nullable(),
      at: z.string().nullable(),
      units: z.array(
        z.object({
          unit: z.int(),
          /** Whether it answered, be it with an exception about a register. */
          answers: z.boolean(),
          says: z.string(),
          ms: z.number(),
          at: z.string(),
        }),
      ),
    }),
  ),
  items: z.array(
    z.object({
      serverId: id,
      server: z.string(),
      path: z.string(),
      /** A link that needs it; null: none does. */
      linkId: z.string().nullable(),
      origin: keptOrigin,
      comesFrom: z.string(),
      served: z.string().nullable(),
      atDevice: z.string().nullable(),
      agrees: z.boolean().nullable(),
      sharesWith: z.string().nullable(),
    }),
  ),
});
export type DeviceView = z.infer<typeof deviceView>;

/** Who can read a device: the server itself, and probes from where they run. */
export const deviceReaders = z.object({
  probes: z.array(
    z.object({
      id,
      name: z.string(),
      /** The machine on which it runs; null: that was removed. */
      machine: z.string().nullable(),
      isConnected: z.boolean(),
    }),
  ),
  /** Who is nearest to it among those that are connected; null: the server. */
  nearest: id.nullable(),
});
export type DeviceReaders = z.infer<typeof deviceReaders>;

export const devicesView = z.object({
  devices: z.array(z.object({ id, name: z.string(), zone: z.string(), items: z.int() })),
});

/** What is read of a device by hand. */
export const deviceReadingWish = z
  .object({ ...placeRun(500, 'At most 500 at once.'), reader })
  .refine(staysInTable, beyondTable);
export type DeviceReadingWish = z.infer<typeof deviceReadingWish>;
export const deviceReading = z.object({
  places: z.array(z.int().nullable()),
  /** What it came to, in a sentence. */
  says: z.string(),
  slowestMs: z.number(),
});
export type DeviceReading = z.infer<typeof deviceReading>;

/** So many units are asked at once: each that nobody has costs a second. */
export const mostUnitsAsked = 32;
export const deviceUnitsWish = z
  .object({ port: originShape.shape.port, from: originShape.shape.unit, to: originShape.shape.unit, reader })
  .refine(({ from, to }) => to >= from && to - from < mostUnitsAsked, {
    path: ['to'],
    error: `Ask at most ${mostUnitsAsked} units at once, the lower first.`,
  });
export const deviceUnits = z.object({ answering: z.array(z.int()), asked: z.int(), says: z.string() });
