import { lists, member, plantOf, works } from '../../../../core/src/testing/plant-trust.js';
import { holds } from './holding.js';

type Known = Parameters<typeof holds>[1];

const plant = { name: 'Works', zones: [], machines: [], links: [] };

async function known(): Promise<{ trust: Known; root: string; crlId: string }> {
  const site = await works();
  const [signed, crl] = [await site.signed('furnace'), await site.crl()];
  const parties = [
    member('furnace', signed, lists({ trusted: [site.root], trustedCrls: [crl] })),
    member('lehr', await site.own('lehr'), null),
  ];
  return {
    trust: {
      trust: plantOf(parties, []),
      plant: { ...plant, applications: [] },
      shelf: { certificates: new Map([[site.root.thumbprint, site.root]]), crls: [crl] },
    } as unknown as Known,
    root: site.root.thumbprint,
    crlId: crl.id,
  };
}

describe('whether a change holds, by what was read', () => {
  it('is so where the list has what was given, and has not what was taken away', async () => {
    const { trust, root } = await known();
    const at = { holderId: 'furnace', thumbprint: root } as const;
    expect(holds({ kind: 'list-certificate', ...at, list: 'trusted', until: null }, trust)).toBe(true);
    expect(holds({ kind: 'list-certificate', ...at, list: 'issuers', until: null }, trust)).toBe(false);
    expect(holds({ kind: 'unlist-certificate', ...at, list: 'trusted' }, trust)).toBe(false);
    expect(holds({ kind: 'unlist-certificate', ...at, list: 'issuers' }, trust)).toBe(true);
  });

  it('is so for a CRL beside the right list only', async () => {
    const { trust, crlId } = await known();
    expect(holds({ kind: 'list-crl', holderId: 'furnace', list: 'trusted', crlId, before: null }, trust)).toBe(true);
    expect(holds({ kind: 'list-crl', holderId: 'furnace', list: 'issuers', crlId, before: null }, trust)).toBe(false);
    const away = { kind: 'unlist-crl', holderId: 'furnace', crlId, instead: null } as const;
    expect(holds({ ...away, list: 'trusted' }, trust)).toBe(false);
    expect(holds({ ...away, list: 'issuers' }, trust)).toBe(true);
    expect(holds({ ...away, list: 'issuers', instead: crlId }, trust)).toBe(false);
  });

  it('is never so where nobody has read the lists', async () => {
    const { trust, root } = await known();
    expect(holds({ kind: 'unlist-certificate', holderId: 'lehr', list: 'trusted', thumbprint: root }, trust)).toBe(
      false,
    );
  });

  it('is so for a new certificate where the application shows one of that authority', async () => {
    const { trust, root } = await known();
    expect(holds({ kind: 'renew-certificate', applicationId: 'furnace', authority: root, before: null }, trust)).toBe(
      true,
    );
    expect(holds({ kind: 'renew-certificate', applicationId: 'lehr', authority: root, before: null }, trust)).toBe(
      false,
    );
  });

  it('is so for a certificate that was signed elsewhere where the application shows that very one', async () => {
    const { trust, root } = await known();
    const shown = trust.trust.parties[0]?.certificate?.thumbprint ?? '';
    const install = { kind: 'install-certificate', applicationId: 'furnace', before: null } as const;
    expect(holds({ ...install, thumbprint: shown }, trust)).toBe(true);
    expect(holds({ ...install, thumbprint: root }, trust)).toBe(false);
  });
});
