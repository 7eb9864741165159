import type { LinkState } from '@loyal-hinge/core';

type Ms = Readonly<Record<LinkState, number>>;

/** From below: what holds stands on the ground. What is missing to the top is not known. */
export const stackOrder: readonly LinkState[] = ['Sound', 'Strained', 'Parted'];

/** Which share of a time was in a state. */
export function shareIn(ms: Ms, state: LinkState): number {
  const whole = Object.values(ms).reduce((sum, part) => sum + part, 0);
  return whole === 0 ? 0 : ms[state] / whole;
}

/**
 * The states of a time as parts of a bar, the lowest first.
 * @param ground where it stands; its parts go up to `ground - inner`
 * @param least so high is each part at least: a minute in a day is to be seen, too
 */
export function stackedStates(
  ms: Ms,
  { ground, inner, least }: Readonly<Record<'ground' | 'inner' | 'least', number>>,
) {
  let y = ground;
  return stackOrder.flatMap((state) => {
    if (ms[state] === 0) return [];
    const high = Math.max(least, shareIn(ms, state) * inner);
    y = Math.max(ground - inner, y - high);
    return [{ state, y, high }];
  });
}
