import { lists, member, plantOf, wantedLink, works } from '../../testing/plant-trust.js';
import type { Works } from '../../testing/plant-trust.js';
import type { Certificate } from '../certificate.js';
import { shelfOf } from '../plant-trust/plant-trust.js';
import { webCryptoVerifier } from '../x509/signatures.js';
import { whatIf } from './what-if.js';

let site: Works;
let display: Certificate;
let furnace: Certificate;
beforeAll(async () => {
  site = await works();
  [display, furnace] = [await site.own('display'), await site.own('furnace')];
});

const wanted = [wantedLink('display', 'furnace')];
const listing = (kind: 'list-certificate' | 'unlist-certificate', holderId: string, { thumbprint }: Certificate) =>
  ({ kind, holderId, list: 'trusted', thumbprint, until: null }) as const;

describe('what if', () => {
  it('a certificate is taken away: names the link that turns, and why', async () => {
    const plant = plantOf(
      [
        member('display', display, lists({ trusted: [furnace] })),
        member('furnace', furnace, lists({ trusted: [display] })),
      ],
      wanted,
    );
    const turns = await whatIf(
      plant,
      [listing('unlist-certificate', 'furnace', display)],
      shelfOf(plant),
      webCryptoVerifier,
    );
    expect(turns).toEqual([
      {
        linkId: 'display--furnace',
        name: 'display to furnace',
        before: 'trusted',
        after: 'refused',
        why: 'furnace refuses the certificate of display: CN=display, O=Works is not in the trusted list, nor is an issuer of it.',
      },
    ]);
  });

  it('the missing half is added: the link turns, for the reason that it was refused before', async () => {
    const plant = plantOf(
      [member('display', display, lists({ trusted: [furnace] })), member('furnace', furnace)],
      wanted,
    );
    const turns = await whatIf(
      plant,
      [listing('list-certificate', 'furnace', display)],
      shelfOf(plant),
      webCryptoVerifier,
    );
    expect(turns).toMatchObject([{ before: 'refused', after: 'trusted' }]);
  });

  it('only half of what is missing is added: nothing turns', async () => {
    const plant = plantOf([member('display', display), member('furnace', furnace)], wanted);
    const changes = [listing('list-certificate', 'display', furnace)];
    expect(await whatIf(plant, changes, shelfOf(plant), webCryptoVerifier)).toEqual([]);
  });

  it('a certificate is renewed: judges the one that is promised, by those who trust the authority', async () => {
    const plant = plantOf(
      [
        member('display', display, lists({ trusted: [furnace] })),
        member('furnace', furnace, lists({ trusted: [site.root] })),
      ],
      wanted,
    );
    const renew = {
      kind: 'renew-certificate',
      applicationId: 'display',
      authority: site.root.thumbprint,
      before: null,
    } as const;
    const shelf = shelfOf(plant);
    expect(await whatIf(plant, [renew], shelf, webCryptoVerifier)).toMatchObject([
      { before: 'refused', after: 'trusted' },
    ]);
    const taking = [renew, listing('unlist-certificate', 'furnace', site.root)];
    expect(await whatIf(plant, taking, shelf, webCryptoVerifier)).toEqual([]);
  });

  it('lists are not known: the link stays unknown, and nothing is claimed', async () => {
    const plant = plantOf(
      [member('display', display, lists({ trusted: [furnace] })), member('furnace', furnace, null)],
      wanted,
    );
    const changes = [listing('list-certificate', 'furnace', display)];
    expect(await whatIf(plant, changes, shelfOf(plant), webCryptoVerifier)).toEqual([]);
  });
});
