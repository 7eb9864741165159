import { join } from 'node:path';
import { root } from './places.mjs';

const server = join(root, 'server', 'dist');
const tool = join(root, 'cli', 'dist');
const serverPrograms = [
  'main.js',
  'worker.js',
  'run-probe.js',
  'setup/anybody.js',
  'setup/put-person.js',
  'setup/prepare-database.js',
  'setup/made-up-plant/take-over.js',
];

/** Packages that read files of their own, found by where they are. */
const withFiles = ['pdfmake'];

/** What packages of the older kind expect around them. */
const olderModules = `
import { createRequire as makeRequire } from 'node:module';
import { dirname as folderOf } from 'node:path';
import { fileURLToPath as pathOf } from 'node:url';
const require = makeRequire(import.meta.url);
const __filename = pathOf(import.meta.url);
const __dirname = folderOf(__filename);`;

/** On Node 20 the UA library makes a key of 4096 bits at every start, only to warn where RSA PKCS#1 v1.5 was switched off. */
const withoutKeyTest = {
  name: 'without-key-test',
  setup(build) {
    build.onLoad({ filter: /verify_pcks1\.js$/ }, () => ({
      contents: 'exports.testRSAPKCS1V15_EncryptDecrypt = () => Promise.resolve();',
    }));
  },
};

/** Puts the programs of the server and the command line’s, each with what it imports, into a few files: they start in a third of the time. */
export async function bundlePrograms() {
  await Promise.all([bundle(server, serverPrograms), bundle(tool, ['main.js'])]);
}

async function bundle(built, programs) {
  const { build } = await import('esbuild');
  await build({
    entryPoints: programs.map((program) => join(built, program)),
    entryNames: '[name]',
    outdir: join(built, 'programs'),
    bundle: true,
    splitting: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    keepNames: true,
    banner: { js: olderModules },
    // Packages that others use where they are there, and those that stay where they are.
    external: ['pg-native', 'proper-lockfile', ...withFiles],
    plugins: [withoutKeyTest],
    logLevel: 'error',
  });
}
