import { stat } from 'node:fs/promises';
import { dirname, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import {
  beginWith,
  outliveLog,
  OutpostFolder,
  passwordLine,
  portGiven,
  readGiven,
  tellStatistics,
  ticketFor,
} from '@loyal-hinge/outpost';
import type { GatewayStatistics } from '@loyal-hinge/contract/line';
import { readConfiguration } from './configuration.js';
import type { Tell } from './gateway.js';
import { GatewayOutpost } from './outpost.js';
import { startGateway } from './run.js';

const usage = `gateway.mjs FILE                       runs a gateway as its file says, until it is stopped
gateway.mjs FOLDER                     runs a gateway as the server says, from the folder in which it keeps what it was told
gateway.mjs FOLDER --ticket FILE       asks the server for a certificate first (- reads the ticket from standard input)
gateway.mjs password                   makes the line of a password, which is read from standard input
  --statistics PORT                    tells its statistics as JSON at this port of 127.0.0.1`;

interface Wish {
  readonly place: string;
  readonly ticket: string | undefined;
  readonly port: number | null;
}
interface Runs {
  statistics(): GatewayStatistics | null;
  stop(): Promise<void>;
}

/**
 * Runs a gateway until it is told to stop.
 * @returns exit code: 0 it was stopped, 2 it could not run
 */
export async function runGateway(
  args: readonly string[],
  say: (line: string) => void,
  fail: (line: string) => void,
): Promise<number> {
  const stopping = new AbortController();
  const stop = (): void => stopping.abort(new Error('It was stopped.'));
  process.once('SIGTERM', stop);
  process.once('SIGINT', stop);
  try {
    const { values, positionals } = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: {
        ticket: { type: 'string' },
        statistics: { type: 'string' },
        help: { type: 'boolean', default: false },
      },
    });
    const [place, ...more] = positionals;
    if (values.help || place === undefined || more.length > 0) {
      (values.help ? say : fail)(usage);
      return values.help ? 0 : 2;
    }
    if (place === 'password') {
      const password = (await readGiven('-')).trimEnd();
      if (password === '') throw new Error('No password came on standard input.');
      say(await passwordLine(password));
      return 0;
    }
    const wish: Wish = { place, ticket: values.ticket, port: portGiven(values.statistics) };
    const tell: Tell = (says) => say(`${new Date().toISOString()} ${says}`);
    outliveLog();
    const isFolder = wish.ticket !== undefined || ((await stat(place).catch(() => null))?.isDirectory() ?? false);
    const runs = await (isFolder ? fromFolder(wish, tell, stopping.signal) : fromFile(wish, say, tell));
    const told = tellStatistics(wish.port, () => runs.statistics(), fail);
    if (!stopping.signal.aborted)
      await new Promise((done) => stopping.signal.addEventListener('abort', done, { once: true }));
    told.close();
    await runs.stop();
    return 0;
  } catch (error) {
    fail(error instanceof Error ? error.message : String(error));
    return 2;
  }
}

async function fromFile({ place }: Wish, say: Tell, tell: Tell): Promise<Runs> {
  const read = readConfiguration(await readGiven(place));
  if (!read.ok) throw new Error(`${place}: ${read.says}`);
  const { gateway, ports, stop } = await startGateway(read.value, dirname(resolve(place)), tell);
  say(`${read.value.name} is ready${ports.length === 0 ? '' : ` at port ${ports.join(', ')}`}.`);
  return { statistics: () => gateway.statistics, stop };
}

async function fromFolder({ place, ticket }: Wish, tell: Tell, signal: AbortSignal): Promise<Runs> {
  const folder = new OutpostFolder(place);
  if (ticket !== undefined) await beginWith(folder, ticketFor('gateway', await readGiven(ticket)), tell, signal);
  const server = await folder.place();
  if (!server) throw new Error(`${place} does not say where the server is. Begin with a ticket.`);
  const outpost = await GatewayOutpost.start(folder, server, tell);
  return { statistics: () => outpost.statistics, stop: () => outpost.stop() };
}
