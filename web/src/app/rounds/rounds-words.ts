import { byNumber } from '@loyal-hinge/core';
import type { RoundRow, RoundsView } from '@loyal-hinge/contract';

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
