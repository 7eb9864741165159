import { openSync, readFileSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { callOwn } from './call-own.mjs';
import { serverMain, webFolder } from './places.mjs';
import { startProcess } from './run.mjs';
import { giveUp } from './say.mjs';

const usualPort = 8480;
const portsTried = 50;

/** The environment of the server’s programs. */
export const serverEnvironment = (databaseUrl, dataFolder) => ({
  HINGE_DATABASE_URL: databaseUrl,
  HINGE_DATA: dataFolder,
  HINGE_WEB: webFolder,
  NODE_ENV: 'production',
});

/**
 * The port of this installation: the one that was asked for, the one that it had before, or the usual one.
 * Where that is taken by another program it says so, takes the next that is free, and stays with it.
 */
export async function portOf(dataFolder, log) {
  const asked = process.env.HINGE_PORT;
  if (asked !== undefined) return askedFor(asked);
  const file = join(dataFolder, 'port.json');
  const kept = keptIn(file) ?? usualPort;
  if (await isFree(kept)) return kept;
  for (let port = usualPort; port < usualPort + portsTried; port += 1) {
    if (!(await isFree(port))) continue;
    writeFileSync(file, JSON.stringify({ port }));
    log(`Port ${kept} is taken by another program. Port ${port} is used instead, from now on.`);
    return port;
  }
  return giveUp(
    `The ports ${usualPort} to ${usualPort + portsTried - 1} are all taken. Name a free one: HINGE_PORT=… npm start.`,
  );
}

async function askedFor(text) {
  const port = Number(text);
  if (!/^\d+$/.test(text) || port < 1 || port > 65535)
    giveUp(`HINGE_PORT is “${text}”; it must be a number from 1 to 65535.`);
  if (!(await isFree(port))) giveUp(`Port ${port} is taken by another program. Choose another one with HINGE_PORT.`);
  return port;
}

function keptIn(file) {
  try {
    const { port } = JSON.parse(readFileSync(file, 'utf8'));
    return Number.isInteger(port) ? port : null;
  } catch {
    return null;
  }
}

/** Starts the server; port 0 takes a free one. */
export async function startHinge(environment, dataFolder, port) {
  const logFile = openSync(join(dataFolder, 'server.log'), 'a', 0o600);
  return startProcess(serverMain, [], {
    name: 'the server',
    env: { ...environment, HINGE_PORT: String(port) },
    logFile,
  });
}

const isFree = (port) =>
  new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => resolve(false));
    probe.listen(port, process.env.HINGE_HOST ?? '127.0.0.1', () => probe.close(() => resolve(true)));
  });

const silenceMs = 10_000;
const mostSilences = 6;

/** Kills a server that runs and answers nothing for a minute; whoever keeps it running starts it again. */
export function watchAnswers(current, dataFolder, log) {
  let silences = 0;
  const timer = setInterval(async () => {
    const { url, child } = current();
    if (!child) return;
    const answered = await callOwn(url, '/api/health', { dataFolder, timeoutMs: silenceMs }).then(
      () => true,
      () => false,
    );
    silences = answered ? 0 : silences + 1;
    if (silences < mostSilences || child !== current().child) return;
    log('The server does not answer any more; it is stopped.');
    silences = 0;
    child.kill('SIGKILL');
  }, silenceMs).unref();
  return () => clearInterval(timer);
}
