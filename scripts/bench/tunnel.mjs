import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { connect, createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { connect as connectTls, createServer as createTlsServer } from 'node:tls';
import {
  exportKey,
  freshSerialNumber,
  issueApplicationCertificate,
  issueAuthorityCertificate,
  makeKeys,
} from '../../core/dist/trust/issuing/index.js';
import { writePem } from '../../core/dist/index.js';
import { root } from '../lib/places.mjs';

const amount = 256 * 1024 * 1024;
const part = Buffer.alloc(64 * 1024, 7);
const streams = 200;
const perStream = 2 * 1024 * 1024;
const rounds = 7;
const dayMs = 86_400_000;

/** One stream through a tunnel against the same bytes over plain TLS, and two hundred streams at once. Both ends are processes. */
export async function tunnel(say) {
  const folder = mkdtempSync(join(tmpdir(), 'hinge-bench-tunnel-'));
  const ends = [];
  const swallowing = createServer((socket) => swallow(socket));
  try {
    const { ca, of } = await certificates(folder);
    await listening(swallowing);
    const plain = createTlsServer({ ...of.a, minVersion: 'TLSv1.3' }, (socket) => swallow(socket));
    await listening(plain);
    const [meeting, entrance] = await Promise.all([freePort(), freePort()]);
    ends.push(
      await end(
        folder,
        'a',
        of.b.fingerprint,
        { by: 'listening', port: meeting },
        { targets: [{ name: 'bin', address: '127.0.0.1', port: swallowing.address().port }] },
      ),
    );
    ends.push(
      await end(
        folder,
        'b',
        of.a.fingerprint,
        { by: 'dialling', port: meeting },
        { entrances: [{ name: 'in', address: '127.0.0.1', port: entrance, target: 'bin' }] },
      ),
    );
    const overTls = () =>
      timed(
        connectTls({ port: plain.address().port, host: '127.0.0.1', ca, checkServerIdentity: () => undefined }),
        amount,
      );
    const throughTunnel = (bytes = amount) => timed(connect({ port: entrance, host: '127.0.0.1' }), bytes);
    /* Both once without being timed: programs that have just been started are slower. */
    await overTls();
    await throughTunnel();
    const pairs = [];
    for (let round = 0; round < rounds; round += 1) pairs.push([await overTls(), await throughTunnel()]);
    const middle = (rounds - 1) / 2;
    const ratios = pairs.map(([tls, own]) => tls / own).sort((one, other) => one - other);
    const [tls, own] = [0, 1].map(
      (which) => pairs.map((pair) => pair[which]).sort((one, other) => one - other)[middle],
    );
    say(`\nA tunnel, both ends processes of their own (medians of ${rounds}, ${amount / 1024 / 1024} MB one way):`);
    say(
      `  one stream      ${rate(amount, own)} through the tunnel, ${rate(amount, tls)} over plain TLS: ${ratios[middle].toFixed(2)} times (${ratios[0].toFixed(2)} to ${ratios.at(-1).toFixed(2)})`,
    );
    const begun = performance.now();
    const times = (await Promise.all(Array.from({ length: streams }, () => throughTunnel(perStream)))).sort(
      (one, other) => one - other,
    );
    const all = performance.now() - begun;
    say(
      `  ${streams} streams     ${rate(streams * perStream, all)} together; the first ends after ${Math.round(times[0])} ms, half after ${Math.round(times[streams / 2])} ms, the last after ${Math.round(times.at(-1))} ms`,
    );
    plain.close();
  } finally {
    for (const child of ends) child.kill('SIGTERM');
    swallowing.close();
    rmSync(folder, { recursive: true, force: true });
  }
}

const rate = (bytes, ms) => `${Math.round(bytes / 1024 / 1024 / (ms / 1000))} MB/s`;

/** Reads to the end, and says so with one byte: whoever sent knows then that all has come. */
function swallow(socket) {
  socket.on('error', () => undefined);
  socket.resume();
  socket.once('end', () => socket.end('.'));
}

/** Milliseconds until so many bytes have come to the far end. */
function timed(socket, bytes) {
  return new Promise((resolve, reject) => {
    socket.once('error', reject);
    socket.once(socket.encrypted ? 'secureConnect' : 'connect', () => {
      const begun = performance.now();
      let left = bytes;
      const fill = () => {
        while (left > 0) {
          left -= part.length;
          if (!socket.write(part)) return socket.once('drain', fill);
        }
        socket.end();
      };
      socket.once('data', () => resolve(performance.now() - begun));
      fill();
    });
  });
}

const listening = (server) => new Promise((done) => server.listen(0, '127.0.0.1', done));
async function freePort() {
  const server = createServer();
  await listening(server);
  const { port } = server.address();
  await new Promise((done) => server.close(done));
  return port;
}

async function end(folder, name, peer, meets, more) {
  const own = join(folder, name);
  const configuration = {
    name,
    meets: { address: '127.0.0.1', ...meets },
    certificateFile: 'certificate.pem',
    keyFile: 'key.pem',
    authorityFile: 'authority.pem',
    peers: [{ name: name === 'a' ? 'b' : 'a', fingerprint: peer }],
    ...more,
  };
  writeFileSync(join(own, 'tunnel.json'), JSON.stringify(configuration));
  const child = spawn(process.execPath, [join(root, 'tunnel/bin/tunnel.mjs'), own], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  let said = '';
  const wanted = meets.by === 'listening' ? 'Ready.' : 'Joined with';
  await new Promise((resolve, reject) => {
    child.once('exit', () => reject(new Error(`the end ${name} ended: ${said}`)));
    child.stdout.on('data', (text) => {
      said += text;
      if (said.includes(wanted)) resolve();
    });
  });
  return child;
}

async function certificates(folder) {
  const wish = async (commonName, keys) => ({
    subject: { commonName, organization: '' },
    publicKey: await exportKey('spki', keys.publicKey),
    serialNumber: freshSerialNumber(),
    notBefore: Date.now() - dayMs,
    notAfter: Date.now() + dayMs,
  });
  const keys = await makeKeys('P-256');
  const signer = { kind: 'P-256', privateKey: keys.privateKey, certificate: null };
  const authority = await issueAuthorityCertificate({ ...(await wish('Bench', keys)), pathLength: 0 }, signer);
  const ca = writePem('CERTIFICATE', authority);
  const of = {};
  for (const name of ['a', 'b']) {
    const own = await makeKeys('P-256');
    const der = await issueApplicationCertificate(
      { ...(await wish(name, own)), applicationUri: `urn:bench:${name}`, hosts: ['127.0.0.1'] },
      { ...signer, certificate: authority },
    );
    const cert = writePem('CERTIFICATE', der);
    const key = writePem('PRIVATE KEY', await exportKey('pkcs8', own.privateKey));
    mkdirSync(join(folder, name));
    for (const [file, text] of [
      ['certificate.pem', cert],
      ['key.pem', key],
      ['authority.pem', ca],
    ])
      writeFileSync(join(folder, name, file), text, { mode: 0o600 });
    of[name] = { cert, key, fingerprint: createHash('sha256').update(der).digest('hex').toUpperCase() };
  }
  return { ca, of };
}
