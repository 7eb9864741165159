import type { LinkState } from '../../links/assess.js';
import type { Availability } from './timeline.js';

/** How a link is, in a word. */
export const stateWords: Readonly<Record<LinkState, string>> = {
  Sound: 'sound',
  Strained: 'strained',
  Parted: 'parted',
  Untried: 'not known',
};

/** Never rounded up to all of it: 99.996 % is “99.99 %”. */
export function shareWords(share: number | null): string {
  if (share === null) return '';
  if (share === 1) return '100 %';
  if (share > 0 && share < 0.001) return 'under 0.1 %';
  return `${(Math.floor(share * 10_000) / 100).toFixed(share > 0.99 ? 2 : 1)} %`;
}

/** How much of its time a link or a plant could be used. */
export function usableWords({ usable, known }: Pick<Availability, 'usable' | 'known'>): string {
  if (usable === null) return 'It is not known how the links were: nobody has looked.';
  const part = known > 0.995 ? 'of the time' : 'of the time in which they were looked at';
  return `The links could be used ${shareWords(usable)} ${part}.`;
}

/** How much is not known; empty: nothing. */
export const knownWords = ({ known }: Pick<Availability, 'known'>): string =>
  known > 0.995
    ? ''
    : `They were looked at ${shareWords(known)} of the period: what a check saw holds until rounds should have come twice.`;

/** “sound to parted”. */
export const changeWords = ({ from, to }: { readonly from: LinkState | null; readonly to: LinkState }): string =>
  from === to
    ? `still ${stateWords[to]}, for another reason`
    : `${from === null ? 'first seen' : stateWords[from]} to ${stateWords[to]}`;
