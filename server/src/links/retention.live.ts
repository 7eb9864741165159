import { signIn } from '../testing/calls.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('retention');
beforeAll(() => own.setUp());
afterAll(() => own.remove());

const open = () => own.read<{ id: string }>("select id from checks where state in ('queued', 'running')");

describe('checks of long ago', () => {
  it('go with their facts, but for the one that today’s verdict rests on', async () => {
    const first = await own.serve();
    const engineer = await signIn('engineer', first.url, ownPassword);
    const check = async (linkId: string): Promise<string> => {
      const { id } = await engineer.call('checkLink', { linkId }, {});
      await until(open, (waiting) => waiting.length === 0);
      return id;
    };
    const replaced = await check('energy--batch-scales');
    const standing = await check('energy--batch-scales');
    await own.read("update checks set ended_at = now() - interval '91 days'");
    const recent = await check('energy--weighbridge');
    await expect(own.read('delete from facts')).rejects.toThrow('facts is append-only');
    await own.kill(first.child);

    await own.serve();
    const kept = await until(
      () => own.read<{ id: string }>('select id from checks'),
      (rows) => rows.length === 2,
    );
    expect(new Set(kept.map(({ id }) => id))).toEqual(new Set([standing, recent]));
    const facts = await own.read<{ check_id: string }>('select distinct check_id from facts');
    expect(new Set(facts.map((row) => row.check_id))).toEqual(new Set([standing, recent]));
    expect(facts.map((row) => row.check_id)).not.toContain(replaced);
    await expect(own.read('delete from facts')).rejects.toThrow('facts is append-only');
  });
});
