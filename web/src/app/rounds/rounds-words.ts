import { byNumber } from '@loyal-hinge/core';
import type { LinkState } from '@loyal-hinge/core';
import type { Availability } from '@loyal-hinge/core/casebook';
import type { LinkChange, RoundRow, RoundsView } from '@loyal-hinge/contract';

export const stateWords: Readonly<Record<LinkState, string>> = {
  Sound: 'sound',
  Strained: 'strained',
  Parted: 'parted',
  Untried: 'not known',
};

/** “every 15 minutes”, “every 2 hours from 06:00”, “once a day at 06:00”. */
export function everyWords({ everyMinutes, at }: Pick<RoundRow, 'everyMinutes' | 'at'>): string {
  if (everyMinutes === 1440) return `once a day at ${at}`;
  if (everyMinutes < 60) return `every ${everyMinutes} minutes`;
  return everyMinutes === 60 ? 'every hour' : `every ${everyMinutes / 60} hours, one of them at ${at}`;
}

const dayWords = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as const;
export const dayChoices = dayWords.map((word, index) => ({ key: String(index + 1), word }));

export function quietWords({ quiet }: Pick<RoundRow, 'quiet'>): string {
  if (!quiet) return '';
  const days = quiet.days.length === 7 ? 'every day' : quiet.days.map((day) => dayWords[day - 1]).join(', ');
  return `${quiet.from} to ${quiet.to}, ${days}`;
}

export function scopeWords({ scope, links }: RoundRow, { zones }: Pick<RoundsView, 'zones'>): string {
  const number = byNumber(links, '1 link', '# links');
  if (scope.kind === 'plant') return `the whole plant, ${number}`;
  if (scope.kind === 'links') return number;
  return `${zones.find(({ id }) => id === scope.zoneId)?.name ?? 'a zone that is gone'}, ${number}`;
}

/** Never rounded up to all of it: 99.996 % is “99.99 %”. */
export function shareWords(share: number | null): string {
  if (share === null) return '';
  if (share === 1) return '100 %';
  if (share > 0 && share < 0.001) return 'under 0.1 %';
  return `${(Math.floor(share * 10_000) / 100).toFixed(share > 0.99 ? 2 : 1)} %`;
}

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

export const changeWords = ({ from, to }: Pick<LinkChange, 'from' | 'to'>): string =>
  from === to
    ? `still ${stateWords[to]}, for another reason`
    : `${from === null ? 'first seen' : stateWords[from]} → ${stateWords[to]}`;
