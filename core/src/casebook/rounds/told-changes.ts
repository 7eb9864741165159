import type { LinkState } from '../../links/assess.js';
import { byNumber } from '../../links/wording.js';

/** A link that is seen otherwise than before. */
export interface SeenChange {
  readonly linkName: string;
  /** ISO 8601. */
  readonly at: string;
  /** null: it was never seen before. */
  readonly from: LinkState | null;
  readonly to: LinkState;
  readonly says: string;
}

/** What a change means to whoever waits for it: a link fell, or works again; null: neither. */
export function turnOf({ from, to }: Pick<SeenChange, 'from' | 'to'>): 'fell' | 'works' | null {
  if (to === 'Parted') return from === 'Parted' ? null : 'fell';
  return from === 'Parted' && to !== 'Untried' ? 'works' : null;
}

/** What is written to somebody who waits for changes. */
export interface ToldChanges {
  readonly subject: string;
  /** Plain text, a line a change, the oldest first. */
  readonly text: string;
  readonly fell: number;
  readonly works: number;
}

/** @param changes in the order of their times; those that mean nothing to anybody are left out */
export function tellChanges(plantName: string, changes: readonly SeenChange[]): ToldChanges {
  const told = changes.flatMap((change) => {
    const turn = turnOf(change);
    return turn ? [{ ...change, turn }] : [];
  });
  const fell = told.filter(({ turn }) => turn === 'fell').length;
  const works = told.length - fell;
  const parts = [
    fell > 0 ? byNumber(fell, '1 link fell', '# links fell') : null,
    works > 0 ? byNumber(works, '1 works again', '# work again') : null,
  ].filter((part) => part !== null);
  const lines = told.map(
    ({ at, linkName, turn, says }) =>
      `${at.slice(0, 16).replace('T', ' ')} UTC  ${linkName} ${turn === 'fell' ? `fell: ${says}` : 'works again.'}`,
  );
  return { subject: `${plantName}: ${parts.join(', ')}`, text: `${lines.join('\n')}\n`, fell, works };
}
