import { identity, settings } from '../../testing/plant-answers';
import { Site, refused } from '../../testing/site';
import { authority, thumbprintOf } from '../../testing/trust-answers';

const answers = {
  settings: settings(),
  identities: {
    identities: [identity('display', 'Line display', thumbprintOf('A')), identity('new', 'New board', null)],
  },
  authorities: { authorities: [authority()] },
};

describe('the settings', () => {
  it('tell what may be dialled, and who lacks a certificate', async () => {
    const site = await Site.open('/settings', answers);
    expect(site.headline).toContain('127.41.0.0/16 may be dialled');
    expect(site.text).toContain('none: no secured channel with this client');
  });

  it('are kept by an administrator only', async () => {
    const watched = await Site.open('/settings', answers);
    expect(watched.button(/^Save$/).disabled).toBe(true);
    const site = await Site.open(
      '/settings',
      { ...answers, putSettings: refused('That is no range.') },
      'administrator',
    );
    await site.fill(/Address ranges/, '10.20.0.0/16\n10.30.0.0/16');
    await site.fill(/Name server/, '10.20.0.53');
    await site.fill(/approved by another person/, '');
    await site.press(/^Save$/);
    expect(site.asked('putSettings')).toEqual([
      settings({ declaredRanges: ['10.20.0.0/16', '10.30.0.0/16'], nameServer: '10.20.0.53', approvedByAnother: true }),
    ]);
    expect(site.one('[role=alert]').textContent).toContain('That is no range.');
  });
});

const ownState = (isSelfSigned: boolean) => ({
  certificate: {
    subject: 'CN=Loyal Hinge',
    issuer: isSelfSigned ? 'CN=Loyal Hinge' : 'CN=Works CA',
    isSelfSigned,
    hosts: ['hinge.works.example'],
    notAfter: '2027-01-01T00:00:00Z',
    sha256: 'AB'.repeat(32),
  },
  hosts: ['hinge.works.example', '10.20.0.5'],
});

describe('the certificate of the server itself', () => {
  it('is signed by the plant’s authority, for the names that are typed', async () => {
    const site = await Site.open(
      '/settings',
      { ...answers, ownCertificate: ownState(true), putOwnCertificate: ownState(false) },
      'administrator',
    );
    expect(site.text).toContain('itself: browsers warn of it');
    site.all('hinge-give-identity').forEach((other) => other.remove());
    await site.fill(/^Host names/, 'no host!');
    await site.press(/Use it from now on/);
    expect(site.faults).toEqual(['“host!”: This is no host name and no address.']);
    await site.fill(/^Host names/, '10.20.0.5');
    await site.fill(/^Passphrase of the authority/, 'open it');
    await site.press(/Use it from now on/);
    expect(site.asked('putOwnCertificate')).toEqual([
      { by: 'authority', authority: thumbprintOf('C'), passphrase: 'open it', hosts: ['10.20.0.5'], validDays: 397 },
    ]);
    expect(site.text).toContain('CN=Works CA');
  });

  it('is not needed where the server is reached only from its own computer', async () => {
    const site = await Site.open(
      '/settings',
      { ...answers, ownCertificate: { certificate: null, hosts: [] } },
      'administrator',
    );
    expect(site.text).toContain('reached only from its own computer');
  });
});

describe('a client’s certificate and key', () => {
  it('are made here, for the hosts that are named, signed by the plant’s authority', async () => {
    const site = await Site.open('/settings', { ...answers, putIdentity: refused('Not that passphrase.') });
    await site.fill(/^Client/, 'New board');
    await site.press(/Create certificate and key/);
    expect([site.asked('putIdentity'), site.faults]).toEqual([[], ['At least one host name or address is needed.']]);
    await site.fill(/Host names/, 'board.works.example 127.41.60.9');
    await site.fill(/Signed by/, 'Works Authority');
    await site.fill(/^Passphrase of the authority/, 'open it');
    await site.press(/Create certificate and key/);
    expect(site.calls.find(({ name }) => name === 'putIdentity')?.params).toEqual({ id: 'new' });
    expect(site.asked('putIdentity')[0]).toEqual({
      by: 'making',
      commonName: 'New board',
      organization: '',
      hosts: ['board.works.example', '127.41.60.9'],
      keyKind: 'RSA 2048',
      validDays: 730,
      authority: { thumbprint: thumbprintOf('C'), passphrase: 'open it' },
    });
    expect(site.one('[role=alert]').textContent).toContain('Not that passphrase.');
  });

  it('come in one file, with its passphrase', async () => {
    const kept = identity('display', 'Line display', thumbprintOf('B'));
    const site = await Site.open('/settings', { ...answers, putIdentity: kept });
    await site.fill(/Certificate and key/, 'come in one file (PKCS#12)');
    await site.choose(/^File/, 'display.p12', 'bytes');
    await site.fill(/^Passphrase of the file/, 'open it');
    await site.press(/Save certificate and key/);
    expect(site.asked('putIdentity')).toEqual([{ by: 'pkcs12', base64: btoa('bytes'), passphrase: 'open it' }]);
  });

  it('come in two files, and neither alone is enough', async () => {
    const kept = identity('display', 'Line display', thumbprintOf('B'));
    const site = await Site.open('/settings', { ...answers, putIdentity: kept });
    await site.fill(/Certificate and key/, 'come in two files (PEM)');
    await site.choose(/^Certificate \(PEM\)/, 'display.pem', 'a certificate');
    await site.press(/Save certificate and key/);
    expect([site.asked('putIdentity'), site.faults]).toEqual([[], ['A private key is needed.']]);
    await site.choose(/^Private key/, 'display.key', 'a key');
    await site.press(/Save certificate and key/);
    expect(site.asked('putIdentity')).toEqual([{ by: 'pem', certificatePem: 'a certificate', privateKeyPem: 'a key' }]);
  });
});
