import { works } from '../testing/plant-trust.js';
import { shelfOf } from '../trust/plant-trust/plant-trust.js';
import { sayTrustChange, trustNames } from './say-trust-change.js';

describe('a change of trust in words', () => {
  it('names application, certificate and CRL, both states and the way back', async () => {
    const site = await works();
    const crl = await site.crl();
    const shelf = { ...shelfOf({ parties: [] }, [site.root]), crls: [crl] };
    const names = trustNames([{ id: 'furnace-server', name: 'Furnace server' }], shelf);
    const { thumbprint } = site.root;
    const short = thumbprint.slice(0, 8);
    const at = { holderId: 'furnace-server' };
    expect(
      sayTrustChange(
        { kind: 'list-certificate', ...at, list: 'trusted', thumbprint, until: '2026-05-01T00:00:00.000Z' },
        names,
      ),
    ).toMatchObject({
      title: `Let Furnace server trust Works CA (${short}), until 1 May 2026`,
      before: 'not in the trusted list',
      after: 'in the trusted list, until 1 May 2026',
    });
    expect(sayTrustChange({ kind: 'unlist-certificate', ...at, list: 'issuers', thumbprint }, names).title).toBe(
      `Remove Works CA (${short}) from the issuers list of Furnace server`,
    );
    expect(sayTrustChange({ kind: 'list-crl', ...at, list: 'trusted', crlId: crl.id, before: null }, names).title).toBe(
      'Give Furnace server the CRL of Works CA of 1 February 2026',
    );
    expect(
      sayTrustChange({ kind: 'renew-certificate', applicationId: 'lost', authority: thumbprint, before: null }, names),
    ).toMatchObject({
      title: `Give lost a certificate signed by Works CA (${short})`,
      target: 'lost',
    });
    const install = { kind: 'install-certificate', applicationId: 'furnace-server', thumbprint } as const;
    expect(sayTrustChange({ ...install, before: null }, names)).toMatchObject({
      title: `Give Furnace server the certificate Works CA (${short})`,
      before: 'its present certificate',
    });
    expect(sayTrustChange({ ...install, before: thumbprint }, names).before).toBe(`Works CA (${short})`);
  });

  it('says which CRL takes whose place, and what comes back', async () => {
    const site = await works();
    const [older, newer] = [await site.crl({ thisUpdate: '2026-01-01' }), await site.crl({ thisUpdate: '2026-02-20' })];
    const names = trustNames([{ id: 'lehr', name: 'Lehr server' }], {
      ...shelfOf({ parties: [] }),
      crls: [older, newer],
    });
    const at = { holderId: 'lehr', list: 'issuers', crlId: newer.id } as const;
    expect(sayTrustChange({ kind: 'list-crl', ...at, before: older.id }, names)).toMatchObject({
      before: 'the CRL of Works CA of 1 January 2026 beside the issuers list',
      after: 'beside the issuers list',
      undo: 'Remove it, and restore the CRL of Works CA of 1 January 2026.',
    });
    expect(sayTrustChange({ kind: 'unlist-crl', ...at, instead: older.id }, names)).toMatchObject({
      title: 'Remove the CRL of Works CA of 20 February 2026 from Lehr server',
      after: 'the CRL of Works CA of 1 January 2026 beside the issuers list instead',
    });
    expect(sayTrustChange({ kind: 'unlist-crl', ...at, instead: null }, names).after).toBe(
      'not beside the issuers list',
    );
  });
});
