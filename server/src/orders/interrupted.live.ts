import type { TrustChange } from '@loyal-hinge/core';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { overPush } from '../testing/by-hand.js';
import { plantGiven, thumbprintIn } from '../testing/given.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { plug } from '../testing/plug.js';
import { until } from '../testing/until.js';
import { silenceLibrary } from '../ua/quiet.js';

silenceLibrary();
const taken = plantGiven();
const own = ownServer('interrupted');
beforeEach(async () => {
  await own.setUp();
  await untrust();
});
afterEach(() => own.remove());

const works = thumbprintIn(taken.authority.certificatePem);
const at = { holderId: 'batch-scales-server', list: 'trusted', thumbprint: works } as const;
const give: TrustChange = { kind: 'list-certificate', ...at, until: null };
const take: TrustChange = { kind: 'unlist-certificate', ...at };

/** Proposes and approves an order on a server that restarts for each change, and begins to carry it out. */
async function begin(url: string, change: TrustChange): Promise<{ engineer: Caller; id: string }> {
  const engineer = await signIn('engineer', url, ownPassword);
  const approver = await signIn('administrator', url, ownPassword);
  const lines = [{ change, why: 'A test wants it.', linkIds: [] }];
  const { id } = await engineer.call('proposeOrder', {}, { title: 'A test', lines });
  await approver.call('approveOrder', { id });
  await engineer.call('carryOutOrder', { id }, {});
  await until(
    () => engineer.call('order', { id }),
    ({ lines: [line] }) => line?.state === 'claimed',
  );
  return { engineer, id };
}

const ended = (caller: Caller, id: string) =>
  until(
    () => caller.call('order', { id }),
    ({ state }) => state !== 'running',
  );

/** How often the authority lies in the trusted list of the server. */
const timesListed = (): Promise<number> =>
  until(
    () =>
      overPush(taken, 'batch-scales-server', (push) => push.readLists()).then(
        ({ trustedCertificates }) => trustedCertificates.filter((der) => thumbprintIn(der) === works).length,
        () => -1,
      ),
    (times) => times >= 0,
  );

/** Whatever an earlier try left there: the authority does not lie in the trusted list when a test begins. */
const untrust = (): Promise<void> =>
  overPush(taken, 'batch-scales-server', async (push) => {
    const { trustedCertificates } = await push.readLists();
    const others = trustedCertificates.filter((der) => thumbprintIn(der) !== works);
    if (others.length < trustedCertificates.length && (await push.writeLists({ trustedCertificates: others })))
      await push.applyChanges();
  });

describe('a work order that is cut off in the middle', () => {
  it('by the end of the server, waits, says so, and does nothing twice when it is carried out again', async () => {
    const first = await own.serve();
    const { id } = await begin(first.url, give);
    await own.kill(first.child);
    const second = await own.serve();
    const engineer = await signIn('engineer', second.url, ownPassword);
    const found = await engineer.call('order', { id });
    expect(found).toMatchObject({ state: 'approved', lines: [{ state: 'waiting' }] });
    expect(found.lines[0]?.says).toContain('Carry it out again');
    await engineer.call('carryOutOrder', { id }, {});
    expect(await ended(engineer, id)).toMatchObject({ state: 'proved', lines: [{ state: 'proved' }] });
    expect(await timesListed()).toBe(1);
  }, 300_000);

  it('by the end of the database, is written down when the database is back', async () => {
    const server = await own.serve();
    const earlier = await begin(server.url, give);
    expect(await ended(earlier.engineer, earlier.id)).toMatchObject({ state: 'proved' });
    const { engineer, id } = await begin(server.url, take);
    await plug('halt');
    await new Promise((resolve) => setTimeout(resolve, 2500));
    await plug('start');
    const settled = await until(
      () => engineer.call('order', { id }).catch(() => null),
      (order) => order !== null && order.state !== 'running',
    );
    expect(['proved', 'approved']).toContain(settled?.state);
    expect(settled?.lines[0]?.state).not.toBe('claimed');
    if (settled?.state === 'approved') {
      await engineer.call('carryOutOrder', { id }, {});
      expect(await ended(engineer, id)).toMatchObject({ state: 'proved' });
    }
    expect(await timesListed()).toBe(0);
  }, 300_000);
});
