import { isDatabaseAway } from '../database/faults.js';
import { StartRefusal } from '../system/start-refusal.js';

/** Why a program of ours could not do its work, as one sentence. */
export function whyNot(error: unknown): string {
  if (error instanceof StartRefusal) return error.message;
  for (let current: unknown = error; current instanceof Error; current = current.cause) {
    const says = sentences[codeOf(current)];
    if (says) return says(current as NodeJS.ErrnoException & { readonly port?: number; readonly address?: string });
  }
  if (isDatabaseAway(error)) return 'The database does not answer. Check whether it runs, and at HINGE_DATABASE_URL.';
  return error instanceof Error ? (error.message.split('\n')[0] ?? '') : String(error);
}

/** Whether another program has the port that was to be listened on. */
export const isPortTaken = (error: unknown): boolean => error instanceof Error && codeOf(error) === 'EADDRINUSE';

const codeOf = (error: Error): string => ('code' in error ? String(error.code) : '');

type Told = NodeJS.ErrnoException & { readonly port?: number; readonly address?: string };

const sentences: Readonly<Record<string, (error: Told) => string>> = {
  EADDRINUSE: ({ port }) => `Port ${port ?? ''} is taken by another program. Choose another one with HINGE_PORT.`,
  EADDRNOTAVAIL: ({ address }) => `This computer has no address ${address ?? ''}. Correct HINGE_HOST.`,
  ENOSPC: () => 'The disk is full. Free some space on it, then start again. Nothing was lost.',
  53100: () => 'The database’s disk is full. Free some space on it, then start again. Nothing was lost.',
  EROFS: ({ path }) => `${path ?? 'The data folder'} can’t be written: its file system is read-only.`,
  EACCES: ({ path, port }) =>
    path ? `${path} belongs to somebody else and can’t be used.` : `Port ${port ?? ''} may not be opened by this user.`,
  '28P01': () =>
    'The database refuses the password. Look at HINGE_DATABASE_URL, and at database.json in the data folder.',
};
