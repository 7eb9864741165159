import { Site, refused } from '../../testing/site';
import { overview, thumbprintOf } from '../../testing/trust-answers';

describe('the page of the trust grid', () => {
  it('says the finding, and shows what of the grid the address asks for', async () => {
    const site = await Site.open('/trust?only=refused', { trust: overview() });
    expect(site.headline).toBe('1 link stops at trust.');
    expect(site.all('tbody th[scope=row]').map(({ textContent }) => textContent?.trim())).toEqual(['Furnace server']);
    await site.fill(/Which trust/, 'all');
    expect(site.url).toBe('/trust');
    expect(site.all('tbody th[scope=row]')).toHaveLength(4);
  });

  it('keeps folded zones in the address', async () => {
    const site = await Site.open('/trust', { trust: overview() });
    await site.press(/Cold End/);
    expect(site.url).toBe('/trust?folded=Cold%20End');
    expect(site.all('tbody th[scope=row]')).toHaveLength(2);
    await site.press(/Cold End/);
    expect(site.url).toBe('/trust');
  });

  it('has all lists read, and says what comes of it', async () => {
    const site = await Site.open('/trust', {
      trust: overview(),
      readAllTrust: { applicationIds: ['furnace', 'lehr'] },
    });
    await site.press(/Read all lists/);
    expect(site.asked('readAllTrust')).toHaveLength(1);
    expect(site.one('.says').textContent).toContain('The lists of 2 servers are being read');
    // At once, before the server has put the grid together anew.
    expect(site.text).toContain('2 lists being read');
    expect(site.button(/Read all lists/).disabled).toBe(true);
  });

  it('explains a cell, and proposes the change that would open the link', async () => {
    const site = await Site.open(`/trust?cell=furnace%20${thumbprintOf('A')}`, {
      trust: overview(),
      trustWhatIf: { turns: [] },
      proposeOrder: refused('Somebody else did that.'),
    });
    expect(site.text).toContain('It lies among the rejected ones.');
    await site.press(/Put it into a work order/);
    expect(site.asked('proposeOrder')[0]).toMatchObject({
      lines: [
        {
          change: { kind: 'list-certificate', holderId: 'furnace', thumbprint: thumbprintOf('A') },
          linkIds: ['display--furnace'],
        },
      ],
    });
  });

  it('offers nothing to somebody who only looks', async () => {
    const site = await Site.open('/trust', { trust: overview() }, 'viewer');
    expect(site.button(/Read all lists/).disabled).toBe(true);
  });

  it('says what belongs there while the plant is empty', async () => {
    const site = await Site.open('/trust', { trust: overview({ parties: [], columns: [], cells: [] }) });
    expect(site.text).toContain('It fills as soon as there are applications and links.');
  });

  it('says so when the server can’t be asked', async () => {
    const site = await Site.open('/trust', { trust: refused('The database is away.', 503) });
    expect(site.one('[role=alert]').textContent).toContain('The database is away.');
  });
});
