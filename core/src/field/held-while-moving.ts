import { deviceValues } from './compare-origin.js';
import type { SampledPlace, SampledWindow } from './compare-origin.js';

/** Two values may be one that changed just once, at the edge of a poll. */
const leastMoves = 3;

/**
 * Whether a server held one value while the item’s register took several, and for how long, in milliseconds: it then asks
 * more seldom than that.
 */
export function heldWhileMoving({
  place,
  form,
  ...window
}: Omit<SampledWindow, 'within' | 'samples'> & {
  readonly samples: readonly (SampledPlace & { readonly at: string })[];
}): { readonly isHeld: boolean; readonly forMs: number } {
  const { samples } = window;
  const said = new Set(deviceValues(window, place, form).filter((value) => value !== null));
  const [oldest, newest] = [samples[0], samples.at(-1)];
  if (!oldest || !newest) return { isHeld: false, forMs: 0 };
  const isSame = oldest.value !== null && samples.every(({ value }) => value === oldest.value);
  return { isHeld: isSame && said.size >= leastMoves, forMs: Date.parse(newest.at) - Date.parse(oldest.at) };
}
