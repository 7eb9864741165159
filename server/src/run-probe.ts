import { parseArgs } from 'node:util';
import { beginWith, outliveLog, OutpostFolder, Post, readGiven, ticketFor } from '@loyal-hinge/outpost';
import { isRange } from './probe/address-ranges.js';
import { ProbeReadings } from './probes/read-for-server.js';
import { ProbeWalks } from './probes/walk-for-server.js';
import { silenceLibrary } from './ua/quiet.js';

const usage = `hinge probe FOLDER [--ticket FILE] [--may-dial RANGE …]
  Checks links and reads devices for the server from this machine, until it is stopped. FOLDER keeps its key and its certificate.
  --ticket FILE     asks the server for a certificate first (- reads the ticket from standard input)
  --may-dial RANGE  a range of addresses that it may dial (CIDR), such as 10.20.0.0/16; kept in FOLDER/ranges.json.
                    Nothing else is ever dialled, whatever the server asks for.`;
const rangesFile = 'ranges.json';

/**
 * Runs a probe until it is told to stop.
 * @returns exit code: 0 it was stopped, 2 it could not run
 */
export async function runProbe(
  args: readonly string[],
  say: (line: string) => void,
  fail: (line: string) => void,
): Promise<number> {
  silenceLibrary();
  const tell = (says: string): void => say(`${new Date().toISOString()} ${says}`);
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
        'may-dial': { type: 'string', multiple: true },
        help: { type: 'boolean', default: false },
      },
    });
    const [path, ...more] = positionals;
    if (values.help || path === undefined || more.length > 0) {
      (values.help ? say : fail)(usage);
      return values.help ? 0 : 2;
    }
    const folder = new OutpostFolder(path);
    const ranges = await rangesOf(folder, values['may-dial']);
    if (values.ticket !== undefined)
      await beginWith(folder, ticketFor('probe', await readGiven(values.ticket)), tell, stopping.signal);
    const place = await folder.place();
    if (place === null) throw new Error(`${path} holds no certificate. Begin with a ticket.`);
    outliveLog();
    const walks: ProbeWalks = new ProbeWalks(ranges, (message) => post.say(message));
    const readings: ProbeReadings = new ProbeReadings(ranges, (message) => post.say(message));
    const endAll = (): void => {
      walks.endAll();
      readings.endAll();
    };
    const post: Post = new Post(folder, place, {
      welcomed: () => post.say({ kind: 'probe', ranges: [...ranges], readsDevices: true }),
      heard: (message) => {
        if (message.kind === 'removed') return endAll();
        walks.hear(message);
        readings.hear(message);
      },
      gone: endAll,
      tell,
    });
    post.start();
    say('Ready.');
    if (!stopping.signal.aborted)
      await new Promise((done) => stopping.signal.addEventListener('abort', done, { once: true }));
    endAll();
    post.stop();
    return 0;
  } catch (error) {
    fail(error instanceof Error ? error.message : String(error));
    return 2;
  }
}

/** The ranges that were given now, or those that lie in the folder. */
async function rangesOf(folder: OutpostFolder, given: readonly string[] | undefined): Promise<readonly string[]> {
  if (given !== undefined) {
    const wrong = given.find((range) => !isRange(range));
    if (wrong !== undefined) throw new Error(`“${wrong}” is no range such as 10.20.0.0/16.`);
    await folder.write(rangesFile, `${JSON.stringify(given, null, 2)}\n`);
    return given;
  }
  const text = await folder.read(rangesFile);
  const read: unknown = text === null ? null : JSON.parse(text);
  if (!Array.isArray(read) || !read.every((range): range is string => typeof range === 'string' && isRange(range)))
    throw new Error(
      `Say what it may dial: --may-dial 10.20.0.0/16. ${text === null ? '' : `${rangesFile} can’t be read.`}`,
    );
  return read;
}
