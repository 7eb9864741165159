import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, openSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setupScript, standInsMain } from './places.mjs';
import { runOwn, startProcess } from './run.mjs';

/**
 * Starts the made-up plant in 127.<block>.0.0/16; it hands over what its engineer would know.
 * @param keysFile private keys to take, in PEM; those that are missing are made
 * @param visitors whether clients of the plant come to its servers by themselves
 * @param devices at most so many are generated on a server; without it as many as the plant has
 */
export function startStandIns(dataFolder, block = 41, keysFile = '', devices = null, visitors = false) {
  mkdirSync(dataFolder, { recursive: true, mode: 0o755 });
  const logFile = openSync(join(dataFolder, 'stand-ins.log'), 'a', 0o600);
  return startProcess(standInsMain, [standInsFolder(dataFolder)], {
    name: 'the made-up plant',
    logFile,
    env: {
      HINGE_PLANT_BLOCK: String(block),
      HINGE_PLANT_KEYS: keysFile,
      HINGE_PLANT_VISITORS: visitors ? 'yes' : 'no',
      ...(devices === null ? {} : { HINGE_PLANT_DEVICES: String(devices) }),
    },
  });
}

export const standInsFolder = (dataFolder) => join(dataFolder, 'stand-ins');

/** What opens the key of the made-up plant’s authority: the product never keeps it. */
export const authorityPassphrase = (dataFolder) =>
  JSON.parse(readFileSync(join(standInsFolder(dataFolder), 'secrets.json'), 'utf8')).passphrase;

/** Seeds an empty installation with the made-up plant. */
export const takeOver = (environment, dataFolder) =>
  runOwn(setupScript('take-over'), [join(standInsFolder(dataFolder), 'handover.json')], { env: environment });

/** The demo’s sign-in: made at the first start, kept readable for its owner alone. */
export async function demoSignIn(environment, dataFolder) {
  const file = join(dataFolder, 'sign-in.json');
  if (existsSync(file)) return JSON.parse(readFileSync(file, 'utf8'));
  const signIn = { name: 'engineer', password: randomBytes(9).toString('base64url') };
  await putPerson(environment, signIn.name, 'administrator', signIn.password);
  writeFileSync(file, JSON.stringify(signIn), { mode: 0o600 });
  return signIn;
}

export const putPerson = (environment, name, role, password) =>
  runOwn(setupScript('put-person'), [name, role], { env: environment, input: password });
