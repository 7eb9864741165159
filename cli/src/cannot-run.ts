/** Why a command could not run at all, and what to do: for the person who typed it. */
export class CannotRun extends Error {}

export const messageOf = (error: unknown): string =>
  typeof error === 'object' && error !== null && 'message' in error ? String(error.message) : String(error);
