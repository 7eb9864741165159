/**
 * All tests of a project in one file: what they need is loaded once, where Jest loads it anew for each file, which
 * takes pages longer than their tests. The report names this file, the stack names the test's own.
 */
const { readdirSync } = require('node:fs');
const { join } = require('node:path');

const root = join(__dirname, '..', '..');
for (const folder of globalThis.foldersOfTests)
  for (const path of readdirSync(join(root, folder), { recursive: true }).sort())
    if (path.endsWith('.spec.ts')) describe(`${folder}/${path}`, () => void require(join(root, folder, path)));
