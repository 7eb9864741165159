import { classicSteps, isFieldStep, steps } from './steps.js';
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

/** A column of a board: a step, and the kinds that have it. */
export interface StepColumn {
  readonly step: Step;
  readonly kinds: readonly LinkKindId[];
}

/**
 * The columns of a board with links of several kinds: steps that have the same name share one, and each kind’s own stand
 * between those that they stand between in their own order.
 * @param isBehind whether there is a column for what is behind servers: one for all steps there
 */
export function stepColumns(kinds: readonly LinkKindId[], isBehind = false): readonly StepColumn[] {
  return columnsOf(kinds).filter(({ step }) => !isFieldStep(step.id) || (isBehind && step.id === lastBehind));
}

/** The step that stands for all behind a server where there is room for one. */
const lastBehind: StepId = 'origin-value';
const gravest = ['fails', 'unknown', 'weak', 'holds', 'not-needed'] as const;

/** The verdicts of a link as a board shows them: the last step behind its server stands for all of them. */
export function verdictsOnBoard<Of extends (typeof gravest)[number]>(
  kind: LinkKindId,
  verdicts: readonly Of[],
): readonly Of[] {
  const { steps: own } = linkKinds[kind];
  const behind = verdicts.filter((_, index) => own[index] && isFieldStep(own[index].id));
  const worst = gravest.flatMap((one) => behind.filter((verdict) => verdict === one))[0];
  return verdicts.map((verdict, index) => (own[index]?.id === lastBehind && worst !== undefined ? worst : verdict));
}

function columnsOf(kinds: readonly LinkKindId[]): readonly StepColumn[] {
  const [first, ...others] = linkKindIds.filter((kind) => kinds.includes(kind));
  if (first === undefined) return [];
  return others.reduce<readonly StepColumn[]>(
    withKind,
    linkKinds[first].steps.map((step) => ({ step, kinds: [first] })),
  );
}

function withKind(columns: readonly StepColumn[], kind: LinkKindId): readonly StepColumn[] {
  const merged: StepColumn[] = [];
  let left = [...columns];
  for (const step of linkKinds[kind].steps) {
    const at = left.findIndex((column) => column.step.id === step.id);
    const shared = left[at];
    if (!shared) {
      merged.push({ step, kinds: [kind] });
      continue;
    }
    // What stands before the shared step on both sides has been put down: the older kind’s own first.
    const own = merged.splice(lastShared(merged, kind));
    merged.push(...left.slice(0, at), ...own, { step: shared.step, kinds: [...shared.kinds, kind] });
    left = left.slice(at + 1);
  }
  return [...merged, ...left];
}

/** From where on the columns are of one kind alone. */
function lastShared(columns: readonly StepColumn[], kind: LinkKindId): number {
  let from = columns.length;
  while (from > 0 && columns[from - 1]?.kinds.length === 1 && columns[from - 1]?.kinds[0] === kind) from -= 1;
  return from;
}
