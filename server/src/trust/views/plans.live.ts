import { signIn } from '../../testing/calls.js';
import type { Caller } from '../../testing/calls.js';
import { plantGiven, thumbprintIn } from '../../testing/given.js';
import { until } from '../../testing/until.js';
import { found } from '../../testing/found.js';

const taken = plantGiven();
const ownOf = (id: string): string =>
  thumbprintIn(taken.clients.find(({ applicationId }) => applicationId === id)?.certificatePem ?? '');

let engineer: Caller;
beforeAll(async () => {
  engineer = await signIn('engineer');
  await engineer.call('readAllTrust', {}, {});
  await until(
    () => engineer.call('trust'),
    ({ parties }) => parties.every(({ reading }) => !reading),
  );
}, 120_000);

describe('plans', () => {
  it('cost both strategies side by side, and the what-if names the links that turn', async () => {
    const { direct, authority: byAuthority, unread } = await engineer.call('trustPlans');
    const titles = direct.changes.map(({ title }) => title);
    expect(titles.some((title) => /^Let Cooling water server trust Quality board/.test(title))).toBe(true);
    expect(titles.some((title) => /^Remove Commissioning laptop \(test\).*Furnace server$/.test(title))).toBe(true);
    const planned = await engineer.call('trustWhatIf', {}, { changes: direct.changes.map(({ change }) => change) });
    expect(direct.turnCount).toBe(planned.turns.length);
    expect(planned.turns).toContainEqual(
      expect.objectContaining({ linkId: 'quality--cooling-water', before: 'refused', after: 'trusted' }),
    );
    expect(byAuthority?.atRenewal.mean).toBeLessThan(direct.atRenewal.mean);
    expect(unread).toContain('Crane server');
    await found(engineer, 'energy--furnace');
    const { turns } = await engineer.call(
      'trustWhatIf',
      {},
      {
        changes: [
          {
            kind: 'unlist-certificate',
            holderId: 'furnace-server',
            list: 'trusted',
            thumbprint: ownOf('energy-client'),
          },
        ],
      },
    );
    expect(turns).toMatchObject([{ linkId: 'energy--furnace', before: 'trusted', after: 'refused' }]);
  });

  it('never cut the product off from the servers that it manages', async () => {
    const { direct } = await engineer.call('trustPlans');
    const cut = direct.changes.filter(
      ({ change }) => change.kind === 'unlist-certificate' && change.thumbprint === ownOf('engineering-client'),
    );
    expect(cut).toEqual([]);
  });
});

describe('what ends when', () => {
  it('begins with what is over and what ends next, with the links that fall', async () => {
    await found(engineer, 'energy--gas-meter');
    const { endings } = await engineer.call('horizon');
    const gas = endings.find(({ name }) => name === 'Gas meter server');
    expect(gas).toMatchObject({ kind: 'application', applications: ['Gas meter server'] });
    expect(gas?.links).toContain('Energy board to Gas meter');
    expect(endings.map(({ ends }) => ends)).toEqual([...endings.map(({ ends }) => ends)].sort((a, b) => a - b));
  });
});
