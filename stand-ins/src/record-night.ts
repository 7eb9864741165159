import './night/night-clock.js';
import './skip-key-test.js';
import { mkdir, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { playNight } from './night/play-night.js';

/**
 * node record-night.js FOLDER: plays a night of the made-up plant, and puts what was recorded of it into `recorded` there; once.
 * The plant itself must not be running.
 */
const folder = resolve(process.argv[2] ?? '.data/stand-ins');
const recorded = join(folder, 'recorded');
const isThere = await stat(recorded).then(
  () => true,
  () => false,
);
if (!isThere) {
  await mkdir(folder, { recursive: true, mode: 0o700 });
  const files = await playNight(folder);
  const unfinished = `${recorded}.part`;
  await rm(unfinished, { recursive: true, force: true });
  await mkdir(unfinished, { mode: 0o700 });
  for (const { name, bytes } of files) await writeFile(join(unfinished, name), bytes, { mode: 0o600 });
  await rename(unfinished, recorded);
}
process.exit(0);
