import { createHash, timingSafeEqual } from 'node:crypto';
import { connect } from 'node:tls';
import type { TLSSocket } from 'node:tls';
import { outpostProtocol } from '@loyal-hinge/contract/line';
import type { Place } from './folder.js';

const connectMs = 10_000;

/**
 * A connection to the server, over TLS 1.3, that shows the certificate which the ticket names.
 * @throws Error with a sentence for people
 */
export function dialServer(
  { address, port, fingerprint }: Place,
  own: { readonly key: string; readonly certificate: string } | null,
): Promise<TLSSocket> {
  return new Promise((resolve, reject) => {
    const socket = connect({
      host: address,
      port,
      ...(own ? { key: own.key, cert: own.certificate } : {}),
      ALPNProtocols: [outpostProtocol],
      minVersion: 'TLSv1.3',
      /* Which certificate it must be is known; who signed it doesn’t matter. */
      rejectUnauthorized: false,
      checkServerIdentity: () => undefined,
      timeout: connectMs,
    });
    const fail = (says: string): void => {
      socket.destroy();
      reject(new Error(says));
    };
    socket.once('error', (error) =>
      fail(`The server does not answer at ${address} port ${port}: ${error.message || 'no connection'}.`),
    );
    socket.once('timeout', () => fail(`The server does not answer at ${address} port ${port} in time.`));
    socket.once('secureConnect', () => {
      socket.setTimeout(0);
      const shown = createHash('sha256').update(socket.getPeerCertificate().raw).digest();
      if (!timingSafeEqual(shown, Buffer.from(fingerprint, 'hex')))
        return fail(`Who answers at ${address} port ${port} is not the server that the ticket names.`);
      if (socket.alpnProtocol !== outpostProtocol)
        return fail(`The server at ${address} port ${port} is of another version.`);
      socket.removeAllListeners('error');
      resolve(socket);
    });
  });
}
