import { read, rootOf } from '../../testing/pki.js';
import { lists, member, plantOf, works } from '../../testing/plant-trust.js';
import type { Works } from '../../testing/plant-trust.js';
import type { Certificate } from '../certificate.js';
import { webCryptoVerifier } from '../x509/signatures.js';
import { shelfOf } from './plant-trust.js';
import type { TrustParty } from './plant-trust.js';
import { isOver, successionOf } from './succession.js';
import type { Succession } from './succession.js';

let site: Works;
let after: Works;
beforeAll(async () => {
  [site, after] = [await works(), await works()];
});

const from = (parties: readonly TrustParty[], to: Certificate): Promise<Succession> => {
  const plant = plantOf(parties, []);
  return successionOf(plant, shelfOf(plant, [site.root, to]), site.root, to, webCryptoVerifier);
};

describe('the succession of an authority', () => {
  it('tells who trusts which of the two, and who shows what hangs below which', async () => {
    const parties = [
      member('display', await site.signed('display'), lists({ trusted: [site.root] })),
      member('furnace', await site.signed('furnace'), lists({ trusted: [site.root, after.root] })),
      member('lehr', await after.signed('lehr'), lists({ trusted: [after.root] })),
      member('stranger', await site.own('stranger'), null),
    ];
    const told = await from(parties, after.root);
    expect(told).toEqual({
      trustOnlyBefore: ['display'],
      trustBoth: ['furnace'],
      trustOnlyAfter: ['lehr'],
      showBefore: ['display', 'furnace'],
      showAfter: ['lehr'],
    });
    expect(isOver(told)).toBe(false);
  });

  it('counts what the old one signed as the new one’s where the key stayed the same', async () => {
    const renewed = read(await rootOf(site.authority, { to: '2040-01-01' }));
    const told = await from(
      [member('display', await site.signed('display'), lists({ trusted: [site.root] }))],
      renewed,
    );
    expect(told).toMatchObject({ showBefore: [], showAfter: ['display'], trustOnlyBefore: ['display'] });
  });

  it('is over when nobody trusts or needs the old one any more', async () => {
    const moved = member('lehr', await after.signed('lehr'), lists({ trusted: [after.root] }));
    expect(isOver(await from([moved], after.root))).toBe(true);
    const kept = { ...moved, lists: lists({ trusted: [after.root, site.root] }) };
    expect(isOver(await from([kept], after.root))).toBe(false);
  });
});
