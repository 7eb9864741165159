import fc from 'fast-check';
import type { TrustChange } from '@loyal-hinge/core';
import { signIn } from '../testing/calls.js';
import { passphraseGiven, plantGiven, thumbprintIn } from '../testing/given.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const taken = plantGiven();
const own = ownServer('crash_points');
beforeAll(() => own.setUp());
afterAll(() => own.remove());

const authority = thumbprintIn(taken.authority.certificatePem);
const clients = ['energy-client', 'history-client', 'line-display-client'] as const;
/** Where the server is killed, in milliseconds after the order was begun: generated, so that no place is favoured. */
const points = fc.sample(fc.integer({ min: 0, max: 900 }), { numRuns: 3, seed: Date.now() });

interface Issued {
  readonly thumbprint: string;
  readonly for_line: string;
}

const validFor = (id: string) =>
  own.read<Issued>(`select thumbprint, for_line from issued where for_line like '${id}/%' and revoked_at is null`);

describe('an order that renews, on a server that is killed in the middle', () => {
  it.each(points)(
    '%i ms after it was begun, leaves one valid certificate for each line when it has gone on',
    async (ms) => {
      const applications = taken.plant.applications.filter(({ kind }) => kind === 'client').map(({ id }) => id);
      const renewed = clients.filter((id) => applications.includes(id));
      const lines = renewed.map((applicationId) => ({
        change: { kind: 'renew-certificate', applicationId, authority, before: null } satisfies TrustChange,
        why: 'A test wants it.',
        linkIds: [],
      }));
      const first = await own.serve();
      const engineer = await signIn('engineer', first.url, ownPassword);
      const approver = await signIn('administrator', first.url, ownPassword);
      const { id } = await engineer.call('proposeOrder', {}, { title: `Killed after ${ms} ms`, lines });
      await approver.call('approveOrder', { id });
      await engineer.call('carryOutOrder', { id }, { passphrase: passphraseGiven() });
      await new Promise((resolve) => setTimeout(resolve, ms));
      await own.kill(first.child);

      const second = await own.serve();
      const again = await signIn('engineer', second.url, ownPassword);
      const found = await again.call('order', { id });
      expect(found.state).not.toBe('running');
      if (found.lines.some(({ state }) => state === 'waiting' || state === 'failed'))
        await again.call('carryOutOrder', { id }, { passphrase: passphraseGiven() });
      const ended = await until(
        () => again.call('order', { id }),
        ({ state, lines: now }) =>
          state !== 'running' && now.every((line) => line.state === 'done' || line.state === 'proved'),
      );
      expect(ended.lines).toHaveLength(renewed.length);
      const valid = await validFor(id);
      expect(new Set(valid.map((row) => row.for_line)).size).toBe(renewed.length);
      expect(valid).toHaveLength(renewed.length);
      await own.kill(second.child);
    },
  );

  it('is carried out once, however many ask at once', async () => {
    const { url } = await own.serve();
    const engineer = await signIn('engineer', url, ownPassword);
    const approver = await signIn('administrator', url, ownPassword);
    const change: TrustChange = { kind: 'renew-certificate', applicationId: clients[0], authority, before: null };
    const { id } = await engineer.call(
      'proposeOrder',
      {},
      { title: 'Three at once', lines: [{ change, why: 'A test wants it.', linkIds: [] }] },
    );
    await approver.call('approveOrder', { id });
    const asked = await Promise.allSettled(
      [engineer, approver, engineer].map((caller) =>
        caller.call('carryOutOrder', { id }, { passphrase: passphraseGiven() }),
      ),
    );
    expect(asked.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
    await until(
      () => engineer.call('order', { id }),
      ({ state }) => state !== 'running',
    );
    expect(await validFor(id)).toHaveLength(1);
  });
});
