import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** The checkout’s folder. */
export const root = join(dirname(fileURLToPath(import.meta.url)), '..', '..');
const programs = join(root, 'server', 'dist', 'programs');
export const serverMain = join(programs, 'main.js');
export const standInsMain = join(root, 'stand-ins', 'dist', 'main.js');
/** Plays a night of the made-up plant, and writes down what is recorded of it. */
export const nightMain = join(root, 'stand-ins', 'dist', 'record-night.js');
/** TypeScript’s native compiler: it takes a fifth of the time of the one that Angular’s own tools still need. */
export const tscMain = join(root, 'node_modules', 'typescript-native', 'bin', 'tsc');
export const webFolder = join(root, 'web', 'dist', 'browser');
export const setupScript = (name) => join(programs, `${name}.js`);
