import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** The checkout’s folder. */
export const root = join(dirname(fileURLToPath(import.meta.url)), '..', '..');
export const serverMain = join(root, 'server', 'dist', 'main.js');
export const standInsMain = join(root, 'stand-ins', 'dist', 'main.js');
export const webFolder = join(root, 'web', 'dist', 'browser');
export const setupScript = (name) => join(root, 'server', 'dist', 'setup', `${name}.js`);
