import type { Cause, Sight } from './cause.js';
import { causes } from './causes/index.js';
import { classicCauses } from './classic/causes/index.js';
import { readClassicStep } from './classic/read-step.js';
import { fieldCauses } from './field/causes/index.js';
import { readFieldStep } from './field/read-step.js';
import type { LinkKindId } from './kinds.js';
import { readStep } from './read-step.js';
import type { StepReading } from './read-step.js';
import { isFieldStep } from './steps.js';
import type { StepId } from './steps.js';

/** How links of a kind are judged. */
export interface JudgedKind {
  readonly causes: readonly Cause[];
  /** What the facts say of a step by themselves. */
  read(sight: Sight, step: StepId): StepReading;
}

export const judgedKinds: Readonly<Record<LinkKindId, JudgedKind>> = {
  ua: { causes: [...causes, ...fieldCauses], read: (sight, step) => readAny(sight, step, readStep) },
  classic: { causes: [...classicCauses, ...fieldCauses], read: (sight, step) => readAny(sight, step, readClassicStep) },
};

/** Behind the server, links of all kinds are alike. */
const readAny = (sight: Sight, step: StepId, own: JudgedKind['read']): StepReading =>
  isFieldStep(step) ? readFieldStep(sight, step) : own(sight, step);
