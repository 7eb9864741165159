import * as z from 'zod';
import { snapshotState } from './rights.js';
import { stepId, verdict, checkState, linkState } from './links.js';

/** What the server tells by itself, in order; every event has a number from which the stream can be taken up again. */
export const hingeEvent = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('check-asked'), checkId: z.string(), linkId: z.string() }),
  /** Many were asked for or cancelled at once: told together. */
  z.object({ kind: z.literal('checks-changed'), checks: z.int() }),
  /** Told once, where a person’s work keeps the machine busy. */
  z.object({ kind: z.literal('check-waits'), checkId: z.string(), linkId: z.string(), waitsFor: z.string() }),
  z.object({
    kind: z.literal('check-step'),
    checkId: z.string(),
    linkId: z.string(),
    step: stepId,
    /** Verdicts so far, in the order of the steps. */
    verdicts: z.array(verdict),
  }),
  z.object({
    kind: z.literal('check-ended'),
    checkId: z.string(),
    linkId: z.string(),
    state: checkState,
    found: linkState.nullable(),
  }),
  z.object({ kind: z.literal('plant-changed') }),
  /** A plant is being imported: so many of its rows were read, or written after that. */
  z.object({
    kind: z.literal('import-progress'),
    by: z.string(),
    doing: z.enum(['reading', 'writing']),
    done: z.int(),
    total: z.int(),
  }),
  /** Lists of an application were read or changed, or the way to them. */
  z.object({ kind: z.literal('trust-changed'), applicationId: z.string() }),
  /** A server’s doors were seen to be other than before, or the plant accepts something else. */
  z.object({ kind: z.literal('entry-changed') }),
  /** Roles and users of a server were read, or how signing in goes there has changed. */
  z.object({ kind: z.literal('accounts-changed'), serverId: z.string() }),
  /** A snapshot of rights began, went on or ended. */
  z.object({ kind: z.literal('rights-changed'), serverId: z.string(), nodes: z.int(), state: snapshotState }),
  /** A server has said something of itself, or listening to it began or ended. */
  z.object({ kind: z.literal('reports-changed'), serverId: z.string() }),
  z.object({ kind: z.literal('dcom-changed'), machineId: z.string() }),
  z.object({ kind: z.literal('passage-changed') }),
  /** An outpost has come, gone or asked for a certificate; a tunnel or a probe is another one. */
  z.object({ kind: z.literal('outposts-changed') }),
  /** A file was brought, read or thrown away. */
  z.object({ kind: z.literal('casebook-changed') }),
  /** A round was changed, or began. */
  z.object({ kind: z.literal('rounds-changed') }),
  z.object({ kind: z.literal('order-changed'), orderId: z.string() }),
  z.object({ kind: z.literal('proposals-changed') }),
  z.object({ kind: z.literal('discovery-changed') }),
]);
export type HingeEvent = z.infer<typeof hingeEvent>;
