import { counted } from '@loyal-hinge/core';

const dayMs = 86_400_000;

/** `ended 40 days ago`, `12 days left`, `4 years left`. */
export function daysWords(ends: number, now: number): string {
  const days = Math.floor((ends - now) / dayMs);
  if (days < 0) return `ended ${span(-days)} ago`;
  return days === 0 ? 'ends today' : `${span(days)} left`;
}

function span(days: number): string {
  if (days < 120) return counted(days, 'day');
  if (days < 730) return counted(Math.round(days / 30.4), 'month');
  return counted(Math.round(days / 365), 'year');
}

/** How near an end is: past, within two months, or far. */
export const nearness = (ends: number, now: number): 'fails' | 'weak' | 'holds' =>
  ends < now ? 'fails' : ends - now < 60 * dayMs ? 'weak' : 'holds';
