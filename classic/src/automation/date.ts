const dayMs = 86_400_000;
/** 1899-12-30, from which days are counted (MS-OAUT 2.2.25). */
const firstDay = Date.UTC(1899, 11, 30);

/** A moment in days: whole days before the first one are negative, and what is left of a day counts on from it all the same. */
export function dateOf(millis: number): number {
  const days = (millis - firstDay) / dayMs;
  const whole = Math.floor(days);
  return days >= 0 ? days : whole - (days - whole);
}

/** Milliseconds since 1970; null: it is no moment that a calendar here has. */
export function millisOfDate(date: number): number | null {
  const whole = Math.trunc(date);
  const millis = Math.round(firstDay + (whole + Math.abs(date - whole)) * dayMs);
  return Number.isFinite(new Date(millis).getTime()) ? millis : null;
}
