import { existsSync, mkdirSync, openSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { join } from 'node:path';
import { freePort } from './cluster.mjs';
import { serverMain, webFolder } from './places.mjs';
import { startProcess } from './run.mjs';
import { giveUp } from './say.mjs';

const usualPort = 8480;

/** Refuses to start a second copy on the same data, and says where the first one is. */
export function onlyOne(dataFolder) {
  mkdirSync(dataFolder, { recursive: true, mode: 0o755 });
  const file = join(dataFolder, 'running.json');
  const other = existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : null;
  if (other && isAlive(other.pid))
    giveUp(
      `One is running already, at ${other.url ?? 'an address that it has not told yet'} (process ${other.pid}). Stop that one first with Ctrl-C.`,
    );
  const write = (url) => writeFileSync(file, JSON.stringify({ pid: process.pid, url }));
  write(null);
  return { tell: write, leave: () => rmSync(file, { force: true }) };
}

function isAlive(pid) {
  try {
    process.kill(pid, 0);
    return /scripts\/(demo|start|test)\.mjs/.test(readFileSync(`/proc/${pid}/cmdline`, 'utf8'));
  } catch {
    return false;
  }
}

/** The environment of the server’s programs. */
export const serverEnvironment = (databaseUrl, dataFolder, mode) => ({
  HINGE_DATABASE_URL: databaseUrl,
  HINGE_DATA: dataFolder,
  HINGE_MODE: mode,
  HINGE_WEB: webFolder,
  NODE_ENV: 'production',
});

/** Starts the server on its usual port, or on a free one where that is taken. */
export async function startHinge(environment, dataFolder, wantedPort) {
  const port = wantedPort ?? ((await isTaken(usualPort)) ? await freePort() : usualPort);
  const logFile = openSync(join(dataFolder, 'server.log'), 'a', 0o600);
  return startProcess(serverMain, [], {
    name: 'the server',
    env: { ...environment, HINGE_PORT: String(port) },
    logFile,
  });
}

const isTaken = (port) =>
  new Promise((resolve) => {
    const socket = connect({ host: '127.0.0.1', port }, () => {
      socket.destroy();
      resolve(true);
    });
    socket.once('error', () => resolve(false));
  });

/** Stops everything that was started, last first, once. */
export function stopper() {
  const parts = [];
  let stopping = null;
  const stop = () => (stopping ??= stopAll(parts));
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
    process.on(signal, () => void stop().then(() => process.exit(0)));
  return { add: (part) => parts.push(part), stop };
}

async function stopAll(parts) {
  for (const part of [...parts].reverse()) await part();
}
