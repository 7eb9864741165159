import { randomBytes } from 'node:crypto';
import { readFileSync, readdirSync, readlinkSync } from 'node:fs';
import fc from 'fast-check';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { inPlant, plantGiven } from '../testing/given.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const { plant } = plantGiven();
const own = ownServer('sockets');
let base = '';
let pid = 0;
let engineer: Caller;
beforeAll(async () => {
  await own.setUp();
  const { url, child } = await own.serve();
  base = url;
  pid = child.pid ?? 0;
  engineer = await signIn('engineer', base, ownPassword);
});
let looking: NodeJS.Timeout | undefined;
afterAll(async () => {
  clearInterval(looking);
  await own.remove();
});

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));
/** 127.42.20.11 as it stands in /proc/net/tcp: four bytes, last first, in hexadecimal. */
const inProc = (address: string): string =>
  address
    .split('.')
    .reverse()
    .map((part) => Number(part).toString(16).padStart(2, '0'))
    .join('')
    .toUpperCase();
/** The last two bytes of every address of the made-up plant, in the same way. */
const block = inProc(inPlant('0.0')).slice(4);

/** Sockets of the server that reach into the made-up plant, as the system itself counts them. */
function socketsToPlant(): readonly string[] {
  const mine = new Set(
    readdirSync(`/proc/${pid}/fd`).flatMap((fd) => {
      try {
        return /^socket:\[(\d+)\]$/.exec(readlinkSync(`/proc/${pid}/fd/${fd}`))?.[1] ?? [];
      } catch {
        return [];
      }
    }),
  );
  return readFileSync('/proc/net/tcp', 'utf8')
    .split('\n')
    .slice(1)
    .map((line) => line.trim().split(/\s+/))
    .filter((columns) => columns[2]?.slice(4, 8) === block && mine.has(columns[9] ?? ''))
    .map((columns) => columns[2] ?? '');
}

/** Asks for something and goes away before it is there. */
async function abandon(method: string, path: string, body: unknown, ms: number): Promise<void> {
  const signal = AbortSignal.timeout(ms);
  const init = { method, headers: engineer.headers, body: JSON.stringify(body), signal };
  await fetch(`${base}${path}`, init).catch(() => undefined);
}

const linkIds = plant.links.map(({ id }) => id);
const servers = plant.applications.filter(({ kind }) => kind === 'server').map(({ id }) => id);
const moment = fc.integer({ min: 0, max: 600 });
const link = fc.constantFrom(...linkIds);

interface Act {
  readonly name: string;
  run(): Promise<unknown>;
}
const act = (name: string, run: () => Promise<unknown>): Act => ({ name, run });

/** What people do and break off, at any moment. */
const acts: fc.Arbitrary<Act> = fc.oneof(
  fc.tuple(link, moment).map(([linkId, ms]) =>
    act(`a check of ${linkId} that is cancelled after ${ms} ms`, async () => {
      const { id } = await engineer.call('checkLink', { linkId }, {});
      await pause(ms);
      await engineer.call('cancelCheck', { checkId: id }, {}).catch(() => undefined);
    }),
  ),
  fc
    .tuple(link, moment)
    .map(([linkId, ms]) =>
      act(`a bench on ${linkId} that nobody waits for after ${ms} ms`, () =>
        abandon('POST', `/api/links/${linkId}/bench`, {}, ms + 1),
      ),
    ),
  fc.tuple(link, moment).map(([linkId, ms]) =>
    act(`a bench on ${linkId} that is closed after ${ms} ms`, async () => {
      const { benchId } = await engineer.call('openBench', { linkId }, {});
      await pause(ms);
      await engineer.call('closeBench', { benchId });
    }),
  ),
  fc.tuple(link, moment).map(([linkId, ms]) =>
    act(`a bench on ${linkId} whose page goes away after ${ms} ms`, async () => {
      const page = randomBytes(16).toString('hex');
      await engineer.call('openBench', { linkId }, { page });
      await abandon('GET', `/api/bench-stream?page=${page}`, undefined, ms + 1);
    }),
  ),
  moment.map((ms) =>
    act(`a search that is stopped after ${ms} ms`, async () => {
      const wish = {
        discoveryUrls: [],
        machines: true,
        ranges: [inPlant('10.8/29')],
        ports: [4840, 4850],
        mapperPorts: [],
        devicePorts: [],
      };
      await engineer.call('beginDiscovery', {}, wish);
      await pause(ms);
      await engineer.call('stopDiscovery', {}, {});
    }),
  ),
  fc
    .tuple(fc.constantFrom(...servers), moment)
    .map(([id, ms]) =>
      act(`a reading of the lists of ${id} that nobody waits for after ${ms} ms`, () =>
        abandon('POST', `/api/trust/holders/${id}/readings`, {}, ms + 1),
      ),
    ),
);

describe('connections to the plant', () => {
  it('are all closed when what opened them has ended, however it was broken off', async () => {
    const seed = Date.now();
    const storm = fc.sample(acts, { numRuns: 60, seed });
    const waiting = [...storm];
    let most = 0;
    looking = setInterval(() => (most = Math.max(most, socketsToPlant().length)), 50);
    const work = async (): Promise<void> => {
      for (let next = waiting.pop(); next; next = waiting.pop()) await next.run().catch(() => undefined);
    };
    await Promise.all(Array.from({ length: 6 }, work));
    const story = `seed ${seed}: ${storm.map(({ name }) => name).join('; ')}`;
    const settles = async (what: string, look: () => Promise<readonly unknown[]>): Promise<void> => {
      const left = await until(look, (seen) => seen.length === 0).catch(look);
      expect({ what, left, story: left.length > 0 ? story : '' }).toEqual({ what, left: [], story: '' });
    };
    await settles('checks', () => own.read("select * from checks where state in ('queued', 'running')"));
    // A bench whose page went away is closed a while later.
    await settles('locks', () => own.read('select * from machine_locks'));
    await settles('sockets', async () => socketsToPlant());
    clearInterval(looking);
    expect(most).toBeGreaterThan(0);
    expect((await engineer.call('whoAmI')).name).toBe('engineer');
  }, 300_000);
});
