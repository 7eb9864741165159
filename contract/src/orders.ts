import * as z from 'zod';
import type { OrderChange, TrustChange } from '@loyal-hinge/core';
import { accessChange } from './accounts.js';
import { dcomChange } from './dcom.js';
import { doorChange } from './doors.js';
import { mappingChange } from './field.js';
import { passageChange } from './passage.js';
import { tunnelChange } from './tunnels.js';
import { pointInTime } from './plant.js';
import { thumbprint } from './thumbprint.js';

const holderId = z.string().min(1).max(80);
const crlId = z.string().regex(/^[0-9A-F]{64}$/, 'The id of a CRL has 64 hexadecimal digits.');
const list = z.enum(['trusted', 'issuers']);

export const trustChange = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('list-certificate'),
    holderId,
    list,
    thumbprint,
    until: pointInTime('This is no point in time.').nullable(),
  }),
  z.object({ kind: z.literal('unlist-certificate'), holderId, list, thumbprint }),
  z.object({ kind: z.literal('list-crl'), holderId, list, crlId, before: crlId.nullable() }),
  z.object({ kind: z.literal('unlist-crl'), holderId, list, crlId, instead: crlId.nullable() }),
  z.object({
    kind: z.literal('renew-certificate'),
    applicationId: holderId,
    authority: thumbprint,
    before: thumbprint.nullable(),
  }),
  z.object({
    kind: z.literal('install-certificate'),
    applicationId: holderId,
    thumbprint,
    before: thumbprint.nullable(),
  }),
]) satisfies z.ZodType<TrustChange>;

/** Whatever a line of a work order may change. */
export const orderChange = z.discriminatedUnion('kind', [
  ...trustChange.options,
  ...doorChange.options,
  ...accessChange.options,
  dcomChange,
  ...passageChange.options,
  ...tunnelChange.options,
  mappingChange,
]) satisfies z.ZodType<OrderChange>;

/**
 * `waiting`: not begun; `claimed`: being carried out; `by hand`: a person takes it to the machine; `done`: carried out;
 * `undoing`: its way back is being carried out.
 */
export const orderLineState = z.enum([
  'waiting',
  'claimed',
  'by hand',
  'done',
  'proved',
  'failed',
  'undoing',
  'undone',
]);
export type OrderLineState = z.infer<typeof orderLineState>;
export const workOrderState = z.enum(['proposed', 'approved', 'running', 'done', 'proved', 'withdrawn']);
export type WorkOrderState = z.infer<typeof workOrderState>;

export const orderLine = z.object({
  position: z.int(),
  change: orderChange,
  /** What is changed, in a sentence. */
  title: z.string(),
  target: z.string(),
  before: z.string(),
  after: z.string(),
  why: z.string(),
  way: z.enum(['held', 'push', 'files', 'unknown', 'by hand']),
  restart: z.boolean(),
  /** An authority whose key lies here signs for it: its passphrase is asked for. */
  signedHere: z.boolean(),
  /** False where it was carried out and changed nothing, since all was so already. */
  wrote: z.boolean(),
  undo: z.string(),
  linkIds: z.array(z.string()),
  state: orderLineState,
  says: z.string().nullable(),
  by: z.string().nullable(),
  at: z.string().nullable(),
  provedAt: z.string().nullable(),
});
export type OrderLine = z.infer<typeof orderLine>;

export const workOrder = z.object({
  id: z.string(),
  title: z.string(),
  state: workOrderState,
  proposedBy: z.string(),
  proposedAt: z.string(),
  decidedBy: z.string().nullable(),
  decidedAt: z.string().nullable(),
  lines: z.array(orderLine),
});
export type WorkOrder = z.infer<typeof workOrder>;

export const workOrderRow = workOrder.omit({ lines: true }).extend({
  lines: z.int(),
  done: z.int(),
  failed: z.int(),
});
export type WorkOrderRow = z.infer<typeof workOrderRow>;

/** A work order as it is proposed. */
export const proposedOrder = z.object({
  title: z.string().trim().min(1, 'A title is needed.').max(200),
  lines: z
    .array(
      z.object({
        change: orderChange,
        why: z.string().trim().min(1, 'Say why.').max(1000),
        linkIds: z.array(z.string().max(200)).max(10_000),
      }),
    )
    .min(1, 'A work order needs at least one line.')
    .max(20_000),
});
export type ProposedOrder = z.infer<typeof proposedOrder>;

/** For lines that an authority signs: its passphrase, which is used once and never kept. */
export const carryOutOrder = z.object({ passphrase: z.string().max(500).optional() });
