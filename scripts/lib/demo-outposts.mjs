import { spawn } from 'node:child_process';
import { closeSync, existsSync, mkdirSync, openSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { callOwn } from './call-own.mjs';
import {
  addDemoGateway,
  addSiloGateways,
  gatewayName,
  joinSiloGateways,
  letReaderIn,
  siloGateways,
  siloTunnel,
} from './demo-gateway.mjs';
import { authorityPassphrase } from './demo-plant.mjs';
import { keepRunning } from './keep-running.mjs';
import { root } from './places.mjs';

const programs = {
  tunnel: [join(root, 'tunnel', 'bin', 'tunnel.mjs')],
  probe: [join(root, 'cli', 'bin', 'hinge.mjs'), 'probe'],
  gateway: [join(root, 'gateway', 'bin', 'gateway.mjs')],
};
/** In the folder of an outpost: who runs it now. */
export const pidFile = 'pid';
const patienceMs = 30_000;

/** The tunnel of the made-up plant: the energy board’s session with the furnace goes through it. */
const tunnelWish = {
  name: 'Furnace tunnel',
  listeningMachineId: 'furnace',
  diallingMachineId: 'energy',
  port: 4850,
  limits: { streams: 64, streamBytesPerSecond: null, bytesPerSecond: null, idleMs: null },
};
const tunnelledLink = 'energy--furnace';
/** Its probe: links of the history node are checked from the DMZ. */
const probeWish = { name: 'DMZ probe', machineId: 'history', machineIds: ['history'] };
const probeRanges = ['--may-dial', '127.41.0.0/16'];

/**
 * Sets the demo’s tunnel, its probe and its gateway up as the plant’s engineer would, with tickets and signatures, and keeps their
 * processes running. What somebody has removed is not made anew.
 * @param options.isFirst whether the plant was made just now
 */
export async function keepDemoOutposts({ url, signIn, dataFolder, isFirst, log, add, isStopping }) {
  const call = await signedIn(url, signIn, dataFolder);
  if (isFirst) await addAll(call);
  const findTunnel = async (wanted = tunnelWish) =>
    (await call('GET', '/api/tunnels')).tunnels.find(({ name }) => name === wanted.name);
  const tunnel = await findTunnel();
  const probe = (await call('GET', '/api/probes')).probes.find(({ outpost }) => outpost.name === probeWish.name);
  const outposts = async () => [
    ...(await call('GET', '/api/tunnels')).tunnels.flatMap(({ ends }) => ends.map(({ outpost }) => outpost)),
    ...(await call('GET', '/api/probes')).probes.map(({ outpost }) => outpost),
    ...(await call('GET', '/api/gateways')).gateways.map(({ outpost }) => outpost),
  ];
  const keep = async (outpost, program, more = []) => {
    const folder = join(dataFolder, 'outposts', outpost.id);
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    const isKnown = existsSync(join(folder, 'outpost.json'));
    const ticketFile = join(folder, 'ticket.txt');
    if (!isKnown) {
      const made = await call('POST', `/api/outposts/${outpost.id}/ticket`, { address: '127.0.0.1', validHours: 1 });
      writeFileSync(ticketFile, made.ticket, { mode: 0o600 });
    }
    // The ticket is good for the first start alone.
    const args = () => [
      ...programs[program],
      folder,
      ...more,
      ...(existsSync(ticketFile) ? ['--ticket', ticketFile] : []),
    ];
    const kept = await keepRunning(
      outpost.name,
      () => Promise.resolve(startOutpost(args(), join(dataFolder, `${outpost.id}.log`), join(folder, pidFile))),
      { log, isStopping },
    );
    add(() => kept.stop());
    if (isKnown) return;
    const hasAsked = await until(async () =>
      (await outposts()).some(({ id, state }) => id === outpost.id && state === 'asks'),
    );
    if (!hasAsked) return log(`${outpost.name} did not ask for a certificate.`);
    const { authorities } = await call('GET', '/api/authorities');
    await call('POST', `/api/outposts/${outpost.id}/certificate`, {
      authority: authorities.find(({ isCurrent }) => isCurrent).thumbprint,
      validDays: 365,
      passphrase: authorityPassphrase(dataFolder),
    });
    await until(() => existsSync(join(folder, 'outpost.json')));
    rmSync(ticketFile, { force: true });
  };
  for (const { outpost } of tunnel?.ends ?? []) await keep(outpost, 'tunnel');
  if (probe) await keep(probe.outpost, 'probe', probeRanges);
  const isUp = await until(async () => {
    const isJoined = !tunnel || (await findTunnel())?.state === 'up';
    return (
      isJoined && (!probe || (await outposts()).some(({ id, state }) => id === probe.outpost.id && state === 'here'))
    );
  });
  if (!isUp) log('The tunnel or the probe of the made-up plant is not up yet.');
  if (isFirst) await addDemoGateway(call, dataFolder, log);
  const silos = await findTunnel(siloTunnel);
  if (isFirst && silos) await addSiloGateways(call, dataFolder, silos.id);
  for (const { outpost } of silos?.ends ?? []) await keep(outpost, 'tunnel');
  const { gateways } = await call('GET', '/api/gateways');
  for (const { outpost } of gateways)
    if ([gatewayName, ...siloGateways].includes(outpost.name)) await keep(outpost, 'gateway');
  if (!isFirst) return;
  await letReaderIn(call, log);
  if (silos) await joinSiloGateways(call, log);
}

async function addAll(call) {
  const { machines } = await call('GET', '/api/tunnels');
  const addressOf = (machineId) => machines.find(({ id }) => id === machineId).addresses[0];
  const addTunnel = (wish) => call('POST', '/api/tunnels', { ...wish, address: addressOf(wish.listeningMachineId) });
  const { id } = await addTunnel(tunnelWish);
  await addTunnel(siloTunnel);
  const entrance = { entranceAddress: addressOf(tunnelWish.diallingMachineId), entrancePort: 4840 };
  await call('POST', `/api/tunnels/${id}/links`, { linkId: tunnelledLink, ...entrance });
  await call('POST', '/api/probes', probeWish);
}

function startOutpost(args, logFile, pidPlace) {
  const file = openSync(logFile, 'a', 0o600);
  const child = spawn(process.execPath, args, { stdio: ['ignore', file, file] });
  child.once('spawn', () => {
    closeSync(file);
    writeFileSync(pidPlace, `${child.pid}\n`);
  });
  const ended = new Promise((resolve) => {
    child.once('error', (error) => resolve(error.message));
    child.once('exit', (code, signal) => resolve(signal === null ? `exit status ${code}` : `killed by ${signal}`));
  });
  return {
    ended,
    stop: async () => {
      // One that was halted by hand could not stop.
      child.kill('SIGCONT');
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
