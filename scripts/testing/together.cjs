/**
 * Tests of many files as one: what they need is loaded once, where Jest loads it anew for each file, which takes many of
 * them longer than their tests. The report names this file, the stack names the test’s own. A file that is named
 * `2-of-8.cjs` and asks for this one has every eighth of them, from the second on.
 */
const { readdirSync } = require('node:fs');
const { join } = require('node:path');
const placeOf = require('./longest.cjs');

const root = join(__dirname, '..', '..');
const [, part = '1', parts = '1'] = /(\d+)-of-(\d+)\.cjs$/.exec(expect.getState().testPath) ?? [];
const files = globalThis.foldersOfTests.flatMap((folder) =>
  readdirSync(join(root, folder), { recursive: true })
    .filter((path) => path.endsWith(globalThis.endOfTests))
    .sort()
    .map((path) => `${folder}/${path}`),
);
// Each part has one of those that take longest, if there are as many.
files
  .sort((one, other) => placeOf(one) - placeOf(other))
  .filter((_, index) => index % Number(parts) === Number(part) - 1)
  .forEach((file) => describe(file, () => void require(join(root, file))));
