import { mkdir, readFile, readdir, rename } from 'node:fs/promises';
import { join } from 'node:path';
import { readPkiFolder } from '@loyal-hinge/core/bundles';
import type { Stoppable } from './other-ports.js';
import type { StoredLists } from './trust-store.js';

const lookEveryMs = 700;

/**
 * Stands for somebody who walks to the machine with a stick: a zip in the directory layout of Part 12 Annex F that is put
 * into this folder is taken over, and renamed to `….taken`.
 */
export async function takeWhatIsBroughtByHand(
  folder: string,
  take: (lists: StoredLists) => Promise<void>,
): Promise<Stoppable> {
  await mkdir(folder, { recursive: true, mode: 0o700 });
  let looking: Promise<void> = Promise.resolve();
  const look = async (): Promise<void> => {
    for (const name of (await readdir(folder)).filter((file) => file.endsWith('.zip')).sort()) {
      const file = join(folder, name);
      try {
        await take(listsIn(await readFile(file)));
        await rename(file, `${file}.taken`);
      } catch {
        await rename(file, `${file}.not-understood`);
      }
    }
  };
  const timer = setInterval(() => {
    looking = looking.then(look).catch(() => undefined);
  }, lookEveryMs);
  return {
    async stop() {
      clearInterval(timer);
      await looking;
    },
  };
}

/** The lists of a bundle: those that it does not name are empty. */
export function listsIn(zip: Uint8Array): StoredLists {
  const read = readPkiFolder(zip);
  if (!read.ok) throw new Error(read.says);
  const { trusted, trustedCrls, issuers, issuerCrls } = read.folder;
  return { trustedCertificates: trusted, trustedCrls, issuerCertificates: issuers, issuerCrls };
}
