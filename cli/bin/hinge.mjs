#!/usr/bin/env node
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

// Whoever reads only the beginning, such as “head”, closes the pipe: that is no failure.
process.stdout.on('error', (error) => {
  if (error.code !== 'EPIPE') throw error;
  process.exit();
});

const main = new URL('../dist/programs/main.js', import.meta.url);
const [command, ...rest] = process.argv.slice(2);
// A probe walks links with the server’s own code, and is one of its programs.
const probe = new URL('../../server/dist/programs/run-probe.js', import.meta.url);
if (command === 'probe' && existsSync(fileURLToPath(probe))) {
  const { runProbe } = await import(probe.href);
  const code = await runProbe(
    rest,
    (line) => process.stdout.write(`${line}\n`),
    (line) => process.stderr.write(`${line}\n`),
  );
  process.exit(code);
} else if (command !== 'probe' && existsSync(fileURLToPath(main))) {
  const { hinge } = await import(main.href);
  process.exitCode = await hinge(process.argv.slice(2), process.stdout, process.stderr);
} else {
  process.stderr.write('hinge is not built yet. Run “npm run build” (or “npm run demo” once), then try again.\n');
  process.exitCode = 2;
}
