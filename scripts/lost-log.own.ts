import { spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { copyFileSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { connect } from 'node:tls';
import { TestAuthority } from '../tunnel/src/testing/authority.js';
import { until } from '../server/src/testing/until.js';
import { freePort } from './testing/free-port.js';

let authority: TestAuthority;
let stranger: string;
beforeAll(async () => {
  authority = await TestAuthority.make();
  stranger = await authority.issue('stranger');
  await authority.issue('own');
  copyFileSync(join(authority.folder, 'own.key'), join(authority.folder, 'key.pem'));
});

/** Runs an end of a tunnel that listens, and names nobody who could come. */
async function endAt(port: number): Promise<ChildProcess> {
  writeFileSync(
    join(authority.folder, 'tunnel.json'),
    JSON.stringify({
      name: 'own',
      meets: { by: 'listening', address: '127.0.0.1', port },
      certificateFile: 'own.pem',
      keyFile: 'key.pem',
      authorityFile: 'authority.pem',
      peers: [{ name: 'nobody', fingerprint: stranger.replace(/^../, stranger.startsWith('00') ? '11' : '00') }],
    }),
  );
  const child = spawn(process.execPath, [join(process.cwd(), 'tunnel/bin/tunnel.mjs'), authority.folder]);
  let said = '';
  child.stdout.on('data', (part) => (said += String(part)));
  child.stderr.on('data', (part) => (said += String(part)));
  await until(
    () => Promise.resolve(said),
    (text) => text.includes('Ready.'),
  );
  return child;
}

/** Somebody whose certificate is of the authority, and whom the end does not name: it says so in its log. */
const refusedAt = (port: number): Promise<void> =>
  new Promise((done) => {
    const file = (name: string) => readFileSync(join(authority.folder, name));
    const socket = connect({
      port,
      host: '127.0.0.1',
      cert: file('stranger.pem'),
      key: file('stranger.key'),
      ALPNProtocols: ['loyal-hinge-tunnel-3'],
      rejectUnauthorized: false,
    });
    socket.on('error', () => undefined);
    socket.on('close', () => done());
  });

describe('a process of ours on another machine', () => {
  it('goes on when whoever reads its log has gone', async () => {
    const port = await freePort();
    const child = await endAt(port);
    let ended: number | null | undefined;
    child.on('exit', (code) => (ended = code));
    child.stdout?.destroy();
    child.stderr?.destroy();
    for (let turn = 0; turn < 5; turn += 1) await refusedAt(port);
    expect(ended).toBeUndefined();
    child.kill('SIGTERM');
    await until(
      () => Promise.resolve(ended),
      (code) => code !== undefined,
    );
    expect(ended).toBe(0);
  });
});
