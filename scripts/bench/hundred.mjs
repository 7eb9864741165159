import { Turns } from '../../server/dist/processes/turns.js';
import { startServer } from './one-server.mjs';

const machines = 20;
const checks = 100;
/** As many as the queue runs at once. */
const atOnce = 8;

/**
 * A hundred checks of healthy links to twenty servers on as many machines, each a process of its own: one at a time per machine,
 * some at once, as the queue runs them. Every check watches until a value changes.
 * @param check carries out one check of a link whose server shows a certificate
 */
export async function hundred(say, { subject, clientPem, passwords }, check) {
  const servers = await Promise.all(
    Array.from({ length: machines }, (_, index) =>
      startServer({ id: subject.server.id, address: `127.41.60.${index + 1}`, trusted: [clientPem], passwords }),
    ),
  );
  try {
    const waiting = Array.from({ length: checks }, (_, index) => servers[index % machines]);
    const turns = new Turns();
    const begun = performance.now();
    await Promise.all(
      Array.from({ length: atOnce }, async () => {
        for (let server = waiting.pop(); server; server = waiting.pop()) {
          const { address, certificatePem } = server;
          const link = { ...subject.link, endpointUrl: `opc.tcp://${address}:4840` };
          await turns.take(address, () => check({ ...subject, link }, certificatePem));
        }
      }),
    );
    say(
      `\nA hundred checks of links to twenty servers on as many machines, one at a time per machine: ${((performance.now() - begun) / 1000).toFixed(1)} s`,
    );
  } finally {
    await Promise.all(servers.map(({ stop }) => stop()));
  }
}
