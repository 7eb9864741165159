import { signIn } from '../../testing/calls.js';
import type { Caller } from '../../testing/calls.js';
import { found } from '../../testing/found.js';
import { until } from '../../testing/until.js';

let engineer: Caller;
let approver: Caller;
beforeAll(async () => {
  [engineer, approver] = [await signIn('engineer'), await signIn('administrator')];
});

describe('a step that somebody answers for', () => {
  it('lets the link through for as long as that holds, and no longer', async () => {
    await engineer.call('readTrust', { id: 'inspection-server' });
    const linkId = 'history--inspection';
    expect(await found(engineer, linkId)).toBe('Parted');
    const { columns } = await engineer.call('trust');
    const shown = columns.find(({ shownBy }) => shownBy.includes('inspection-server'));
    const page = await engineer.call('certificatePage', { thumbprint: shown?.thumbprint ?? '' });
    expect(page.meets.map(({ applicationId }) => applicationId)).toContain('history-client');
    const wish = {
      holderId: 'history-client',
      thumbprint: page.certificate.thumbprint,
      step: 'validity period' as const,
      until: new Date(Date.now() + 86_400_000).toISOString(),
      why: 'The new one comes with the next shutdown.',
    };
    expect(await engineer.refused('giveWaiver', {}, wish)).toMatchObject({ status: 403 });
    expect(await approver.refused('giveWaiver', {}, { ...wish, step: 'trust list' })).toMatchObject({ status: 400 });
    expect(await approver.refused('giveWaiver', {}, { ...wish, until: '2020-01-01T00:00:00.000Z' })).toMatchObject({
      status: 400,
      faults: [{ place: 'until' }],
    });
    const { waiver } = await approver.call('giveWaiver', {}, wish);
    const id = waiver?.id ?? 0;
    expect(await approver.refused('giveWaiver', {}, wish)).toMatchObject({ status: 409 });
    expect(await found(engineer, linkId)).toBe('Strained');
    const ended = await approver.call('takeBackWaiver', { id: String(id) });
    expect(ended.ended).toMatchObject({ by: 'administrator' });
    expect(await found(engineer, linkId)).toBe('Parted');
    expect((await engineer.call('certificatePage', { thumbprint: wish.thumbprint })).waivers).toHaveLength(1);
  });

  it('ends by itself, and its links are checked again', async () => {
    const { columns } = await engineer.call('trust');
    const shown = columns.find(({ shownBy }) => shownBy.includes('inspection-server'));
    const thumbprint = shown?.thumbprint ?? '';
    await approver.call(
      'giveWaiver',
      {},
      {
        holderId: 'history-client',
        thumbprint,
        step: 'host name',
        until: new Date(Date.now() + 3000).toISOString(),
        why: 'For this moment only.',
      },
    );
    const ended = await until(
      () => engineer.call('certificatePage', { thumbprint }),
      ({ waivers }) => waivers.every(({ ended }) => ended !== null),
    );
    expect(ended.waivers[0]).toMatchObject({ step: 'host name', ended: { by: 'its date' } });
  });
});
