import type { RecognisedFile } from '@loyal-hinge/contract';
import { identity, settings } from '../../testing/plant-answers';
import { Site, refused } from '../../testing/site';
import { authority, parties, thumbprintOf } from '../../testing/trust-answers';

const file = (differs: Partial<RecognisedFile>): RecognisedFile => ({
  name: 'a file',
  kind: 'unknown',
  says: 'It is something.',
  certificates: [],
  crlId: null,
  applicationId: null,
  requestPem: null,
  ...differs,
});
const opened = (recognised: RecognisedFile) =>
  Site.open('/trust/files', {
    trustParties: parties(),
    authorities: { authorities: [authority()] },
    recognise: { files: [recognised] },
    proposeOrder: refused('Not now.'),
    importBundle: { lists: [{ list: 'trusted certificates', count: 1 }], passedOver: [] },
  });
const give = async (site: Site): Promise<void> => site.choose(/Choose files/, 'file', 'bytes');

describe('the page of files', () => {
  it('says what may be brought, while there is nothing', async () => {
    const site = await opened(file({}));
    expect(site.headline).toBe('Files');
    expect(site.text).toContain('They are recognised by what is in them, not by their names.');
  });

  it('offers both lists for an authority, and only the trusted one for an application', async () => {
    const certificate = (letter: string, isAuthority: boolean) => ({
      thumbprint: thumbprintOf(letter),
      name: `Certificate ${letter}`,
      isAuthority,
      shownBy: null,
    });
    const site = await opened(
      file({ kind: 'certificates', certificates: [certificate('C', true), certificate('A', false)] }),
    );
    await give(site);
    expect(site.asked('recognise')).toEqual([{ files: [{ name: 'file', base64: btoa('bytes') }] }]);
    const offers = site.all('article button').map(({ textContent }) => textContent?.trim());
    expect(offers).toEqual(['Into the trusted list …', 'Into the issuers list …', 'Into the trusted list …']);
    await site.fill(/Do it at/, 'Lehr server');
    await site.press(/Into the issuers list/);
    expect(site.asked('proposeOrder')[0]?.lines[0]?.change).toEqual({
      kind: 'list-certificate',
      holderId: 'lehr',
      list: 'issuers',
      thumbprint: thumbprintOf('C'),
      until: null,
    });
  });

  it('gives a CRL to either list', async () => {
    const site = await opened(file({ kind: 'crl', crlId: 'F'.repeat(64) }));
    await give(site);
    await site.press(/Beside the trusted list/);
    expect(site.asked('proposeOrder')[0]?.lines[0]?.change).toEqual({
      kind: 'list-crl',
      holderId: 'furnace',
      list: 'trusted',
      crlId: 'F'.repeat(64),
      before: null,
    });
  });

  it('takes a request to the authority, where it is listed ready', async () => {
    const site = await opened(file({ kind: 'request', requestPem: 'PEM of a request', applicationId: 'crane' }));
    await give(site);
    await site.press(/^Sign …/);
    expect(site.url).toBe('/trust/authority');
    expect(site.text).toContain('The request that you dropped');
  });

  it('takes a certificate with its key to the settings, where only the passphrase is missing', async () => {
    const site = await opened(file({ name: 'display.p12', kind: 'pkcs12' }));
    Object.assign(site.answers, {
      settings: settings(),
      identities: { identities: [identity('display', 'Line display', null)] },
      putIdentity: refused('Not that passphrase.'),
    });
    await give(site);
    await site.press(/Give to a client/);
    expect(site.url).toBe('/settings');
    expect(site.text).toContain('file is here.');
    await site.fill(/^Passphrase of the file/, 'open it');
    await site.press(/^Save certificate and key$/);
    expect(site.asked('putIdentity')).toEqual([{ by: 'pkcs12', base64: btoa('bytes'), passphrase: 'open it' }]);
  });

  it('takes a copied folder over for whom it seems to be of', async () => {
    const site = await opened(file({ kind: 'pki-folder', applicationId: 'crane' }));
    await give(site);
    await site.press(/Import it as the lists of Crane server/);
    expect(site.calls.find(({ name }) => name === 'importBundle')?.params).toEqual({ id: 'crane' });
  });
});
