import { SpaceWalk } from '../../server/dist/rights/walk-space.js';
import { walkLink } from '../../server/dist/probe/walk-link.js';
import { startServer } from './one-server.mjs';

const devices = [1_000, 10_000];
const address = '127.41.61.1';
const megabytes = (bytes) => Math.round(bytes / 1_000_000);

/** Walks through all nodes of a live server, one request at a time; what is seen is let go at once, as the server writes it down. */
export async function snapshot(say, { subject, clientPem, passwords }, meansOf) {
  say('\nWalking through all nodes of a live server by one session, in its own process:');
  for (const count of devices) {
    const server = await startServer({
      id: subject.server.id,
      address,
      trusted: [clientPem],
      passwords,
      devices: count,
    });
    try {
      const { nodes, ms, peak } = await walked(subject, server, meansOf);
      say(
        `  ${nodes} nodes in ${(ms / 1000).toFixed(1)} s (${Math.round(nodes / (ms / 1000))} a second); the memory in use grew by ${megabytes(peak)} MB at most`,
      );
    } finally {
      await server.stop();
    }
  }
}

async function walked(subject, { certificatePem }, meansOf) {
  const one = { ...subject, link: { ...subject.link, endpointUrl: `opc.tcp://${address}:4840` } };
  const walk = new SpaceWalk();
  const log = { begin: () => undefined, keep: () => undefined, note: (body) => body };
  const signal = new AbortController().signal;
  const before = process.memoryUsage().heapUsed;
  let peak = 0;
  const begun = performance.now();
  await walkLink(one, meansOf(one, certificatePem), log, signal, (session) =>
    walk.goOn(
      session,
      () => {
        peak = Math.max(peak, process.memoryUsage().heapUsed - before);
        return Promise.resolve();
      },
      signal,
    ),
  );
  if (!walk.isWhole) throw new Error('the walk did not come to its end');
  return { nodes: walk.nodes, ms: performance.now() - begun, peak };
}
