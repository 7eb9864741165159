import type { Check } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('two_processes');
beforeEach(() => own.setUp());
afterEach(() => own.remove());

interface Overlap {
  readonly one: string;
  readonly other: string;
}

const open = (): Promise<readonly { id: string }[]> =>
  own.read<{ id: string }>("select id from checks where state in ('queued', 'running')");

/** Several links to each of a few machines: enough that both have something to do, and meet. */
async function linksToFewMachines(caller: Caller): Promise<string[]> {
  const { links } = await caller.call('plant');
  const servers = new Set(['furnace-server', 'lehr-server', 'tin-bath-server', 'batch-scales-server']);
  return links.filter(({ serverId }) => servers.has(serverId)).map(({ id }) => id);
}

describe('two server processes on the same data', () => {
  it('share the work, and never dial one machine both at once', async () => {
    const [first, second] = await Promise.all([own.serve(), own.serve()]);
    const [one, other] = await Promise.all([
      signIn('engineer', first.url, ownPassword),
      signIn('engineer', second.url, ownPassword),
    ]);
    const linkIds = await linksToFewMachines(one);
    // Who takes how many is up to them; sooner or later each takes some.
    await until(
      async () => {
        await Promise.all([one.call('checkAll', {}, { linkIds }), other.call('checkAll', {}, { linkIds })]);
        await until(open, (waiting) => waiting.length === 0);
        return own.read<{ count: string }>('select count(distinct server_id) from checks');
      },
      ([servers]) => servers?.count === '2',
    );
    const ended = await own.read<{ state: string }>('select state from checks');
    expect(ended.every(({ state }) => state === 'done')).toBe(true);
    const overlaps = await own.read<Overlap>(`
      select a.id as one, b.id as other from checks a join checks b
        on a.id < b.id and a.subject->'serverMachine'->>'id' = b.subject->'serverMachine'->>'id'
        and (a.begun_at, a.ended_at) overlaps (b.begun_at, b.ended_at)`);
    expect(overlaps).toEqual([]);
  }, 300_000);

  it('go on when one of them is killed: its checks are said to have failed, what waited is carried out', async () => {
    const [first, second] = await Promise.all([own.serve(), own.serve()]);
    const other = await signIn('engineer', second.url, ownPassword);
    const { checks } = await other.call('checkAll', {}, { linkIds: await linksToFewMachines(other) });
    const running = await until(
      () =>
        own.read<{ pid: number }>(
          "select distinct s.pid from checks c join server_processes s on s.id = c.server_id where c.state = 'running'",
        ),
      (rows) => rows.some(({ pid }) => pid === first.child.pid),
    );
    expect(running.length).toBeGreaterThan(0);
    // It stands still while it is looked at what it leaves behind, or the other one would have ended that already.
    first.child.kill('SIGSTOP');
    await new Promise((resolve) => setTimeout(resolve, 300));
    const left = await own.read<{ id: string }>(
      `select c.id from checks c join server_processes s on s.id = c.server_id where c.state = 'running' and s.pid = ${first.child.pid ?? 0}`,
    );
    await own.kill(first.child);
    await until(open, (waiting) => waiting.length === 0);
    const after: Check[] = await Promise.all(
      checks.map(({ id }) => other.call('check', { checkId: id }).then(({ check }) => check)),
    );
    for (const check of after)
      expect(check).toMatchObject(
        left.some(({ id }) => id === check.id)
          ? { state: 'failed', reason: expect.stringContaining('Ask for it again') }
          : { state: 'done' },
      );
    expect(await own.read('select machine_id from machine_locks')).toEqual([]);
    expect(await own.read('select pid from server_processes')).toEqual([{ pid: second.child.pid }]);
  }, 300_000);

  it('let nobody onto a machine whose bench is open, and say who has it', async () => {
    const [first, second] = await Promise.all([own.serve(), own.serve()]);
    const [one, other] = await Promise.all([
      signIn('engineer', first.url, ownPassword),
      signIn('administrator', second.url, ownPassword),
    ]);
    const bench = await one.call('openBench', { linkId: 'energy--furnace' }, {});
    await one.call('browseBench', { benchId: bench.benchId });
    expect(await other.refused('openBench', { linkId: 'energy--furnace' }, {})).toMatchObject({
      status: 409,
      detail:
        'The machine is in use by the bench of engineer on Energy board to Furnace, and takes one connection at a time.',
    });
    const check = await other.call('checkLink', { linkId: 'energy--furnace' }, {});
    const waitsFor = async (): Promise<string | null> =>
      (await one.call('linkRow', { linkId: 'energy--furnace' })).waitsFor;
    await until(waitsFor, (holder) => holder === 'the bench of engineer on Energy board to Furnace');
    const told = await until(
      () => own.read<{ body: unknown }>("select body from events where body->>'kind' = 'check-waits'"),
      (rows) => rows.length > 0,
    );
    expect(told).toEqual([
      {
        body: {
          kind: 'check-waits',
          checkId: check.id,
          linkId: 'energy--furnace',
          waitsFor: 'the bench of engineer on Energy board to Furnace',
        },
      },
    ]);
    await one.call('closeBench', { benchId: bench.benchId });
    await until(
      () => other.call('check', { checkId: check.id }),
      (seen) => seen.check.state === 'done',
    );
    await other.call('closeBench', {
      benchId: (await other.call('openBench', { linkId: 'energy--furnace' }, {})).benchId,
    });
  }, 300_000);
});
