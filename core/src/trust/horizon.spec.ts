import { lists, member, plantOf, wantedLink, works } from '../testing/plant-trust.js';
import type { Works } from '../testing/plant-trust.js';
import { horizonOf } from './horizon.js';
import { JudgeMemory } from './plant-trust/judged-plant.js';
import type { PlantTrust } from './plant-trust/plant-trust.js';
import { webCryptoVerifier } from './x509/signatures.js';

const judged = (plant: PlantTrust) => new JudgeMemory(webCryptoVerifier).of(plant);
let site: Works;
beforeAll(async () => {
  site = await works();
});

describe('the horizon', () => {
  it('tells what ends first, who shows it and which links fall with it', async () => {
    const soon = await site.own('furnace', { to: '2026-03-13' });
    const display = await site.own('display');
    const plant = plantOf(
      [member('display', display, lists({ trusted: [soon] })), member('furnace', soon, lists({ trusted: [display] }))],
      [wantedLink('display', 'furnace')],
    );
    const { endings } = await horizonOf(judged(plant));
    expect(endings.map(({ subject, applicationIds, linkIds }) => ({ subject, applicationIds, linkIds }))).toEqual([
      { subject: 'CN=furnace, O=Works', applicationIds: ['furnace'], linkIds: ['display--furnace'] },
      { subject: 'CN=display, O=Works', applicationIds: ['display'], linkIds: ['display--furnace'] },
    ]);
  });

  it('tells that an authority takes down everything below it', async () => {
    const [display, furnace] = [await site.signed('display'), await site.signed('furnace')];
    const held = lists({ trusted: [site.root] });
    const plant = plantOf(
      [
        member('display', display, held),
        member('furnace', furnace, held),
        member('lehr', await site.own('lehr'), held),
      ],
      [wantedLink('display', 'furnace'), wantedLink('display', 'lehr')],
    );
    const { endings } = await horizonOf(judged(plant));
    const root = endings.find(({ kind }) => kind === 'authority');
    expect(root).toMatchObject({
      applicationIds: ['display', 'furnace', 'lehr'],
      linkIds: ['display--furnace', 'display--lehr'],
    });
  });

  it('tells when a CRL must be replaced, and what falls only where CRLs are demanded', async () => {
    const [display, furnace] = [await site.signed('display'), await site.signed('furnace')];
    const held = lists({ trusted: [site.root], trustedCrls: [await site.crl({ nextUpdate: '2026-03-05' })] });
    const parties = [member('display', display, held), member('furnace', furnace, held)];
    const links = [wantedLink('display', 'furnace')];
    const crlOf = async (demanded: boolean) =>
      (await horizonOf(judged(plantOf(parties, links, demanded)))).endings.find(({ kind }) => kind === 'crl');
    expect(await crlOf(true)).toMatchObject({ ends: Date.parse('2026-03-05'), linkIds: ['display--furnace'] });
    expect(await crlOf(false)).toMatchObject({ linkIds: [] });
  });

  it('tells when a waiver ends by itself, and which link falls back then', async () => {
    const [late, display] = [await site.own('furnace', { to: '2026-01-01' }), await site.own('display')];
    const until = '2026-03-20T00:00:00.000Z';
    const waivers = [{ thumbprint: late.thumbprint, step: 'validity period', until }] as const;
    const plant = plantOf(
      [
        member('display', display, lists({ trusted: [late] }), { waivers }),
        member('furnace', late, lists({ trusted: [display] })),
      ],
      [wantedLink('display', 'furnace')],
    );
    const { endings } = await horizonOf(judged(plant));
    expect(endings.filter(({ kind }) => kind === 'waiver')).toMatchObject([
      { ends: Date.parse(until), applicationIds: ['display'], linkIds: ['display--furnace'] },
    ]);
  });

  it('puts together what ends close together on the same links, and nothing else', async () => {
    const ends = async (name: string, to: string) => site.own(name, { to });
    const [a, b, c, d] = await Promise.all([
      ends('a', '2026-04-01'),
      ends('b', '2026-04-20'),
      ends('c', '2026-04-02'),
      ends('d', '2027-04-01'),
    ]);
    const plant = plantOf(
      [member('a', a, lists({ trusted: [b] })), member('b', b), member('c', c), member('d', d)],
      [wantedLink('a', 'b'), wantedLink('c', 'd')],
    );
    const { groups } = await horizonOf(judged(plant));
    expect(groups).toMatchObject([
      { endingIds: [a?.thumbprint, b?.thumbprint], says: expect.stringContaining('2 certificates of 1 link') },
    ]);
  });
});
