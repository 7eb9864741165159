import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { signIn } from '../testing/calls.js';
import { given } from '../testing/given.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const HINGE_KEY = readFileSync(join(given('HINGE_TEST_DATA'), 'sealing-key'), 'utf8');
const web = ownServer('roles', { HINGE_ROLE: 'web', HINGE_KEY });
/** On the same database, from a folder of its own, as on another computer. */
const worker = ownServer('roles', { HINGE_ROLE: 'worker', HINGE_KEY });
let engineer: Awaited<ReturnType<typeof signIn>>;

beforeAll(async () => {
  await web.setUp();
  engineer = await signIn('engineer', (await web.serve()).url, ownPassword);
});
afterAll(async () => {
  await worker.remove();
  await web.remove();
});

const stateOf = async (checkId: string): Promise<string> => (await engineer.call('check', { checkId })).check.state;

describe('a process that serves people, and one that carries checks out', () => {
  it('share the work: what one was asked for, the other does', async () => {
    const { id } = await engineer.call('checkLink', { linkId: 'energy--weighbridge' }, {});
    await new Promise((resolve) => setTimeout(resolve, 2000));
    expect(await stateOf(id)).toBe('queued');
    const { url } = await worker.serve();
    await until(
      () => stateOf(id),
      (state) => state === 'done',
    );
    expect(await (await fetch(`${url}/api/health`)).json()).toMatchObject({ status: 'well' });
    expect((await fetch(`${url}/api/links`)).status).toBe(404);
    expect((await fetch(`${url}/`)).status).toBe(404);
  });

  it('let no check of a machine in use keep those of others waiting', async () => {
    const { benchId } = await engineer.call('openBench', { linkId: 'energy--furnace' }, {});
    await engineer.call('browseBench', { benchId });
    const { link } = await engineer.call('link', { linkId: 'energy--furnace' });
    // More than a process carries out at once.
    const linkIds = Array.from({ length: 12 }, (_, index) => `energy--furnace-${index}`);
    for (const id of linkIds) await engineer.call('putLink', { id }, { ...link, id, name: id });
    const { checks } = await engineer.call('checkAll', {}, { linkIds });
    const other = await engineer.call('checkLink', { linkId: 'energy--batch-scales' }, {});
    await until(
      () => stateOf(other.id),
      (state) => state === 'done',
    );
    expect(new Set(await Promise.all(checks.map(({ id }) => stateOf(id))))).toEqual(new Set(['queued']));
    await engineer.call('closeBench', { benchId });
    for (const { id } of checks)
      await until(
        () => stateOf(id),
        (state) => state === 'done',
      );
  });
});
