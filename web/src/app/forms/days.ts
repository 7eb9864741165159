import type { Schema } from './fits';

const dayMs = 86_400_000;

/** So many days from now, as a form holds it: `YYYY-MM-DD`. */
export const dayIn = (days: number): string => new Date(Date.now() + days * dayMs).toISOString().slice(0, 10);

/** When a day begins here, as the server takes it. */
export const startOfDay = (day: string): string => new Date(`${day}T00:00:00`).toISOString();

/** A day must be chosen. */
export const aDay: Schema = {
  safeParse: (value) =>
    value === '' ? { error: { issues: [{ message: 'A day is needed, such as 2030-12-31.' }] } } : {},
};
