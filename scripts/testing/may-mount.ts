import { spawnSync } from 'node:child_process';

/** Whether this process may arrange disks of its own: as root, where the sandbox that it runs in allows it. */
export const mayMount = process.getuid?.() === 0 && spawnSync('unshare', ['-m', 'true']).status === 0;
