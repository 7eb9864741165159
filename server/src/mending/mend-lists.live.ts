import type { Remedy } from '@loyal-hinge/core';
import { signIn } from '../testing/calls.js';
import { overPush } from '../testing/by-hand.js';
import { plantGiven } from '../testing/given.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';
import { silenceLibrary } from '../ua/quiet.js';

silenceLibrary();
const taken = plantGiven();
const own = ownServer('mend_lists');
let url = '';
beforeAll(async () => {
  await own.setUp();
  ({ url } = await own.serve());
});
afterAll(() => own.remove());

/** Each stops at something that a list lacks; the product knows what, and can reach the list. */
const links = [
  { linkId: 'quality--cullet-sorter', serverId: 'cullet-sorter-server', cause: 'crl-missing', what: 'supply-crl' },
  { linkId: 'quality--glass-lab', serverId: 'glass-lab-server', cause: 'chain-incomplete', what: 'trust-issuer' },
  { linkId: 'quality--cooling-water', serverId: 'cooling-water-server', cause: 'wrong-list', what: 'move-to-trusted' },
] as const;

describe('lists mended from a link’s page', () => {
  it.each(links)('$linkId, which stops at $cause, becomes sound', async ({ linkId, serverId, cause, what }) => {
    const before = await overPush(taken, serverId, (push) => push.readLists());
    try {
      const engineer = await signIn('engineer', url, ownPassword);
      const checked = async (checkId: string) => {
        await until(
          () => engineer.call('check', { checkId }),
          ({ check }) => check.endedAt !== null,
        );
        return (await engineer.call('link', { linkId })).assessment;
      };
      const told = await checked((await engineer.call('checkLink', { linkId }, {})).id);
      expect(told).toMatchObject({ state: 'Parted', leadingCause: cause });
      const findings = told.steps.flatMap((step) => step.findings);
      const remedies: readonly Remedy[] = findings.find(({ causeId }) => causeId === cause)?.remedies ?? [];
      const change = remedies
        .map((remedy) => remedy.change)
        .find((one) => one.kind === 'change-lists' && one.wish.what === what);
      if (change?.kind !== 'change-lists') throw new Error('it is offered by hand alone');

      const elsewhere = { ...change, holderId: 'furnace-server' };
      expect(await engineer.refused('mend', { linkId }, { change: elsewhere })).toMatchObject({ status: 400 });
      const { checkId } = await engineer.call('mend', { linkId }, { change });
      const after = await checked(checkId ?? '');
      expect(after).toMatchObject({ state: expect.stringMatching(/Sound|Strained/), partedAt: null });
    } finally {
      await overPush(taken, serverId, async (push) => {
        if (await push.changeLists(await push.readLists(), before)) await push.applyChanges();
      });
    }
  });

  it('is not said to be done for what nobody knows', async () => {
    const engineer = await signIn('engineer', url, ownPassword);
    const linkId = 'maintenance--furnace';
    const made = { kind: 'accept-client-certificate', linkId, serverId: 'furnace-server', thumbprint: 'AB'.repeat(20) };
    expect(await engineer.refused('mend', { linkId }, { change: made })).toMatchObject({ status: 404 });
    const wish = { what: 'supply-crl', issuer: 'CN=Nobody' };
    const unknown = { kind: 'change-lists', linkId, holderId: 'furnace-server', wish };
    expect(await engineer.refused('mend', { linkId }, { change: unknown })).toMatchObject({
      status: 409,
      detail:
        'A CRL of CN=Nobody that is in force is not known here, so it can’t be put into a list. Nothing was changed.',
    });
  });
});
