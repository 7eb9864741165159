import { generateKeyPair, randomBytes, scryptSync } from 'node:crypto';
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
  await putPerson(environmentOf('seeded'), 'administrator', 'administrator', password);
  await addPeople(urlOf(cluster.url, 'seeded'), ['engineer', 'viewer', 'approver'], password);
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

/**
 * Adds people beside the administrator, each with the role of that name. All have one password, whose hash costs
 * little: they sign in hundreds of times, and what a password’s own cost is good for is tried where passwords are.
 */
async function addPeople(databaseUrl, roles, password) {
  const salt = randomBytes(16);
  const key = scryptSync(password, salt, 32, { N: 2 ** 4, r: 8, p: 1 });
  const hash = `$scrypt$ln=4,r=8,p=1$${salt.toString('base64')}$${key.toString('base64')}`;
  await onDatabase(databaseUrl, async (client) => {
    await client.query('update people set password_hash = $1', [hash]);
    await client.query(
      'insert into people (name, role, password_hash) select role, role, $1 from unnest($2::text[]) role',
      [hash, roles],
    );
  });
}

const urlOf = (url, database) => Object.assign(new URL(url), { pathname: database }).href;

const onCluster = (cluster, statement) => onDatabase(cluster.url, (client) => client.query(statement));

async function onDatabase(url, run) {
  const { default: pg } = await import('pg');
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    await run(client);
  } finally {
    await client.end();
  }
}

/** What a run that was cut off has left, a running database among it. */
async function clearAway(postgres, folder) {
  const old = existsSync(join(folder, 'database.json')) ? await startCluster(postgres, folder).catch(() => null) : null;
  await old?.stop();
  if (old) rmSync(old.folder, { recursive: true, force: true });
  rmSync(folder, { recursive: true, force: true });
}
