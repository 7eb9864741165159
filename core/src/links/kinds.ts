import { classicSteps, steps } from './steps.js';
import type { Step, StepId } from './steps.js';

/** The kinds of link. They differ in their steps, facts and causes, and in nothing else: boards and pages are written once for all. */
export const linkKindIds = ['ua', 'classic'] as const;
export type LinkKindId = (typeof linkKindIds)[number];

export interface LinkKind {
  readonly id: LinkKindId;
  readonly title: string;
  /** In the order in which they have to work. */
  readonly steps: readonly Step[];
}

export const linkKinds: Readonly<Record<LinkKindId, LinkKind>> = {
  ua: { id: 'ua', title: 'OPC UA', steps },
  classic: { id: 'classic', title: 'Classic OPC', steps: classicSteps },
};

const positionsOf = (kind: LinkKindId) => new Map(linkKinds[kind].steps.map(({ id }, index) => [id, index]));
const positions: Readonly<Record<LinkKindId, ReadonlyMap<StepId, number>>> = {
  ua: positionsOf('ua'),
  classic: positionsOf('classic'),
};

/** Position of a step in the order of its kind, from 0; 0 for one that the kind doesn’t have. */
export const stepPosition = (kind: LinkKindId, id: StepId): number => positions[kind].get(id) ?? 0;

/** @throws RangeError for a step that the kind doesn’t have */
export function stepOf(kind: LinkKindId, id: StepId): Step {
  const found = linkKinds[kind].steps.find((step) => step.id === id);
  if (!found) throw new RangeError(`no step ${id}`);
  return found;
}
