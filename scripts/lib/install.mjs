import { createHash } from 'node:crypto';
import { existsSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './places.mjs';
import { run } from './run.mjs';
import { giveUp, say } from './say.mjs';

const digest = (text) => createHash('sha256').update(text).digest('hex');

/** Installs the packages that package-lock.json names, where that was not done yet. */
export async function ensurePackages() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major !== 20 || minor < 19) giveUp(`Node 20.19 or a later 20 is needed; this is ${process.versions.node}.`);
  const stamp = join(root, 'node_modules', '.installed-lock');
  const wanted = digest(readFileSync(join(root, 'package-lock.json')));
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return;
  say('Installing packages (npm ci) …');
  await run('npm', ['ci', '--no-audit', '--no-fund'], { cwd: root, quiet: true });
  writeFileSync(stamp, wanted);
}

/** The folder of PostgreSQL’s programs; installs Debian’s package where that is possible. */
export async function ensurePostgres() {
  const found = postgresFolder();
  if (found) return found;
  if (process.getuid?.() !== 0 || !existsSync('/usr/bin/apt-get'))
    giveUp('PostgreSQL is missing. Run “sudo apt-get install postgresql” once, then start again.');
  say('Installing Debian’s PostgreSQL …');
  await aptInstall(['postgresql']);
  return postgresFolder() ?? giveUp('PostgreSQL was installed and can’t be found below /usr/lib/postgresql.');
}

function postgresFolder() {
  const base = '/usr/lib/postgresql';
  const versions = existsSync(base)
    ? readdirSync(base)
        .map(Number)
        .filter((version) => version >= 15)
    : [];
  const newest = Math.max(...versions);
  const folder = join(base, String(newest), 'bin');
  return versions.length > 0 && existsSync(join(folder, 'initdb')) ? folder : null;
}

/** Debian’s Chromium, for the browser tests. */
export async function ensureChromium() {
  const place = '/usr/bin/chromium';
  if (existsSync(place)) return place;
  if (process.getuid?.() !== 0 || !existsSync('/usr/bin/apt-get'))
    giveUp('Chromium is missing. Run “sudo apt-get install chromium” once, then start again.');
  say('Installing Debian’s Chromium …');
  await aptInstall(['chromium']);
  return place;
}

async function aptInstall(packages) {
  const env = { DEBIAN_FRONTEND: 'noninteractive' };
  await run('apt-get', ['update', '-q'], { quiet: true, env });
  await run('apt-get', ['install', '-y', '-q', '--no-install-recommends', ...packages], { quiet: true, env });
}
