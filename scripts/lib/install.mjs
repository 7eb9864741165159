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

/**
 * The folder of PostgreSQL’s programs, of the version that made the data where there are some.
 * @param mayInstall whether Debian’s package may be installed where it is missing: asked for only by root
 */
export async function ensurePostgres(dataFolder, mayInstall = () => true) {
  const found = postgresFolder(dataFolder);
  if (found) return found;
  if (!canInstall()) giveUp('PostgreSQL is missing. Run “sudo apt-get install postgresql” once, then start again.');
  if (!(await mayInstall()))
    giveUp('PostgreSQL is missing. Start again with “--install”, or run “apt-get install postgresql” yourself.');
  say('Installing Debian’s PostgreSQL …');
  await aptInstall(['postgresql']);
  return postgresFolder(dataFolder) ?? giveUp('PostgreSQL was installed and can’t be found below /usr/lib/postgresql.');
}

const canInstall = () => process.getuid?.() === 0 && existsSync('/usr/bin/apt-get');

function postgresFolder(dataFolder) {
  const base = '/usr/lib/postgresql';
  const programs = (version) => join(base, String(version), 'bin');
  const versions = (existsSync(base) ? readdirSync(base) : [])
    .map(Number)
    .filter((version) => version >= 15 && existsSync(join(programs(version), 'initdb')));
  const made = dataFolder === undefined ? null : versionOf(join(dataFolder, 'cluster'));
  if (made === null) return versions.length > 0 ? programs(Math.max(...versions)) : null;
  if (versions.length > 0 && !versions.includes(made))
    giveUp(
      `The data in ${dataFolder} were made by PostgreSQL ${made}, which is not installed; ${versions.join(' and ')} can’t read them. Install postgresql-${made}, or restore a backup into a new folder.`,
    );
  return versions.includes(made) ? programs(made) : null;
}

/** The version of PostgreSQL that made a cluster; null where there is none. */
function versionOf(folder) {
  const file = join(folder, 'PG_VERSION');
  return existsSync(file) ? Number(readFileSync(file, 'utf8')) : null;
}

/** Debian’s Chromium, for the browser tests. */
export async function ensureChromium() {
  const place = '/usr/bin/chromium';
  if (existsSync(place)) return place;
  if (!canInstall()) giveUp('Chromium is missing. Run “sudo apt-get install chromium” once, then start again.');
  say('Installing Debian’s Chromium …');
  await aptInstall(['chromium']);
  return place;
}

/**
 * An independent speaker of RPC, NTLM and DCOM, Debian’s python3-impacket, with which tests try our own. Where it can’t be
 * installed those tests are left out, and this says so.
 */
export async function ensureIndependentSpeaker() {
  const place = '/usr/lib/python3/dist-packages/impacket';
  if (existsSync(place)) return;
  if (!canInstall())
    return say(
      'Tests with an independent speaker of DCOM are left out: “sudo apt-get install python3-impacket” brings it.',
    );
  say('Installing Debian’s python3-impacket …');
  await aptInstall(['python3-impacket']);
}

/**
 * The kernel’s own firewall and what sets it up, with which tests try what is reckoned from rules. Where it can’t be installed
 * those tests are left out, and this says so.
 */
export async function ensureKernelFirewall() {
  if (['nft', 'iptables-save', 'ip'].every((name) => existsSync(`/usr/sbin/${name}`) || existsSync(`/bin/${name}`))) {
    if (process.getuid?.() !== 0) say('Tests with the kernel’s own firewall are left out: they need root.');
    return;
  }
  if (!canInstall())
    return say(
      'Tests with the kernel’s own firewall are left out: they need root, and “apt-get install nftables iptables iproute2”.',
    );
  say('Installing Debian’s nftables and iptables …');
  await aptInstall(['nftables', 'iptables', 'iproute2', 'python3-minimal']);
}

async function aptInstall(packages) {
  const env = { DEBIAN_FRONTEND: 'noninteractive' };
  // The machine may be updating itself just now.
  const patient = ['-q', '-o', 'DPkg::Lock::Timeout=300'];
  await run('apt-get', ['update', ...patient], { quiet: true, env });
  await run('apt-get', ['install', '-y', '--no-install-recommends', ...patient, ...packages], { quiet: true, env });
}
