import { stageOf, targetOf } from '@loyal-hinge/core';
import type { Stage } from '@loyal-hinge/core';
import type { LineRow } from './store.js';

/** Lines of one target that follow each other: they are written together, so that a server is restarted once. */
export interface Batch {
  readonly target: string;
  /** What gives trust, then new certificates, then what takes trust away. */
  readonly stage: Stage;
  readonly lines: readonly LineRow[];
}

/** Lines in their order, those of the same target and kind of step together. */
export function batchesOf(lines: readonly LineRow[]): readonly Batch[] {
  const batches = new Map<string, { target: string; stage: Stage; lines: LineRow[] }>();
  for (const line of lines) {
    const target = targetOf(line.change);
    const stage = stageOf(line.change);
    const key = `${stage} ${target}`;
    const known = batches.get(key) ?? { target, stage, lines: [] };
    known.lines.push(line);
    batches.set(key, known);
  }
  return [...batches.values()].sort((left, right) => left.stage - right.stage);
}
