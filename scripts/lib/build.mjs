import { createHash } from 'node:crypto';
import { existsSync, readFileSync, readdirSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { promisify } from 'node:util';
import { brotliCompress, constants, gzip } from 'node:zlib';
import { bundlePrograms } from './bundle.mjs';
import { root, tscMain, webFolder } from './places.mjs';
import { roomy, run } from './run.mjs';
import { say } from './say.mjs';

const packages = ['core', 'contract', 'classic', 'field', 'outpost', 'tunnel', 'gateway', 'cli', 'server', 'stand-ins'];
const passedOver = new Set(['node_modules', 'dist', '.angular']);

/** Builds what has changed since the last build. */
export async function ensureBuild({ web = true } = {}) {
  const programs = stampOf(packages);
  if (!isBuilt('programs', programs, 'server/dist/programs/main.js')) {
    say('Building the programs …');
    await run(process.execPath, [tscMain, '-b', '--checkers', '1'], { cwd: root, quiet: true });
    await bundlePrograms();
    mark('programs', programs);
  }
  if (!web) return;
  const page = stampOf(['core', 'contract', 'web']);
  if (isBuilt('web', page, join('web', 'dist', 'browser', 'index.html'))) return;
  say('Building the web application …');
  // Put in its place when it is whole: a server that starts meanwhile looks at what is there.
  const making = join(root, 'web', 'dist', 'making');
  await run('npm', ['run', 'build', '-w', 'web', '--', '--output-path', making], {
    cwd: root,
    quiet: true,
    env: { ...roomy, NG_CLI_ANALYTICS: 'false' },
  });
  const made = join(making, basename(webFolder));
  if (!existsSync(made)) throw new Error('the web application was built to an unexpected folder');
  await pack(made);
  rmSync(webFolder, { recursive: true, force: true });
  renameSync(made, webFolder);
  rmSync(making, { recursive: true, force: true });
  mark('web', page);
}

/** Packs what the browser asks for once and for all, so that no request waits for it. */
async function pack(folder) {
  const worthPacking = filesIn(folder).filter((path) => /\.(js|css|html|svg)$/.test(path));
  await Promise.all(
    worthPacking.map(async (path) => {
      const bytes = readFileSync(path);
      writeFileSync(`${path}.br`, await packBrotli(bytes, { params: { [constants.BROTLI_PARAM_QUALITY]: 10 } }));
      writeFileSync(`${path}.gz`, await packGzip(bytes, { level: 9 }));
    }),
  );
}

const packBrotli = promisify(brotliCompress);
const packGzip = promisify(gzip);

const stampFile = (name) => join(root, 'node_modules', `.built-${name}`);
const isBuilt = (name, stamp, result) =>
  existsSync(join(root, result)) && existsSync(stampFile(name)) && readFileSync(stampFile(name), 'utf8') === stamp;
const mark = (name, stamp) => writeFileSync(stampFile(name), stamp);

function stampOf(folders) {
  const hash = createHash('sha256').update(readFileSync(join(root, 'package-lock.json')));
  for (const folder of folders)
    for (const file of filesIn(join(root, folder))) hash.update(file).update(readFileSync(file));
  return hash.digest('hex');
}

function filesIn(folder) {
  return readdirSync(folder)
    .filter((name) => !passedOver.has(name))
    .sort()
    .flatMap((name) => {
      const path = join(folder, name);
      return statSync(path).isDirectory() ? filesIn(path) : [path];
    });
}
