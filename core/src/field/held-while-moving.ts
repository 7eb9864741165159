import type { SampledPlace } from './compare-origin.js';
import { fieldValue, wordsOf } from './value-form.js';
import type { ValueForm } from './value-form.js';

/** Two values may be one that changed just once, at the edge of a poll. */
const leastMoves = 3;

/**
 * Whether a server held one value while the item’s register took several, and for how long, in milliseconds: it then asks
 * more seldom than that.
 */
export function heldWhileMoving({
  first,
  place,
  form,
  samples,
}: {
  readonly first: number;
  readonly place: number;
  readonly form: ValueForm;
  readonly samples: readonly (SampledPlace & { readonly at: string })[];
}): { readonly isHeld: boolean; readonly forMs: number } {
  const from = place - first;
  const said = new Set(
    samples.flatMap(({ words }) => {
      const own = words.slice(from, from + wordsOf(form));
      return own.length > 0 && own.every((word) => word !== null) ? [fieldValue(own as number[], form)] : [];
    }),
  );
  const [oldest, newest] = [samples[0], samples.at(-1)];
  if (!oldest || !newest) return { isHeld: false, forMs: 0 };
  const isSame = oldest.value !== null && samples.every(({ value }) => value === oldest.value);
  return { isHeld: isSame && said.size >= leastMoves, forMs: Date.parse(newest.at) - Date.parse(oldest.at) };
}
