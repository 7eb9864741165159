import { Site } from '../../testing/site';
import { order, plans, thumbprintOf } from '../../testing/trust-answers';

describe('the page of plans', () => {
  it('sets both strategies side by side, with what each costs at a renewal', async () => {
    const site = await Site.open('/trust/plan', { trustPlans: plans() });
    expect(site.headline).toBe(
      'Direct trust: 1 change, 0 restarts, then 3.3 at each renewal. One authority: 1 change, 1 restart, then 1.0 at each renewal.',
    );
    expect(site.text).toContain('The lists of Crane server have not been read');
    expect(site.text).toContain('3.3, at most 4');
  });

  it('shows the changes of the one that the address names', async () => {
    const site = await Site.open('/trust/plan?by=authority', { trustPlans: plans() });
    expect(site.text).toContain('Let Furnace trust the authority');
    await site.press(/Show its changes/);
    expect(site.text).toContain('Let Furnace trust the display');
    expect(site.text).not.toContain('Let Furnace trust the authority');
  });

  it('makes one a work order as a whole', async () => {
    const site = await Site.open('/trust/plan', {
      trustPlans: plans(),
      proposePlan: order({ id: 'o2' }),
      order: order({ id: 'o2' }),
    });
    await site.press(/Create a work order/);
    expect(site.asked('proposePlan')).toEqual([{ strategy: 'direct' }]);
    expect(site.url).toBe('/orders/o2');
  });

  it('says so where nothing is left to do', async () => {
    const { direct } = plans();
    const done = { ...direct, count: 0, fitting: 0, changes: [], remainderCount: 0, remainder: [] };
    const site = await Site.open('/trust/plan', { trustPlans: plans({ direct: done, authority: null, unread: [] }) });
    expect(site.headline).toBe('Every wanted link is trusted both ways, and nothing else is.');
  });

  it('has the words looked for by the server where it shows the first changes alone', async () => {
    const { direct } = plans();
    const finds: (string | undefined)[] = [];
    const answer = ({ find }: Readonly<Record<string, string>>) => {
      finds.push(find);
      return plans({ direct: { ...direct, count: 700, fitting: find ? 1 : 700 } });
    };
    const site = await Site.open('/trust/plan?find=lehr', { trustPlans: answer });
    expect(finds.at(-1)).toBe('lehr');
    await site.fill(/Words to look for/, '');
    expect(site.text).toContain('The first 1 of 700 are shown.');
  });

  it.each([
    [{ links: 0, unread: [] }, 'There is no link yet, so there is nothing to plan.'],
    [{ unread: ['Crane server'] }, 'As far as the lists are known, nothing has to be changed.'],
  ])('claims nothing for %j', async (differs, headline) => {
    const done = { ...plans().direct, count: 0, fitting: 0, changes: [], remainderCount: 0, remainder: [] };
    const site = await Site.open('/trust/plan', { trustPlans: plans({ direct: done, authority: null, ...differs }) });
    expect(site.headline).toBe(headline);
  });

  it('filters its changes by words, in the address', async () => {
    const { direct } = plans();
    const [known] = direct.changes;
    const changes = ['Furnace', 'Lehr', 'Tin bath', 'Cutter', 'Stacker', 'Crane'].map((target) => ({
      why: known?.why ?? '',
      linkIds: [],
      change: { kind: 'unlist-certificate', holderId: target, list: 'trusted', thumbprint: thumbprintOf('A') } as const,
      target,
      title: `Take it from ${target}`,
    }));
    const site = await Site.open('/trust/plan', {
      trustPlans: plans({ direct: { ...direct, count: 6, fitting: 6, changes } }),
    });
    expect(site.rows()).toHaveLength(6);
    await site.fill(/Words to look for/, 'bath');
    expect(site.url).toBe('/trust/plan?find=bath');
    expect(site.rows().map(([where]) => where)).toEqual(['Tin bath']);
  });
});
