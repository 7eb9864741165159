/** A point in time: ISO 8601 in UTC, e.g. `2026-03-01T02:10:00.000Z`. */
export type Instant = string;

/** Made once: making it takes longer than using it a hundred times. */
const days = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' });

/** `3 November 2026`, in UTC. */
export function dayOf(instant: Instant): string {
  return days.format(new Date(instant));
}

/** `840 ms`, `12 s`, `3 minutes`, `5 hours`, `12 days`. */
export function spanOf(ms: number): string {
  const amount = Math.abs(ms);
  if (amount < 1000) return `${Math.round(amount)} ms`;
  if (amount < 120_000) return `${Math.round(amount / 1000)} s`;
  if (amount < 7_200_000) return `${Math.round(amount / 60_000)} minutes`;
  if (amount < 172_800_000) return `${Math.round(amount / 3_600_000)} hours`;
  return `${Math.round(amount / 86_400_000)} days`;
}
