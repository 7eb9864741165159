import { fork } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { root } from '../lib/places.mjs';

/** Starts a server of the made-up plant at another address, in a process of its own; the wish is that of stand-ins/src/one-server.ts. */
export async function startServer(wish) {
  const folder = mkdtempSync(join(tmpdir(), 'hinge-bench-'));
  const child = fork(join(root, 'stand-ins', 'dist', 'one-server.js'), [folder], {
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
  });
  const gone = once(child, 'exit');
  child.send(wish);
  const [ready] = await Promise.race([
    once(child, 'message'),
    gone.then(() => Promise.reject(new Error('a server ended before it was ready'))),
  ]);
  return {
    address: wish.address,
    certificatePem: ready.certificatePem,
    async stop() {
      if (child.connected) child.disconnect();
      await gone;
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
