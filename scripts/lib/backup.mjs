import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  createReadStream,
  existsSync,
  mkdirSync,
  openSync,
  closeSync,
  readFileSync,
  readdirSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { root } from './places.mjs';
import { giveUp } from './say.mjs';
import { unwrap, wrap } from './wrapped-key.mjs';

const format = 'loyal-hinge/backup';
const version = 1;
const copiesKept = 3;

/** Writes a backup into a new folder: the database as it is at this moment, and the sealing key under a passphrase. */
export async function writeBackup({ postgres, cluster, dataFolder, folder, passphrase }) {
  if (existsSync(folder)) giveUp(`${folder} exists already. Name a new folder for the backup.`);
  const making = `${folder}.making`;
  rmSync(making, { recursive: true, force: true });
  mkdirSync(making, { recursive: true, mode: 0o700 });
  try {
    const dump = join(making, 'database.dump');
    await dumpTo(postgres, cluster, dump);
    const keyFile = join(dataFolder, 'sealing-key');
    const about = {
      format,
      version,
      madeAt: new Date().toISOString(),
      databaseSha256: await digestOf(dump),
      sealingKey: existsSync(keyFile) ? wrap(readFileSync(keyFile, 'utf8'), passphrase) : null,
    };
    writeFileSync(join(making, 'backup.json'), JSON.stringify(about, null, 2), { mode: 0o600 });
    renameSync(making, folder);
  } finally {
    rmSync(making, { recursive: true, force: true });
  }
}

/** Looks at a backup before anything is changed: whether it is one, is whole, and opens with the passphrase. */
export async function openBackup(folder, passphrase) {
  const about = aboutIn(folder);
  if ((await digestOf(join(folder, 'database.dump'))) !== about.databaseSha256)
    giveUp(
      `${join(folder, 'database.dump')} is damaged: it is not the file that the backup was made with. Use another backup.`,
    );
  const sealingKey = about.sealingKey === null ? null : unwrap(about.sealingKey, passphrase);
  if (about.sealingKey !== null && sealingKey === null)
    giveUp('The passphrase does not open this backup. Nothing was restored.');
  return { sealingKey, dump: join(folder, 'database.dump'), madeAt: about.madeAt };
}

/** What a folder says of itself as a backup; it gives up where it is none. */
export function aboutIn(folder) {
  try {
    const about = JSON.parse(readFileSync(join(folder, 'backup.json'), 'utf8'));
    if (about.format !== format) throw new Error('another format');
    if (about.version > version)
      giveUp(`${folder} was made by a newer version of Loyal Hinge. Update first, then restore.`);
    return about;
  } catch (error) {
    if (error.constructor.name === 'GiveUp') throw error;
    return giveUp(`${folder} is no backup: it has no backup.json that can be read.`);
  }
}

/** Restores the database of an opened backup into a cluster that has none of our tables yet. */
export async function restoreInto({ postgres, cluster, dump }) {
  const child = spawn(
    join(postgres, 'pg_restore'),
    ['--no-owner', '--no-acl', '--exit-on-error', '--single-transaction', '-d', 'postgres'],
    {
      stdio: ['pipe', 'ignore', 'pipe'],
      cwd: '/',
      env: clientOf(cluster),
    },
  );
  await Promise.all([
    pipeline(createReadStream(dump), child.stdin).catch(() => undefined),
    succeeded(child, 'pg_restore'),
  ]);
}

/** Keeps a copy of the database from before its tables are changed by a new version; the oldest copies go. */
export async function copyBeforeMigration({ postgres, cluster, dataFolder, log }) {
  const [done, wanted] = [await migrationsIn(postgres, cluster), migrationsWanted()];
  if (done === 0 || done >= wanted) return;
  const folder = join(dataFolder, 'before-migration');
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const name = `${new Date().toISOString().replace(/[:.]/g, '-')}-after-${done}.dump`;
  log(`The tables of the database are brought up to date. A copy from before goes to ${join(folder, name)}.`);
  await dumpTo(postgres, cluster, join(folder, name));
  for (const old of readdirSync(folder).sort().slice(0, -copiesKept)) rmSync(join(folder, old));
}

const migrationsWanted = () =>
  JSON.parse(readFileSync(join(root, 'server', 'drizzle', 'meta', '_journal.json'), 'utf8')).entries.length;

async function migrationsIn(postgres, cluster) {
  const child = spawn(
    join(postgres, 'psql'),
    ['-X', '-At', '-c', 'select count(*) from drizzle.__drizzle_migrations'],
    {
      stdio: ['ignore', 'pipe', 'ignore'],
      cwd: '/',
      env: clientOf(cluster),
    },
  );
  let said = '';
  child.stdout.on('data', (chunk) => (said += chunk));
  await new Promise((resolve) => child.once('close', resolve));
  return Number(said.trim()) || 0;
}

/** Tells PostgreSQL’s own programs where the database is: a password among their arguments stood in every list of processes. */
function clientOf(cluster) {
  const { hostname, port, username, password, pathname } = new URL(cluster.url);
  const wanted = { PGHOST: hostname, PGPORT: port, PGUSER: username, PGPASSWORD: password };
  return { ...process.env, ...wanted, PGDATABASE: pathname.slice(1) };
}

async function dumpTo(postgres, cluster, file) {
  const out = openSync(file, 'wx', 0o600);
  try {
    await succeeded(
      spawn(join(postgres, 'pg_dump'), ['--format=custom', '--no-owner'], {
        stdio: ['ignore', out, 'pipe'],
        cwd: '/',
        env: clientOf(cluster),
      }),
      'pg_dump',
    );
  } catch (error) {
    rmSync(file, { force: true });
    throw error;
  } finally {
    closeSync(out);
  }
}

function succeeded(child, name) {
  let said = '';
  child.stderr.on('data', (chunk) => (said += chunk));
  return new Promise((resolve, reject) => {
    child.once('error', reject);
    child.once('close', (code) =>
      code === 0
        ? resolve()
        : reject(
            Object.assign(new Error(`${name} failed`), {
              said: said.replaceAll(/postgresql:\/\/\S+/g, 'the database'),
            }),
          ),
    );
  });
}

async function digestOf(file) {
  const hash = createHash('sha256');
  if (!existsSync(file)) giveUp(`${file} is missing, so this backup is not whole. Use another one.`);
  await pipeline(createReadStream(file), hash);
  return hash.digest('hex');
}
