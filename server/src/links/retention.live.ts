import { signIn } from '../testing/calls.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('retention');
beforeAll(() => own.setUp());
afterAll(() => own.remove());

const open = () => own.read<{ id: string }>("select id from checks where state in ('queued', 'running')");

const partsOfFacts = `select inhrelid::regclass::text as name from pg_inherits where inhparent = 'facts'::regclass order by 1`;

describe('checks of long ago', () => {
  it('go with the months of their facts, but for the one that today’s verdict rests on', async () => {
    const first = await own.serve();
    const engineer = await signIn('engineer', first.url, ownPassword);
    const check = async (linkId: string): Promise<string> => {
      const { id } = await engineer.call('checkLink', { linkId }, {});
      await until(open, (waiting) => waiting.length === 0);
      return id;
    };
    const replaced = await check('energy--batch-scales');
    const standing = await check('energy--batch-scales');
    // All of it a hundred and thirty days ago.
    await own.read("select make_parts('facts', 'month', now() - interval '130 days', now())");
    await own.read(
      `create table long_ago as select id, position, check_id, link_id, source, at - interval '130 days' as at, body from facts`,
    );
    for (const table of await own.read<{ name: string }>(partsOfFacts)) await own.read(`truncate ${table.name}`);
    await own.read('insert into facts select * from long_ago');
    await own.read("update checks set ended_at = ended_at - interval '130 days'");
    const recent = await check('energy--weighbridge');
    await expect(own.read('delete from facts')).rejects.toThrow('facts is append-only');
    await own.kill(first.child);

    const second = await own.serve();
    const kept = await until(
      () => own.read<{ id: string }>('select id from checks'),
      (rows) => rows.length === 2,
    );
    expect(new Set(kept.map(({ id }) => id))).toEqual(new Set([standing, recent]));
    const facts = await own.read<{ check_id: string }>(
      'select distinct check_id from facts union select check_id from kept_facts',
    );
    expect(new Set(facts.map((row) => row.check_id))).toEqual(new Set([standing, recent]));
    expect(facts.map((row) => row.check_id)).not.toContain(replaced);
    // The month is dropped as a whole, and the verdict of today can still be explained.
    const before = new Date(Date.now() - 120 * 86_400_000).toISOString().slice(0, 7).replace('-', '_');
    const parts = (await own.read<{ name: string }>(partsOfFacts)).map(({ name }) => name);
    expect(parts.some((name) => name < `facts_${before}`)).toBe(false);
    const again = await signIn('engineer', second.url, ownPassword);
    expect((await again.call('check', { checkId: standing })).facts.length).toBeGreaterThan(3);
    await expect(own.read('delete from facts')).rejects.toThrow('facts is append-only');
  });
});
