import { Site } from '../../testing/site';
import { horizonOf } from '../../testing/trust-answers';

const firstCells = (site: Site): (string | undefined)[] => site.rows().map(([name]) => name);

describe('the horizon', () => {
  it('says what is over and what ends next, with what falls', async () => {
    const site = await Site.open('/trust/horizon', { horizon: horizonOf() });
    expect(site.headline).toBe('1 has ended already; next ends Gas meter server: 12 days left, 2 links.');
    expect(firstCells(site)).toEqual(['Inspection server', 'Gas meter server', 'CRL of Works Authority']);
    expect(site.text).toContain('Renew together: Gas meter server, CRL of Works Authority');
  });

  it('shows what takes no link down only when asked to', async () => {
    const site = await Site.open('/trust/horizon', { horizon: horizonOf() });
    await site.fill(/include what interrupts no link/, '');
    expect(site.url).toBe('/trust/horizon?idle=too');
    expect(firstCells(site)).toContain('Old laptop');
  });

  it('leads to certificates, and to none for a CRL', async () => {
    const site = await Site.open('/trust/horizon', { horizon: horizonOf() });
    expect(site.all('tbody a').map((link) => link.getAttribute('href'))).toEqual([
      '/trust/certificates/gone',
      '/trust/certificates/soon',
    ]);
  });

  it('sorts by how many links fall', async () => {
    const site = await Site.open('/trust/horizon', { horizon: horizonOf() });
    await site.sortBy(/^Interrupts/);
    await site.sortBy(/^Interrupts/);
    expect(firstCells(site)[0]).toBe('Gas meter server');
  });

  it('draws what is over to the left of now', async () => {
    const site = await Site.open('/trust/horizon', { horizon: horizonOf() });
    const dashed = site.all('tbody tr').map((row) => row.querySelector('path[stroke-dasharray]') !== null);
    expect(dashed).toEqual([true, false, false]);
  });
});
