import { parseArgs } from 'node:util';
import { readFileText, tunnelBundle } from '@loyal-hinge/contract/line';
import {
  beginWith,
  fileNames,
  outliveLog,
  OutpostFolder,
  portGiven,
  readGiven,
  tellStatistics,
  ticketFor,
} from '@loyal-hinge/outpost';
import type { Place } from '@loyal-hinge/outpost';
import { configurationFile, TunnelOutpost } from './outpost.js';

const usage = `Runs one end of a tunnel from its folder, until it is stopped.

  tunnel.mjs FOLDER                        runs what the folder holds
  tunnel.mjs FOLDER --ticket FILE          asks the server for a certificate first (- reads the ticket from standard input)
  tunnel.mjs FOLDER --ticket FILE --by-hand
                                           only writes request.pem into the folder, to be brought to the server by hand
  tunnel.mjs FOLDER --bundle FILE          takes what the server gave for that request first
  --statistics PORT                        tells its statistics as JSON at this port of 127.0.0.1
`;

/**
 * Runs one end of a tunnel until it is told to stop.
 * @returns exit code: 0 it was stopped, 2 it could not run
 */
export async function tunnel(
  args: readonly string[],
  say: (line: string) => void,
  fail: (line: string) => void,
): Promise<number> {
  const tell = (says: string): void => say(`${new Date().toISOString()} ${says}`);
  const stopping = new AbortController();
  const stop = (): void => stopping.abort(new Error('It was stopped.'));
  process.once('SIGTERM', stop);
  process.once('SIGINT', stop);
  try {
    const wish = wishOf(args);
    if (!wish) {
      fail(usage);
      return 2;
    }
    const folder = new OutpostFolder(wish.folder);
    const place = await readied(folder, wish, tell, stopping.signal);
    if (place === 'only asked') return 0;
    outliveLog();
    const outpost = await TunnelOutpost.start(folder, place, tell);
    if (place === null && outpost.statistics === null) {
      fail(outpost.whyNot ?? `${wish.folder} holds no ${configurationFile}. Give a ticket or a bundle.`);
      await outpost.stop();
      return 2;
    }
    const told = tellStatistics(wish.statistics, () => outpost.statistics, fail);
    say('Ready.');
    if (!stopping.signal.aborted)
      await new Promise((done) => stopping.signal.addEventListener('abort', done, { once: true }));
    tell('Stopping: streams that are open may end.');
    told.close();
    await outpost.stop();
    return 0;
  } catch (error) {
    fail(error instanceof Error ? error.message : String(error));
    return 2;
  }
}

interface Wish {
  readonly folder: string;
  readonly ticket: string | null;
  readonly isByHand: boolean;
  readonly bundle: string | null;
  readonly statistics: number | null;
}

function wishOf(args: readonly string[]): Wish | null {
  const { values, positionals } = parseArgs({
    args: [...args],
    allowPositionals: true,
    options: {
      ticket: { type: 'string' },
      bundle: { type: 'string' },
      statistics: { type: 'string' },
      'by-hand': { type: 'boolean', default: false },
      help: { type: 'boolean', default: false },
    },
  });
  const [folder, ...more] = positionals;
  if (values.help || folder === undefined || more.length > 0) return null;
  return {
    folder,
    ticket: values.ticket ?? null,
    isByHand: values['by-hand'],
    bundle: values.bundle ?? null,
    statistics: portGiven(values.statistics),
  };
}

/** Brings a folder to where an end can run from it. @returns where the server is; null: it is set up by files */
async function readied(
  folder: OutpostFolder,
  { ticket: file, isByHand, bundle }: Wish,
  tell: (says: string) => void,
  signal: AbortSignal,
): Promise<Place | null | 'only asked'> {
  if (file !== null) {
    const ticket = ticketFor('tunnel-end', await readGiven(file));
    if (isByHand) {
      await folder.write('request.pem', await folder.request(ticket.id, ticket.name));
      tell(`request.pem lies in ${folder.path}. Bring it to the server, and come back with the bundle.`);
      return 'only asked';
    }
    await beginWith(folder, ticket, tell, signal);
  }
  if (bundle !== null) {
    const read = readFileText(tunnelBundle, await readGiven(bundle));
    if (!read.ok) throw new Error(`${bundle} is no bundle for an end of a tunnel: ${read.says}`);
    await folder.keep(read.value);
    await folder.write(configurationFile, `${JSON.stringify(read.value.configuration, null, 2)}\n`);
  }
  if ((await folder.read(fileNames.key)) === null)
    throw new Error(`${folder.path} holds no ${fileNames.key}. Begin with a ticket.`);
  return folder.place();
}
