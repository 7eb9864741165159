import type { Caller } from './calls.js';

/** From now on the plant wants a second person; what comes back lets the rule go again, which takes two, too. */
export async function wantSecondPerson(administrator: Caller, approver: Caller): Promise<() => Promise<void>> {
  const settings = await administrator.call('settings');
  await administrator.call('putSettings', {}, { ...settings, approvedByAnother: true });
  return async () => {
    const { waitsAs } = await administrator.call('putSettings', {}, { ...settings, approvedByAnother: false });
    await approver.call('acceptProposal', { id: waitsAs ?? '' }, {});
  };
}
