import { readFile } from 'node:fs/promises';
import { createServer } from 'node:http';
import { dirname, resolve } from 'node:path';
import { readConfiguration } from './configuration.js';
import { TunnelEnd } from './end.js';

/**
 * Runs one end of a tunnel until it is told to stop.
 * @returns exit code: 0 it was stopped, 2 it could not run
 */
export async function tunnel(
  args: readonly string[],
  say: (line: string) => void,
  fail: (line: string) => void,
): Promise<number> {
  const [file, ...more] = args;
  if (file === undefined || file === '--help' || more.length > 0) {
    fail('Give the file of this end’s configuration: tunnel.mjs FILE');
    return 2;
  }
  const text = await readFile(file, 'utf8').catch(() => null);
  if (text === null) {
    fail(`${file} can’t be read.`);
    return 2;
  }
  const read = readConfiguration(text);
  if (!read.ok) {
    fail(`${file}: ${read.says}`);
    return 2;
  }
  const { configuration } = read;
  try {
    const end = await TunnelEnd.start(configuration, dirname(resolve(file)), (says) =>
      say(`${new Date().toISOString()} ${says}`),
    );
    const told = createServer((_, response) => {
      response.setHeader('content-type', 'application/json');
      response.end(JSON.stringify(end.statistics));
    });
    if (configuration.statistics) told.listen(configuration.statistics.port, '127.0.0.1');
    say(`${configuration.name} is ready${end.port === null ? '' : ` at port ${end.port}`}.`);
    await new Promise<void>((done) => {
      process.once('SIGTERM', done);
      process.once('SIGINT', done);
    });
    say('Stopping: streams that are open may end.');
    told.close();
    await end.stop();
    return 0;
  } catch (error) {
    fail(error instanceof Error ? error.message : String(error));
    return 2;
  }
}
