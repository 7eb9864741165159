import { generateKeyPair, randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { startCluster } from './cluster.mjs';
import { putPerson, standInsFolder, startStandIns, takeOver } from './demo-plant.mjs';
import { prepareDatabase } from './prepare-database.mjs';
import { serverEnvironment, startHinge } from './serve.mjs';

/** The first block of addresses that tests use: the demo’s own may be in use beside them. */
const firstBlock = 42;

/** What is written is left to the system’s cache: these data need to outlive any process, never the machine, nor to be tidied up. */
const hasty = '-c fsync=off -c full_page_writes=off -c autovacuum=off';

/** As many as the made-up plant has applications; a plant that needs more makes them itself. */
const keyCount = 26;

/** Makes the keys that all test plants share: making them is a third of a plant’s start. */
export async function makePlantKeys(dataFolder) {
  mkdirSync(dataFolder, { recursive: true });
  const file = join(dataFolder, 'plant-keys.pem');
  const format = { modulusLength: 2048, privateKeyEncoding: { type: 'pkcs8', format: 'pem' } };
  const pairs = await Promise.all(Array.from({ length: keyCount }, () => promisify(generateKeyPair)('rsa', format)));
  writeFileSync(file, pairs.map(({ privateKey }) => privateKey).join(''), { mode: 0o600 });
  return file;
}

/** Thrown away again, a plant has no time for a hundred thousand nodes. */
const fewDevices = 20;

/**
 * Starts a fresh database, a made-up plant and a server, which stand beside others of their kind.
 * @param shared.keys resolves to the file of the keys that all plants share
 * @param shared.page resolves when the page is built: a server looks at its files as it starts
 * @param add takes what is to be stopped at the end
 * @returns the environment that tells a test where they are
 */
export async function startTestPlant(postgres, dataFolder, number, shared, add) {
  const folder = join(dataFolder, `plant-${number}`);
  await clearAway(postgres, folder);
  const [cluster, standIns] = await Promise.all([
    startCluster(postgres, folder, undefined, hasty),
    shared.keys.then((keys) => startStandIns(folder, firstBlock + number, keys, fewDevices)),
  ]);
  add(cluster.stop);
  add(standIns.stop);
  const environmentOf = (database) => serverEnvironment(urlOf(cluster.serverUrl, database), folder);
  const password = randomBytes(12).toString('base64url');
  // Seeded once: the plant’s own database and those of single tests are copies.
  await onCluster(cluster, 'create database seeded');
  await prepareDatabase(cluster, 'seeded');
  await takeOver(environmentOf('seeded'), folder);
  for (const name of ['engineer', 'viewer', 'approver', 'administrator'])
    await putPerson(environmentOf('seeded'), name, name, password);
  await onCluster(cluster, 'create database plant template seeded strategy file_copy');
  await shared.page;
  const server = await startHinge(environmentOf('plant'), folder, 0);
  add(server.stop);
  return {
    HINGE_TEST_URL: server.url,
    HINGE_TEST_PASSWORD: password,
    HINGE_TEST_DATABASE_URL: urlOf(cluster.url, 'plant'),
    HINGE_TEST_SERVER_DATABASE_URL: urlOf(cluster.serverUrl, 'plant'),
    HINGE_TEST_DATA: folder,
    HINGE_TEST_HANDOVER: join(standInsFolder(folder), 'handover.json'),
  };
}

const urlOf = (url, database) => Object.assign(new URL(url), { pathname: database }).href;

async function onCluster(cluster, statement) {
  const { default: pg } = await import('pg');
  const client = new pg.Client({ connectionString: cluster.url });
  await client.connect();
  await client.query(statement).finally(() => client.end());
}

/** What a run that was cut off has left, a running database among it. */
async function clearAway(postgres, folder) {
  const old = existsSync(join(folder, 'database.json')) ? await startCluster(postgres, folder).catch(() => null) : null;
  await old?.stop();
  if (old) rmSync(old.folder, { recursive: true, force: true });
  rmSync(folder, { recursive: true, force: true });
}
