import { capabilityOf, changedBy, stageOfChange } from '@loyal-hinge/core';
import type { ChangeCapability, OrderChange, Stage } from '@loyal-hinge/core';
import type { LineRow } from './store.js';

/** Lines of one target that follow each other: they are written together, so that a server is restarted once. */
export interface Batch {
  readonly capability: ChangeCapability;
  readonly target: string;
  /** What gives trust, then new certificates, then what takes trust away. */
  readonly stage: Stage;
  readonly lines: readonly LineRow[];
}

/** Lines in their order, those of the same target and kind of step together. */
export function batchesOf(lines: readonly LineRow[]): readonly Batch[] {
  const batches = new Map<string, Batch & { readonly lines: LineRow[] }>();
  for (const line of lines) {
    const { change } = line;
    const batch = { capability: capabilityOf(change), target: changedBy(change), stage: stageOfChange(change) };
    const key = `${batch.stage} ${batch.capability} ${batch.target}`;
    const known = batches.get(key) ?? { ...batch, lines: [] };
    known.lines.push(line);
    batches.set(key, known);
  }
  return [...batches.values()].sort((left, right) => left.stage - right.stage);
}

/** What belongs to one capability, with that capability. */
export function byCapability<Item extends { readonly change: OrderChange }>(
  items: readonly Item[],
): ReadonlyMap<ChangeCapability, readonly Item[]> {
  const groups = new Map<ChangeCapability, Item[]>();
  for (const item of items) {
    const capability = capabilityOf(item.change);
    const group = groups.get(capability);
    if (group) group.push(item);
    else groups.set(capability, [item]);
  }
  return groups;
}

/** Whatever one bundle of trust brings to a target; of other changes those of one step, such as the rules that are added at a firewall. */
export const isDoneAtOnce = (one: OrderChange, other: OrderChange): boolean =>
  changedBy(one) === changedBy(other) &&
  capabilityOf(one) === capabilityOf(other) &&
  (capabilityOf(one) === 'trust' || stageOfChange(one) === stageOfChange(other));
