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
      `Take Works CA (${short}) out of the issuers list of Furnace server`,
    );
    expect(sayTrustChange({ kind: 'list-crl', ...at, list: 'trusted', crlId: crl.id }, names).title).toBe(
      'Give Furnace server the CRL of Works CA of 1 February 2026',
    );
    expect(
      sayTrustChange({ kind: 'renew-certificate', applicationId: 'lost', authority: thumbprint }, names),
    ).toMatchObject({
      title: `Give lost a certificate signed by Works CA (${short})`,
      target: 'lost',
    });
    const install = { kind: 'install-certificate', applicationId: 'furnace-server', thumbprint } as const;
    expect(sayTrustChange({ ...install, before: null }, names)).toMatchObject({
      title: `Give Furnace server the certificate Works CA (${short})`,
      before: 'its certificate of today',
    });
    expect(sayTrustChange({ ...install, before: thumbprint }, names).before).toBe(`Works CA (${short})`);
  });
});
