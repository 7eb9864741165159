import { lists, member, plantOf, wantedLink, works } from '../../testing/plant-trust.js';
import type { Works } from '../../testing/plant-trust.js';
import type { Certificate } from '../certificate.js';
import { webCryptoVerifier } from '../x509/signatures.js';
import { trustGrid } from './grid.js';
import type { KnownLists } from './plant-trust.js';

let site: Works;
let display: Certificate;
let furnace: Certificate;
beforeAll(async () => {
  site = await works();
  [display, furnace] = [await site.signed('display'), await site.own('furnace')];
});

async function cellOf(held: KnownLists | null, shown = display, crlsDemanded = false) {
  const plant = plantOf(
    [member('display', shown), member('furnace', furnace, held)],
    [wantedLink('display', 'furnace')],
    crlsDemanded,
  );
  const { cells } = await trustGrid(plant, webCryptoVerifier);
  return cells.find(({ holderId, thumbprint }) => holderId === 'furnace' && thumbprint === shown.thumbprint);
}

describe('a cell of the trust grid', () => {
  it('is trusted directly where the certificate itself is in the trusted list', async () => {
    const held = lists({ trusted: [display], issuers: [site.root] });
    expect(await cellOf(held)).toMatchObject({ standing: 'directly', status: 'Good', linkIds: ['display--furnace'] });
  });

  it('is trusted through an issuer that is in the trusted list', async () => {
    expect(await cellOf(lists({ trusted: [site.root] }))).toMatchObject({
      standing: 'through an issuer',
      status: 'Good',
      says: 'Trusted below CN=Works CA, O=Works.',
    });
  });

  it('is not trusted through one that is in the issuers list', async () => {
    expect(await cellOf(lists({ issuers: [site.root] }))).toMatchObject({
      standing: 'not at all',
      status: 'BadCertificateUntrusted',
    });
  });

  it('tells what is skipped there, and until when', async () => {
    const late = await site.own('display', { to: '2026-02-01' });
    const waivers = [
      { thumbprint: late.thumbprint, step: 'validity period', until: '2026-04-01T00:00:00.000Z' },
    ] as const;
    const plant = plantOf(
      [member('display', late), member('furnace', furnace, lists({ trusted: [late] }), { waivers })],
      [wantedLink('display', 'furnace')],
    );
    const { cells } = await trustGrid(plant, webCryptoVerifier);
    expect(cells.find(({ holderId }) => holderId === 'furnace')).toMatchObject({
      status: 'Good',
      says: 'Expired on 1 February 2026. Waived until 1 April 2026.',
    });
  });

  it('is set aside where it is in the rejected list', async () => {
    const held = lists({ rejected: [display], issuers: [site.root] });
    expect(await cellOf(held)).toMatchObject({ standing: 'set aside', status: 'BadCertificateUntrusted' });
  });

  it('is trusted directly and refused all the same where its time is over', async () => {
    const late = await site.own('display', { to: '2026-02-01' });
    expect(await cellOf(lists({ trusted: [late] }), late)).toMatchObject({
      standing: 'directly',
      status: 'BadCertificateTimeInvalid',
      says: 'Expired on 1 February 2026.',
    });
  });

  it('is refused for want of a CRL only where CRLs are demanded', async () => {
    const held = lists({ trusted: [site.root] });
    expect(await cellOf(held, display, true)).toMatchObject({ status: 'BadCertificateRevocationUnknown' });
    expect(await cellOf({ ...held, trustedCrls: [await site.crl()] }, display, true)).toMatchObject({ status: 'Good' });
  });

  it('is not known where nobody has read the lists', async () => {
    expect(await cellOf(null)).toMatchObject({ standing: 'not known', status: '' });
  });
});

describe('the trust grid', () => {
  it('has a column for everything that is shown or listed, once', async () => {
    const stranger = await site.own('stranger');
    const plant = plantOf(
      [
        member('display', display),
        member('furnace', furnace, lists({ trusted: [display, stranger], rejected: [stranger] })),
      ],
      [],
    );
    const { columns } = await trustGrid(plant, webCryptoVerifier);
    expect(columns.map(({ certificate, shownBy }) => [certificate.subject.text, shownBy])).toEqual([
      ['CN=display, O=Works', ['display']],
      ['CN=furnace, O=Works', ['furnace']],
      ['CN=stranger, O=Works', []],
    ]);
  });

  it('does not call an authority in the trusted list wrong for not being an application', async () => {
    const plant = plantOf([member('furnace', furnace, lists({ trusted: [site.root] }))], []);
    const { cells } = await trustGrid(plant, webCryptoVerifier);
    expect(cells).toMatchObject([{ thumbprint: site.root.thumbprint, standing: 'directly', status: 'Good' }]);
  });
});
