import { execFileSync, spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { X509Certificate } from 'node:crypto';
import { once } from 'node:events';
import {
  chmodSync,
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { createServer } from 'node:net';
import type { AddressInfo, Server } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { connect } from 'node:tls';
import { signIn } from '../server/src/testing/calls.js';
import { addViewer } from './testing/add-viewer.js';
import { mayMount } from './testing/may-mount.js';
import { until } from '../server/src/testing/until.js';

const password = 'a long enough password';
const withPassword = { HINGE_FIRST_PASSWORD: password };
/** What only root can arrange: other users, disks of its own, programs that are hidden. */
const asRoot = mayMount ? it : it.skip;

let folder = '';
/** Data of an installation that was started once, and stopped. */
let usedOnce = '';
const started: ChildProcess[] = [];

const freshFolder = (): string => {
  const made = mkdtempSync(join(tmpdir(), 'hinge-start-'));
  chmodSync(made, 0o755);
  return made;
};

beforeAll(async () => {
  usedOnce = folder = freshFolder();
  const first = start({ env: withPassword });
  await first.url;
  await stop(first);
});
afterAll(() => rmSync(usedOnce, { recursive: true, force: true }));
beforeEach(() => {
  folder = freshFolder();
});
afterEach(async () => {
  for (const child of started.splice(0)) await end(child);
  rmSync(folder, { recursive: true, force: true });
});

interface Start {
  readonly child: ChildProcess;
  readonly said: () => string;
  /** Its address, once it is ready; it fails where it ends before. */
  readonly url: Promise<string>;
  /** Its exit status. */
  readonly ended: Promise<number | null>;
}

interface Wish {
  readonly args?: readonly string[];
  readonly env?: Readonly<Record<string, string>>;
  /** Shell words that run before it in a mount namespace of its own. */
  readonly arranged?: string;
  readonly as?: string;
  readonly inTerminal?: boolean;
}

const quoted = (words: readonly string[]): string => words.map((word) => `'${word}'`).join(' ');

function start({ args = [], env = {}, arranged, as, inTerminal }: Wish = {}): Start {
  const words = [process.execPath, join(process.cwd(), 'scripts/start.mjs'), '--data', join(folder, 'data'), ...args];
  const user = as === undefined ? words : ['setpriv', `--reuid=${as}`, `--regid=${as}`, '--clear-groups', ...words];
  const command = inTerminal
    ? ['script', '-qefc', quoted(user), '/dev/null']
    : arranged === undefined
      ? user
      : ['unshare', '-m', 'sh', '-c', `${arranged} && exec ${quoted(user)}`];
  const [program = '', ...rest] = command;
  const { HINGE_FIRST_PASSWORD: _, ...inherited } = process.env;
  const child = spawn(program, rest, { env: { ...inherited, ...env }, stdio: ['pipe', 'pipe', 'pipe'] });
  started.push(child);
  let said = '';
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk) => (said += String(chunk)));
  const ended = once(child, 'close').then(([code]) => code as number | null);
  const url = new Promise<string>((resolve, reject) => {
    child.stdout.on('data', () => {
      const found = /ready at (https?:\S+)/.exec(said)?.[1];
      if (found) resolve(found);
    });
    void ended.then(() => reject(new Error(said)));
  });
  url.catch(() => undefined);
  return { child, said: () => said, url, ended };
}

async function end(child: ChildProcess): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return;
  const gone = once(child, 'exit');
  child.kill('SIGINT');
  await gone;
}

const stop = async ({ child, ended }: Start): Promise<number | null> => {
  child.kill('SIGINT');
  return ended;
};

/** The data of this test are of an installation that was used before. */
const useAgain = (): Buffer => execFileSync('cp', ['-a', join(usedOnce, 'data'), folder]);

/** It does not start, and says why in one sentence or two: never a stack. */
async function refusal(wish: Wish): Promise<string> {
  const { ended, said } = start(wish);
  expect(await ended).toBe(1);
  expect(said()).not.toMatch(/^\s+at |Error:|node:internal/m);
  return said();
}

const health = (url: string): Promise<{ status: string }> =>
  fetch(`${url}/api/health`).then(
    (answer) => answer.json() as Promise<{ status: string }>,
    () => ({ status: 'away' }),
  );
const isWell = ({ status }: { status: string }): boolean => status === 'well';
const dataFile = (name: string): string => join(folder, 'data', name);
const postmaster = (): number => Number(readFileSync(dataFile('cluster/postmaster.pid'), 'utf8').split('\n')[0]);

const keepPort = (port: number): void => writeFileSync(dataFile('port.json'), JSON.stringify({ port }));

/** Another program on this machine, on a free port where none is named. */
async function listening(wanted = 0): Promise<readonly [Server, number]> {
  const server = createServer().listen(wanted, '127.0.0.1');
  await once(server, 'listening');
  return [server, (server.address() as AddressInfo).port];
}

/** A process of the database’s name that has ended, and whose parent has not heard of it: it keeps its number. */
async function deadPostgres(): Promise<number> {
  const program = join(folder, 'postgres');
  copyFileSync('/bin/sleep', program);
  const parent = spawn('sh', ['-c', '"$0" 600 & echo $!; exec sleep 600', program], {
    stdio: ['ignore', 'pipe', 'ignore'],
  });
  started.push(parent);
  const [told] = (await once(parent.stdout, 'data')) as [Buffer];
  const pid = Number(told);
  const named = (process: number, wanted: string): Promise<string> =>
    until(
      async () => readFileSync(`/proc/${process}/comm`, 'utf8').trim(),
      (name) => name === wanted,
    );
  // A process is its parent’s twin until it has become the program; and the shell would hear of its end, where the program
  // that takes its place does not.
  await named(pid, 'postgres');
  await named(parent.pid ?? 0, 'sleep');
  process.kill(pid, 'SIGKILL');
  await until(
    async () => readFileSync(`/proc/${pid}/stat`, 'utf8'),
    (stat) => stat.startsWith(`${pid} (postgres) Z`),
  );
  return pid;
}

/** The process of the server that was started last. */
function serverNow(): number {
  const lines = readFileSync(dataFile('server.log'), 'utf8').trim().split('\n');
  return (JSON.parse(lines.at(-1) ?? '') as { pid: number }).pid;
}

describe('npm start on one’s own data', () => {
  it('starts with a password from the environment, stops, and starts again without one', async () => {
    const first = start({ env: withPassword });
    const url = await first.url;
    const me = await signIn('administrator', url, password);
    expect(await me.call('whoAmI')).toMatchObject({ name: 'administrator', role: 'administrator' });
    expect(first.said()).not.toContain(password);
    expect(await stop(first)).toBe(0);
    expect([existsSync(dataFile('running.json')), existsSync(dataFile('cluster/postmaster.pid'))]).toEqual([
      false,
      false,
    ]);

    const second = start();
    const again = await second.url;
    expect((await (await signIn('administrator', again, password)).call('whoAmI')).name).toBe('administrator');
    expect(await refusal({})).toContain(`One is running already, at ${again}`);
    expect(isWell(await health(again))).toBe(true);
  });

  it('serves over TLS where that is wished, and tells how its certificate is known', async () => {
    useAgain();
    const secure = start({ env: { HINGE_TLS: 'yes' } });
    const url = await secure.url;
    expect(url).toMatch(/^https:/);
    const certificate = new X509Certificate(readFileSync(dataFile('tls/certificate.pem')));
    await until(
      async () => secure.said(),
      (said) => said.includes(certificate.fingerprint256),
    );
    const shown = await new Promise<string>((resolve, reject) => {
      const { hostname, port } = new URL(url);
      const socket = connect({ host: hostname, port: Number(port), rejectUnauthorized: false }, () => {
        resolve(socket.getPeerCertificate().fingerprint256);
        socket.destroy();
      });
      socket.on('error', reject);
    });
    expect(shown).toBe(certificate.fingerprint256);
  });

  it('takes the first password from the terminal, without showing it', async () => {
    const { child, said, url } = start({ inTerminal: true });
    await until(
      async () => said(),
      (text) => text.includes('Password: '),
    );
    child.stdin?.write('short\r');
    await until(
      async () => said(),
      (text) => text.includes('too short'),
    );
    await until(
      async () => said(),
      (text) => text.lastIndexOf('Password: ') > text.indexOf('too short'),
    );
    child.stdin?.write(`${password}\r`);
    expect((await (await signIn('administrator', await url, password)).call('whoAmI')).name).toBe('administrator');
    expect(said()).not.toContain(password);
    child.stdin?.write('\x03');
    await once(child, 'close');
    expect(existsSync(dataFile('cluster/postmaster.pid'))).toBe(false);
  });

  it('wants a first password that is long enough, and says so where nobody can be asked', async () => {
    expect(await refusal({ env: { HINGE_FIRST_PASSWORD: 'short' } })).toMatch(
      /The password of “administrator” needs at least 10 letters; HINGE_FIRST_PASSWORD has fewer/,
    );
    const { child, ended, said } = start();
    child.stdin?.end();
    expect(await ended).toBe(1);
    expect(said()).toContain('Start again in a terminal, or set HINGE_FIRST_PASSWORD.');
  });

  it('starts after a power cut, whatever that left of its files', async () => {
    useAgain();
    const first = start();
    await first.url;
    const database = postmaster();
    first.child.kill('SIGKILL');
    process.kill(database, 'SIGKILL');
    await first.ended;
    const dead = await deadPostgres();
    for (const [running, pidFile] of [
      ['', ''],
      ['{"pid": 1', `${process.pid}\n`],
      [JSON.stringify({ pid: process.pid, url: 'http://127.0.0.1:1' }), null],
      ['', `${dead}\n`],
    ] as const) {
      writeFileSync(dataFile('running.json'), running);
      if (pidFile !== null) writeFileSync(dataFile('cluster/postmaster.pid'), pidFile);
      const again = start();
      expect(isWell(await health(await again.url))).toBe(true);
      expect(await stop(again)).toBe(0);
    }
  });

  it('says which port it uses where its own is taken, and stays with that one', async () => {
    const [other, port] = await listening();
    useAgain();
    keepPort(port);
    const first = start();
    const url = await first.url;
    const instead = Number(new URL(url).port);
    expect(first.said()).toContain(
      `Port ${port} is taken by another program. Port ${instead} is used instead, from now on.`,
    );
    await stop(first);
    const second = start();
    expect(await second.url).toBe(url);
    expect(second.said()).not.toContain('is taken');
    await stop(second);
    expect(await refusal({ env: { HINGE_PORT: String(port) } })).toContain(`Port ${port} is taken by another program`);
    expect(await refusal({ env: { HINGE_PORT: 'http' } })).toContain('a number from 1 to 65535');
    other.close();
  });

  it('takes another port where somebody else takes its own while it starts', async () => {
    const [before, port] = await listening();
    before.close();
    mkdirSync(join(folder, 'data'));
    keepPort(port);
    const { url, said } = start({ env: withPassword });
    // It has looked at its port by now, and makes its database.
    await until(async () => existsSync(dataFile('database.json')), Boolean);
    const [other] = await listening(port);
    expect(isWell(await health(await url))).toBe(true);
    expect(said()).toContain(`Port ${port} is taken by another program.`);
    other.close();
  });

  it('starts again what died under it, and says so in its log', async () => {
    useAgain();
    const url = await start().url;
    process.kill(postmaster(), 'SIGKILL');
    await until(
      () => health(url),
      (seen) => !isWell(seen),
    );
    await until(() => health(url), isWell);
    const log = (): string => readFileSync(dataFile('start.log'), 'utf8');
    await until(
      async () => log(),
      (text) => /The database ended .* is started again in 1 s[\s\S]*The database runs again/.test(text),
    );
    process.kill(serverNow(), 'SIGKILL');
    await until(
      async () => log(),
      (text) => text.includes('The server runs again'),
    );
    expect(isWell(await health(url))).toBe(true);
    expect((await (await signIn('administrator', url, password)).call('whoAmI')).name).toBe('administrator');
  });

  it('does not replace a lost sealing key: it names what can’t be opened, and forgets it only when told to', async () => {
    useAgain();
    const first = start();
    const me = await signIn('administrator', await first.url, password);
    await addViewer(me);
    await stop(first);
    rmSync(dataFile('sealing-key'));
    expect(await refusal({})).toMatch(
      /The sealing key in \S+sealing-key is missing or damaged. Without it 2 secrets can’t be opened: key by which outposts know this server; key of viewer. Restore the key/,
    );
    writeFileSync(dataFile('sealing-key'), Buffer.alloc(32, 7).toString('base64'));
    expect(await refusal({})).toContain('is not the one that these data were sealed with');
    const last = start({ args: ['--forget-secrets'] });
    const url = await last.url;
    expect(isWell(await health(url))).toBe(true);

    // Told once: a server that is started again later forgets nothing of what came since.
    await addViewer(await signIn('administrator', url, password));
    const key = readFileSync(dataFile('sealing-key'));
    rmSync(dataFile('sealing-key'));
    process.kill(serverNow(), 'SIGKILL');
    await until(
      async () => (existsSync(dataFile('start.log')) ? readFileSync(dataFile('start.log'), 'utf8') : ''),
      (text) => text.includes('2 secrets can’t be opened: key by which outposts know this server; key of viewer'),
    );
    writeFileSync(dataFile('sealing-key'), key);
    await until(() => health(url), isWell);
  });

  it('tells which options there are where one is wrong', async () => {
    expect(await refusal({ args: ['--nonsense'] })).toContain('The options of this command are --data …, --install');
  });

  it('says that its folder is a file', async () => {
    writeFileSync(join(folder, 'data'), '');
    expect(await refusal({})).toMatch(/data is a file, and a folder is needed there/);
  });

  asRoot('says that its folder belongs to somebody else', async () => {
    expect(await refusal({ as: '65534' })).toMatch(/\/data belongs to somebody else and can’t be written/);
  });

  asRoot('says that its folder is read-only', async () => {
    mkdirSync(join(folder, 'data'));
    expect(await refusal({ arranged: `mount -o ro,bind ${folder} ${folder}` })).toMatch(
      /data\S* can’t be written: its file system is read-only/,
    );
  });

  asRoot('says that the disk is full, at the first start and at a later one', async () => {
    const small = (size: string): string =>
      `mkdir -p ${folder}/data && mount -t tmpfs -o mode=755,size=${size} none ${folder}/data`;
    expect(await refusal({ env: withPassword, arranged: small('8m') })).toMatch(/The disk.* is full. Free some space/);
    const filled = `dd if=/dev/zero of=${folder}/data/filling bs=64k status=none 2>/dev/null; rm -f ${folder}/data/running.json; true`;
    expect(await refusal({ arranged: `${small('1m')} && (${filled})` })).toMatch(/The disk.* is full. Free some space/);
  });

  asRoot('says that PostgreSQL is missing, and installs nothing unasked', async () => {
    const hidden = 'mount -t tmpfs none /usr/lib/postgresql';
    expect(await refusal({ arranged: hidden })).toMatch(/PostgreSQL is missing. Start again with “--install”/);
    rmSync(join(folder, 'data'), { recursive: true });
    chmodSync(folder, 0o777);
    expect(await refusal({ arranged: hidden, as: '65534' })).toMatch(/Run “sudo apt-get install postgresql” once/);
  });
});
