import { dirname, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { portGiven, readGiven, tellStatistics } from '@loyal-hinge/outpost';
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
      const password = (await readGiven('-')).trimEnd();
      if (password === '') throw new Error('No password came on standard input.');
      say(passwordLine(password));
      return 0;
    }
    const port = portGiven(values.statistics);
    const read = readConfiguration(await readGiven(file));
    if (!read.ok) throw new Error(`${file}: ${read.says}`);
    const running = await startGateway(read.value, dirname(resolve(file)), (says) =>
      say(`${new Date().toISOString()} ${says}`),
    );
    const told = tellStatistics(port, () => running.gateway.statistics, fail);
    say(`${read.value.name} is ready${running.ports.length === 0 ? '' : ` at port ${running.ports.join(', ')}`}.`);
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
