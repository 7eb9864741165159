import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';

/**
 * Writes a file for its owner alone. It is written beside its place and moved there, so that a power cut leaves the old one
 * or the new one, and never half of one.
 */
export async function writeWhole(file: string, text: string): Promise<void> {
  await mkdir(dirname(file), { recursive: true, mode: 0o700 });
  const making = `${file}.${process.pid}`;
  await writeFile(making, text, { mode: 0o600, flush: true });
  await rename(making, file);
}

/** The text of a file; null where there is none. */
export const readIfThere = (file: string): Promise<string | null> =>
  readFile(file, 'utf8').catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return null;
    throw error;
  });
