import { readFile } from 'node:fs/promises';
import { createServer } from 'node:http';
import { dirname, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { readConfiguration } from './configuration.js';
import { passwordLine } from './passwords.js';
import { startGateway } from './run.js';

const usage = `gateway.mjs FILE [--statistics PORT]   runs a gateway as its file says, until it is stopped
gateway.mjs password                   makes the line of a password, which is read from standard input
  --statistics PORT                    tells its statistics as JSON at this port of 127.0.0.1`;

/**
 * Runs a gateway until it is told to stop.
 * @returns exit code: 0 it was stopped, 2 it could not run
 */
export async function runGateway(
  args: readonly string[],
  say: (line: string) => void,
  fail: (line: string) => void,
): Promise<number> {
  try {
    const { values, positionals } = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: { statistics: { type: 'string' }, help: { type: 'boolean', default: false } },
    });
    const [file, ...more] = positionals;
    if (values.help || file === undefined || more.length > 0) {
      (values.help ? say : fail)(usage);
      return values.help ? 0 : 2;
    }
    if (file === 'password') {
      say(passwordLine((await givenPassword()).trimEnd()));
      return 0;
    }
    const port = values.statistics === undefined ? null : Number(values.statistics);
    if (port !== null && !(Number.isInteger(port) && port > 0 && port < 65_536))
      throw new Error('--statistics wants a port.');
    const text = await readFile(file, 'utf8').catch(() => {
      throw new Error(`${file} can’t be read.`);
    });
    const read = readConfiguration(text);
    if (!read.ok) throw new Error(`${file}: ${read.says}`);
    const running = await startGateway(read.configuration, dirname(resolve(file)), (says) =>
      say(`${new Date().toISOString()} ${says}`),
    );
    const told = createServer((_, response) => {
      response.setHeader('content-type', 'application/json');
      response.end(JSON.stringify(running.gateway.statistics));
    });
    told.on('error', () => fail(`Port ${port} is taken: its statistics are told nowhere.`));
    if (port !== null) told.listen(port, '127.0.0.1');
    say(
      `${read.configuration.name} is ready${running.ports.length === 0 ? '' : ` at port ${running.ports.join(', ')}`}.`,
    );
    await new Promise<void>((done) => {
      process.once('SIGTERM', done);
      process.once('SIGINT', done);
    });
    told.close();
    await running.stop();
    return 0;
  } catch (error) {
    fail(error instanceof Error ? error.message : String(error));
    return 2;
  }
}

async function givenPassword(): Promise<string> {
  let text = '';
  for await (const part of process.stdin) {
    text += String(part);
    if (text.length > 10_000) throw new Error('What came on standard input is too long.');
  }
  if (text.trim() === '') throw new Error('No password came on standard input.');
  return text;
}
