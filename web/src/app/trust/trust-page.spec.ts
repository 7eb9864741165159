import { Site, refused } from '../../testing/site';
import { finding, overview, thumbprintOf } from '../../testing/trust-answers';

describe('the page of the trust grid', () => {
  it('says the finding, and shows what of the grid the address asks for', async () => {
    const refusedRows = overview().parties.slice(0, 1);
    const site = await Site.open('/trust?only=refused', {
      trust: ({ only }) => (only === 'refused' ? overview({ fitting: 1, parties: refusedRows }) : overview()),
      trustFinding: finding(),
    });
    expect(site.headline).toBe('1 link stops at trust.');
    expect(site.all('tbody th[scope=row]').map(({ textContent }) => textContent?.trim())).toEqual(['Furnace server']);
    await site.fill(/Which trust/, 'everything');
    expect(site.url).toBe('/trust');
    expect(site.all('tbody th[scope=row]')).toHaveLength(4);
  });

  it('of a large plant shows some applications at a time, and leads to the others', async () => {
    const site = await Site.open('/trust', {
      trust: ({ from }) => overview({ from: Number(from ?? 0), fitting: 64 }),
      trustFinding: finding(),
    });
    expect(site.text).toContain('Applications 1 to 4 of 64');
    expect(site.button(/Previous/).disabled).toBe(true);
    await site.press(/^Next$/);
    expect(site.url).toBe('/trust?from=4');
    expect(site.text).toContain('Applications 5 to 8 of 64');
  });

  it('keeps folded zones in the address', async () => {
    const site = await Site.open('/trust', { trust: overview(), trustFinding: finding() });
    await site.press(/Cold End/);
    expect(site.url).toBe('/trust?folded=Cold%20End');
    expect(site.all('tbody th[scope=row]')).toHaveLength(2);
    await site.press(/Cold End/);
    expect(site.url).toBe('/trust');
  });

  it('has all lists read, and says what comes of it', async () => {
    const site = await Site.open('/trust', {
      trust: overview(),
      trustFinding: finding(),
      readAllTrust: { applicationIds: ['furnace', 'lehr'] },
    });
    site.button(/Read all lists/).click();
    // At once, before the server has put the grid together anew.
    await site.until(() => site.text.includes('2 lists being read'));
    expect(site.asked('readAllTrust')).toHaveLength(1);
    expect(site.told).toContain('The lists of 2 servers are being read');
    expect(site.button(/Read all lists/).disabled).toBe(true);
  });

  it('explains a cell, and proposes the change that would open the link', async () => {
    const site = await Site.open(`/trust?cell=furnace%20${thumbprintOf('A')}`, {
      trust: overview(),
      trustFinding: finding(),
      trustWhatIf: { turns: [] },
      proposeOrder: refused('Somebody else did that.'),
    });
    expect(site.text).toContain('It is among the rejected ones.');
    await site.press(/Add to a work order/);
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
    const site = await Site.open('/trust', { trust: overview(), trustFinding: finding() }, 'viewer');
    expect(site.button(/Read all lists/).disabled).toBe(true);
  });

  it('says what belongs there while the plant is empty', async () => {
    const site = await Site.open('/trust', {
      trust: overview({ fitting: 0, parties: [], columns: [], cells: [] }),
      trustFinding: finding({ headline: 'There is no link yet.' }),
    });
    expect(site.text).toContain('It fills as soon as there are applications and links.');
  });

  it('says so when the server can’t be asked', async () => {
    const site = await Site.open('/trust', {
      trust: refused('The database can’t be reached.', 503),
      trustFinding: refused('The database can’t be reached.', 503),
    });
    expect(site.one('[role=alert]').textContent).toContain('The database can’t be reached.');
  });
});
