import { Site } from '../../testing/site';
import { aside, order, thumbprintOf } from '../../testing/trust-answers';

const entries = [
  aside(),
  aside({ holderId: 'lehr', holder: 'Lehr server', claims: null, known: 'none', issuer: null, blocks: [] }),
  aside({ holderId: 'tin', holder: 'Tin bath server', dismissed: { by: 'engineer', at: '2026-03-02T10:00:00.000Z' } }),
];

describe('the page of what is set aside', () => {
  it('counts what waits and what blocks, and leaves out what was put off', async () => {
    const site = await Site.open('/trust/set-aside', { setAside: { entries } });
    expect(site.headline).toBe('2 certificates are set aside; 1 blocks a link.');
    expect(site.all('article')).toHaveLength(2);
    await site.fill(/include postponed ones/, '');
    expect(site.url).toBe('/trust/set-aside?off=too');
    expect(site.all('article')).toHaveLength(3);
  });

  it('narrows to words', async () => {
    const site = await Site.open('/trust/set-aside?find=lehr', { setAside: { entries } });
    expect(site.all('article h2').map(({ textContent }) => textContent)).toEqual([
      expect.stringContaining('Lehr server set aside'),
    ]);
    expect(site.text).toContain('nobody that the plant knows');
  });

  it('proposes to trust the leaf for a time, with the links that it opens', async () => {
    const site = await Site.open('/trust/set-aside', {
      setAside: { entries: [aside()] },
      trustWhatIf: {
        turns: [{ linkId: 'l', name: 'Laptop to Furnace', before: 'refused', after: 'trusted', why: '' }],
      },
      proposeOrder: order({ id: 'o9' }),
      order: order({ id: 'o9' }),
    });
    await site.press(/^Trust …$/);
    expect(site.text).toContain('Laptop to Furnace');
    await site.fill(/Until/, '2030-05-01');
    await site.press(/^Propose$/);
    expect(site.asked('proposeOrder')[0]?.lines[0]).toMatchObject({
      change: {
        kind: 'list-certificate',
        holderId: 'furnace',
        thumbprint: thumbprintOf('A'),
        until: new Date('2030-05-01T00:00:00').toISOString(),
      },
      linkIds: ['laptop--furnace'],
    });
    expect(site.url).toBe('/orders/o9');
  });

  it('asks again what would turn when the issuer is chosen', async () => {
    const site = await Site.open('/trust/set-aside', { setAside: { entries: [aside()] }, trustWhatIf: { turns: [] } });
    await site.press(/^Trust …$/);
    await site.fill(/^Trust/, 'its issuer Works Authority, and everything that it signs');
    expect(site.asked('trustWhatIf').map(({ changes: [change] }) => change)).toMatchObject([
      { thumbprint: thumbprintOf('A') },
      { thumbprint: thumbprintOf('C') },
    ]);
    expect(site.text).toContain('This alone opens no link');
  });

  it('sets a certificate beside the one that is known for the same application', async () => {
    const differs = [{ what: 'issuer', known: 'CN=Works Authority', here: 'itself' }];
    const site = await Site.open('/trust/set-aside', {
      setAside: { entries: [aside({ known: 'another', knownThumbprint: thumbprintOf('D'), differs })] },
    });
    expect(site.text).toContain('another certificate for it: compare them first.');
    expect(site.rows()).toEqual([['issuer', 'CN=Works Authority', 'itself']]);
  });

  it('puts a certificate off', async () => {
    const site = await Site.open('/trust/set-aside', {
      setAside: { entries: [aside()] },
      dismissSetAside: { done: true },
    });
    await site.press(/^Postpone$/);
    expect(site.asked('dismissSetAside')).toEqual([
      { holderId: 'furnace', thumbprint: thumbprintOf('A'), dismissed: true },
    ]);
    expect(site.told).toContain('It was postponed.');
  });

  it('says where set-aside certificates come from while there are none', async () => {
    const site = await Site.open('/trust/set-aside', { setAside: { entries: [] } });
    expect(site.headline).toBe('No certificate is set aside.');
    expect(site.text).toContain('read all lists');
  });
});
