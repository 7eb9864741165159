import { spawn } from 'node:child_process';
import { closeSync, existsSync, mkdirSync, openSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { callOwn } from './call-own.mjs';
import { authorityPassphrase } from './demo-plant.mjs';
import { keepRunning } from './keep-running.mjs';
import { root } from './places.mjs';

const program = join(root, 'tunnel', 'bin', 'tunnel.mjs');
const port = 4850;
const patienceMs = 30_000;

/** The tunnel of the made-up plant: the energy board’s session with the furnace goes through it. */
const wish = {
  name: 'Furnace tunnel',
  listeningMachineId: 'furnace',
  diallingMachineId: 'energy',
  port,
  limits: { streams: 64, streamBytesPerSecond: null, bytesPerSecond: null, idleMs: null },
};
const linkId = 'energy--furnace';

/**
 * Sets the demo’s tunnel up as its engineer would, with tickets and signatures, and keeps both of its ends running. One that
 * somebody has removed is not made anew.
 * @param options.isFirst whether the plant was made just now
 */
export async function keepDemoTunnel({ url, signIn, dataFolder, isFirst, log, add, isStopping }) {
  const call = await signedIn(url, signIn, dataFolder);
  if (isFirst) await addTunnel(call);
  const find = async () => (await call('GET', '/api/tunnels')).tunnels.find(({ name }) => name === wish.name);
  const tunnel = await find();
  if (!tunnel) return;
  for (const { side, outpost } of tunnel.ends) {
    const folder = join(dataFolder, 'tunnel', side);
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    const isKnown = existsSync(join(folder, 'outpost.json'));
    const ticketFile = join(folder, 'ticket.txt');
    if (!isKnown) {
      const made = await call('POST', `/api/outposts/${outpost.id}/ticket`, { address: '127.0.0.1', validHours: 1 });
      writeFileSync(ticketFile, made.ticket, { mode: 0o600 });
    }
    const args = [folder, ...(isKnown ? [] : ['--ticket', ticketFile])];
    const end = await keepRunning(
      `The end of the tunnel on ${outpost.machine}`,
      () => Promise.resolve(startEnd(args, join(dataFolder, `tunnel-${side}.log`))),
      { log, isStopping },
    );
    add(() => end.stop());
    if (isKnown) continue;
    const hasAsked = await until(async () =>
      (await find())?.ends.some((each) => each.side === side && each.outpost.state === 'asks'),
    );
    if (!hasAsked) return log(`The end of the tunnel on ${outpost.machine} did not ask for a certificate.`);
    const { authorities } = await call('GET', '/api/authorities');
    await call('POST', `/api/outposts/${outpost.id}/certificate`, {
      authority: authorities.find(({ isCurrent }) => isCurrent).thumbprint,
      validDays: 365,
      passphrase: authorityPassphrase(dataFolder),
    });
    await until(() => existsSync(join(folder, 'outpost.json')));
    rmSync(ticketFile, { force: true });
  }
  if (!(await until(async () => (await find())?.state === 'up'))) log('The tunnel of the made-up plant is not up yet.');
}

async function addTunnel(call) {
  const { machines } = await call('GET', '/api/tunnels');
  const addressOf = (machineId) => machines.find(({ id }) => id === machineId).addresses[0];
  const { id } = await call('POST', '/api/tunnels', { ...wish, address: addressOf(wish.listeningMachineId) });
  const entrance = { entranceAddress: addressOf(wish.diallingMachineId), entrancePort: 4840 };
  await call('POST', `/api/tunnels/${id}/links`, { linkId, ...entrance });
}

function startEnd(args, logFile) {
  const file = openSync(logFile, 'a', 0o600);
  const child = spawn(process.execPath, [program, ...args], { stdio: ['ignore', file, file] });
  child.once('spawn', () => closeSync(file));
  const ended = new Promise((resolve) => {
    child.once('error', (error) => resolve(error.message));
    child.once('exit', (code, signal) => resolve(signal === null ? `exit status ${code}` : `killed by ${signal}`));
  });
  return {
    ended,
    stop: async () => {
      child.kill('SIGTERM');
      await ended;
    },
  };
}

/** @returns whether it came to it in time */
async function until(isSo) {
  for (const end = Date.now() + patienceMs; Date.now() < end;) {
    if (await isSo()) return true;
    await new Promise((resolve) => setTimeout(resolve, 250));
  }
  return false;
}

async function signedIn(url, signIn, dataFolder) {
  const answer = await callOwn(url, '/api/session', { dataFolder, method: 'POST', body: JSON.stringify(signIn) });
  const cookie = answer.headers['set-cookie'][0].split(';')[0];
  const headers = { cookie, 'x-hinge-token': answer.json().token };
  return async (method, path, body) => {
    const told = await callOwn(url, path, {
      dataFolder,
      method,
      headers,
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    if (told.status >= 400) throw new Error(`${method} ${path}: ${told.status} ${told.json().detail ?? ''}`);
    return told.json();
  };
}
