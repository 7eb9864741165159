#!/usr/bin/env node
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const main = new URL('../dist/main.js', import.meta.url);
if (existsSync(fileURLToPath(main))) {
  const { runGateway } = await import(main.href);
  const code = await runGateway(
    process.argv.slice(2),
    (line) => process.stdout.write(`${line}\n`),
    (line) => process.stderr.write(`${line}\n`),
  );
  process.exit(code);
} else {
  process.stderr.write('The gateway is not built yet. Run “npm run build” (or “npm run demo” once), then try again.\n');
  process.exitCode = 2;
}
