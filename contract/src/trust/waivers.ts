import * as z from 'zod';
import { waivableSteps } from '@loyal-hinge/core';
import { id, pointInTime } from '../plant.js';
import { thumbprint as thumbprintText } from '../thumbprint.js';
import { instant } from './typed.js';

/** A step of the validation that an application passes over for a certificate (Part 4 §6.1.3). */
export const waiver = z.object({
  id: z.int(),
  holderId: z.string(),
  holder: z.string(),
  step: z.enum(waivableSteps),
  until: instant,
  why: z.string(),
  givenBy: z.string(),
  givenAt: instant,
  /** null: it is in force. */
  ended: z.object({ at: instant, by: z.string() }).nullable(),
});
export type WaiverView = z.infer<typeof waiver>;

export const giveWaiver = z.object({
  holderId: id,
  thumbprint: thumbprintText,
  step: z.enum(waivableSteps, { error: 'This step may not be waived (Part 4 §6.1.3).' }),
  until: pointInTime('A waiver needs the date on which it ends.'),
  why: z.string().trim().min(5, 'Say why, in a few words: an auditor will ask.').max(500),
});
export type GiveWaiver = z.infer<typeof giveWaiver>;
