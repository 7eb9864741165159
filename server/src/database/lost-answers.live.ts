import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { plantGiven, thumbprintIn } from '../testing/given.js';
import { openLosingWay } from '../testing/losing-answers.js';
import type { LosingWay } from '../testing/losing-answers.js';
import { listing } from '../testing/orders.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('lost_answers');
const taken = plantGiven();
let way: LosingWay;
let engineer: Caller;
let approver: Caller;
beforeAll(async () => {
  await own.setUp();
  way = await openLosingWay(own.serverDatabaseUrl);
  const { url } = await own.serve(way.url);
  engineer = await signIn('engineer', url, ownPassword);
  approver = await signIn('administrator', url, ownPassword);
});
afterAll(async () => {
  await own.remove();
  way.close();
});

/** What is written of checks, orders and the locks that both take; what clears up after dead processes goes by the clock. */
const isWrite = (text: string): boolean =>
  /^(insert into|update|delete from) "(checks|facts|assessments|machine_locks|work_orders|order_lines|audit)"|^select tell_event/.test(
    text,
  ) && !text.includes('server_processes');

/** What is read meanwhile, but for what other work reads by the clock, and who asks for it. */
const isRead = (text: string): boolean =>
  /^(select|with) /.test(text) && !/pgboss|server_processes|sign_ins|^select tell_event/.test(text);

const lostAtOnce = 4;

/** Inserts of one row and of several are the same kind of write. */
const kindOf = (text: string): string => text.split(' values ')[0] ?? text;

async function seenDuring(run: () => Promise<unknown>): Promise<readonly string[]> {
  const from = way.seen.length;
  await run();
  return way.seen.slice(from);
}

async function writesOf(run: () => Promise<unknown>): Promise<string[]> {
  const writes = (await seenDuring(run)).filter(isWrite);
  return [...new Map(writes.map((text) => [kindOf(text), text])).values()];
}

/** A call whose answer is lost is told so, and asked again as a person would, once for each answer that a check may lose. */
const askAgain = <Answer>(ask: () => Promise<Answer>, left = lostAtOnce): Promise<Answer> =>
  ask().catch((error: unknown) => {
    if (left === 0) throw error;
    return askAgain(ask, left - 1);
  });

async function check(): Promise<string> {
  const { checks } = await askAgain(() => engineer.call('checkAll', {}, { linkIds: ['quality--cooling-water'] }));
  const checkId = checks[0]?.id ?? '';
  const { check: seen } = await until(
    () => askAgain(() => engineer.call('check', { checkId })),
    ({ check: { state } }) => state !== 'queued' && state !== 'running',
  );
  return seen.state;
}

/** An order for what its server has already, so that nothing but the order itself is written. */
async function approvedOrder(): Promise<string> {
  const client = taken.clients.find(({ applicationId }) => applicationId === 'engineering-client');
  const change = listing('cooling-water-server', thumbprintIn(client?.certificatePem ?? ''));
  const line = { change, why: 'A test wants it.', linkIds: [] };
  const { id } = await engineer.call('proposeOrder', {}, { title: 'A test', lines: [line] });
  await approver.call('approveOrder', { id });
  return id;
}

const settled = (id: string) =>
  until(
    () => engineer.call('order', { id }),
    ({ state }) => state !== 'running',
  );

describe('a write whose answer is lost with its connection', () => {
  it('of a check: it is done all the same, whichever write that was', async () => {
    const writes = await writesOf(check);
    expect(writes.filter((text) => text.includes('"checks"')).length).toBeGreaterThanOrEqual(2);
    for (const text of writes) {
      way.loseAnswerTo(text);
      expect([text, await check(), way.isWaiting]).toEqual([text, 'done', false]);
    }
  });

  it('read by a check: it is done all the same, whichever read that was', async () => {
    const reads = (await seenDuring(check)).filter(isRead);
    const counts = new Map<string, number>();
    for (const text of reads) counts.set(text, (counts.get(text) ?? 0) + 1);
    expect(counts.size).toBeGreaterThan(20);
    // What is read several times is lost the first time, and the last time; a check loses a few.
    const losses = [...counts].flatMap(([text, times]) => [...new Set([1, times])].map((which) => ({ text, which })));
    for (let at = 0; at < losses.length; at += lostAtOnce) {
      const some = losses.slice(at, at + lostAtOnce);
      for (const { text, which } of some) way.loseAnswerTo(text, which);
      expect([some, await check()]).toEqual([some, 'done']);
    }
  });

  it('of an order: it is carried out once, or can be asked for again, and never hangs', async () => {
    const recorded = await approvedOrder();
    const writes = await writesOf(async () => {
      await engineer.call('carryOutOrder', { id: recorded }, {});
      await settled(recorded);
    });
    expect(writes.filter((text) => /"(work_orders|order_lines)"/.test(text)).length).toBeGreaterThanOrEqual(3);
    for (const text of writes) {
      const id = await approvedOrder();
      way.loseAnswerTo(text);
      await engineer.call('carryOutOrder', { id }, {}).catch(() => undefined);
      const first = await settled(id);
      if (first.lines.some(({ state }) => state === 'waiting' || state === 'failed'))
        await engineer.call('carryOutOrder', { id }, {});
      const { lines } = await settled(id);
      const noted = await own.read(
        `select 1 from audit where action = 'lists changed' and details->>'order' = '${id}'`,
      );
      expect([text, lines[0]?.state, noted.length]).toEqual([text, 'proved', 1]);
    }
  });
});
