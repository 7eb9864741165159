import { X509Certificate } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { request as inTheClear } from 'node:http';
import { request as overTls } from 'node:https';
import { hostname } from 'node:os';
import { join } from 'node:path';

const everywhere = new Map([
  ['0.0.0.0', '127.0.0.1'],
  ['[::]', '[::1]'],
]);

const certificateOf = (dataFolder) => readFileSync(join(dataFolder, 'tls', 'certificate.pem'), 'utf8');

/**
 * Calls our own server from its own computer. Over TLS it must show the certificate that lies in its folder, whatever names
 * are in it.
 */
export function callOwn(url, path, { dataFolder, method = 'GET', headers = {}, body, timeoutMs = 10_000 }) {
  const place = new URL(path, url);
  place.hostname = everywhere.get(place.hostname) ?? place.hostname;
  const tls =
    place.protocol === 'https:' ? { ca: certificateOf(dataFolder), checkServerIdentity: () => undefined } : {};
  return new Promise((resolve, reject) => {
    const sent = (place.protocol === 'https:' ? overTls : inTheClear)(place, {
      ...tls,
      method,
      headers: { 'content-type': 'application/json', ...headers },
      timeout: timeoutMs,
      agent: false,
    });
    sent.once('timeout', () => sent.destroy(new Error('no answer')));
    sent.once('error', reject);
    sent.once('response', (answer) => {
      const parts = [];
      answer.on('data', (part) => parts.push(part));
      answer.once('error', reject);
      answer.once('end', () =>
        resolve({
          status: answer.statusCode,
          headers: answer.headers,
          json: () => JSON.parse(Buffer.concat(parts).toString('utf8')),
        }),
      );
    });
    sent.end(body);
  });
}

/** What is said at the start of where the server is, and of how its certificate is told from another’s. */
export function whereItIs(url, dataFolder) {
  if (!url.startsWith('https:')) return url;
  const shown = new URL(url);
  if (everywhere.has(shown.hostname)) shown.hostname = hostname();
  const { fingerprint256, issuer, subject } = new X509Certificate(certificateOf(dataFolder));
  const told = shown.href.replace(/\/$/, '');
  return issuer === subject
    ? `${told}\nIts certificate is signed by itself. Compare its SHA-256 fingerprint in the browser before you sign in:\n${fingerprint256}`
    : told;
}
