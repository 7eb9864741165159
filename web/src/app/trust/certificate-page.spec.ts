import type { WaiverView } from '@loyal-hinge/contract';
import { Site, refused } from '../../testing/site';
import { certificate, thumbprintOf } from '../../testing/trust-answers';
import { dayIn, startOfDay } from '../forms/days';

const url = `/trust/certificates/${thumbprintOf('A')}`;
const waiver: WaiverView = {
  id: 5,
  holderId: 'history',
  holder: 'History collector',
  step: 'validity period',
  until: '2030-03-01T00:00:00.000Z',
  why: 'The new one comes.',
  givenBy: 'administrator',
  givenAt: '2026-03-01T00:00:00.000Z',
  ended: null,
};

describe('the page of a certificate', () => {
  it('tells its chain, where it is listed and what depends on it', async () => {
    const site = await Site.open(url, {
      certificatePage: certificate({
        chain: [
          {
            thumbprint: thumbprintOf('A'),
            name: 'Inspection server',
            notAfter: '2020-01-01T00:00:00.000Z',
            isAuthority: false,
            selfIssued: false,
          },
        ],
        missingIssuer: 'CN=Lost Authority',
        lies: [{ applicationId: 'history', name: 'History', list: 'issuers', since: '2026-01-01T00:00:00.000Z' }],
        links: [
          { linkId: 'history--inspection', name: 'History to Inspection' },
          { linkId: 'push--inspection', name: 'Push management of Inspection' },
        ],
      }),
    });
    expect(site.text).toContain('The issuer CN=Lost Authority is not known in the plant.');
    expect(site.text).toContain('History: issuers list');
    const links = site.all('a').map((link) => link.getAttribute('href'));
    expect(links).toContain('/links/history--inspection');
    expect(links).not.toContain('/links/push--inspection');
  });

  it('says why it was revoked', async () => {
    const revoked = { since: '2026-01-05T00:00:00.000Z', reason: 'keyCompromise' };
    const site = await Site.open(url, { certificatePage: certificate({ revoked }) });
    expect(site.headline).toContain(': revoked;');
  });

  it('lists the rules that it does not keep, the remedy beside each', async () => {
    const lint = [
      { ruleId: 'uri', clause: 'Part 6 §6.2.2', severity: 'error' as const, says: 'It has no URI.', remedy: 'Add it.' },
    ];
    const site = await Site.open(url, { certificatePage: certificate({ lint }) });
    expect(site.text).toMatch(/It has no URI\..*Add it\./);
  });
});

describe('a waiver', () => {
  it('is given by an approver, until a date, with a reason', async () => {
    const site = await Site.open(
      url,
      { certificatePage: certificate(), giveWaiver: { waiver, waitsAs: null } },
      'approver',
    );
    await site.press(/Waive a step/);
    await site.press(/Grant waiver/);
    expect([site.asked('giveWaiver'), site.faults]).toEqual([
      [],
      ['A day is needed, such as 2030-12-31.', 'Say why, in a few words: an auditor will ask.'],
    ]);
    const day = dayIn(60);
    await site.fill(/^Application/, 'Security desk');
    await site.fill(/^Step/, 'host name');
    await site.fill(/^Until/, day);
    await site.fill(/^Reason/, 'The shutdown is in May.');
    await site.press(/Grant waiver/);
    expect(site.asked('giveWaiver')).toEqual([
      {
        holderId: 'desk',
        thumbprint: thumbprintOf('A'),
        step: 'host name',
        until: startOfDay(day),
        why: 'The shutdown is in May.',
      },
    ]);
    expect(site.told).toContain('History collector skips “validity period”');
  });

  it('is not offered to an engineer', async () => {
    const site = await Site.open(url, { certificatePage: certificate() }, 'engineer');
    expect(site.button(/Waive a step/).disabled).toBe(true);
  });

  it('is taken back, or tells who ended it', async () => {
    const ended = { ...waiver, id: 4, ended: { at: '2026-03-02T00:00:00.000Z', by: 'its date' } };
    const site = await Site.open(
      url,
      { certificatePage: certificate({ waivers: [waiver, ended] }), takeBackWaiver: refused('It has ended.') },
      'approver',
    );
    expect(site.text).toContain('(by itself)');
    await site.press(/^Withdraw$/);
    expect(site.calls.find(({ name }) => name === 'takeBackWaiver')?.params).toEqual({ id: '5' });
    expect(site.one('[role=alert]').textContent).toContain('It has ended.');
  });
});
