import { Site, refused } from '../../../testing/site';
import { authority, order, parties, thumbprintOf } from '../../../testing/trust-answers';

const answers = { trustParties: parties(), authorities: { authorities: [authority()] } };
const outside = authority({
  keyKept: false,
  requests: [
    {
      id: 'r1',
      application: 'Line display',
      requestPem: '-----BEGIN CERTIFICATE REQUEST-----\n',
      madeBy: 'engineer',
      madeAt: '2026-03-01T10:00:00.000Z',
    },
  ],
});

describe('the page of authorities', () => {
  it('tells what it signed and revoked, and warns of its CRL', async () => {
    const site = await Site.open('/trust/authority', answers);
    expect(site.headline).toBe('Works Authority signs for the plant: 1 certificate from here, 1 revoked.');
    expect(site.text).toContain('Its next update is due in 9 days.');
    expect(site.rows().map(([who, serial]) => [who, serial])).toEqual([
      ['Line display', '0A'],
      ['signed before it came here', '0B'],
    ]);
  });

  it('signs a request, and the form stays with what was given until it is signed', async () => {
    const site = await Site.open('/trust/authority', { ...answers, issueCertificate: refused('Not that passphrase.') });
    await site.press(/Sign a request/);
    await site.choose(/Request/, 'display.csr', 'PEM of a request');
    await site.fill(/^For/, 'Crane server');
    await site.fill(/Passphrase/, 'open it');
    await site.press(/^Sign$/);
    expect(site.asked('issueCertificate')).toEqual([
      { applicationId: 'crane', requestPem: 'PEM of a request', validDays: 730, passphrase: 'open it' },
    ]);
    expect(site.one('[role=alert]').textContent).toContain('Not that passphrase.');
    site.answers.issueCertificate = { thumbprint: thumbprintOf('D'), certificatePem: 'PEM', chainPem: 'PEM' };
    await site.fill(/Passphrase/, 'open it now');
    await site.press(/^Sign$/);
    expect(site.text).toContain('Save as PEM');
    expect(site.all('button').map(({ textContent }) => textContent?.trim())).not.toContain('Sign');
  });

  it('is made by an administrator only, with a passphrase', async () => {
    const watched = await Site.open('/trust/authority', answers);
    expect(watched.button(/Create an authority/).disabled).toBe(true);
    const site = await Site.open('/trust/authority', { ...answers, createAuthority: authority() }, 'administrator');
    await site.press(/Create an authority/);
    await site.fill(/^Name/, 'New Authority');
    await site.fill(/^Passphrase/, 'a long passphrase');
    await site.press(/^Create$/);
    expect(site.asked('createAuthority')[0]).toMatchObject({
      commonName: 'New Authority',
      passphrase: 'a long passphrase',
    });
  });

  it('is renewed by an administrator, with its key or a new one, and says what that means', async () => {
    const watched = await Site.open('/trust/authority', answers);
    expect(watched.button(/Renew …/).disabled).toBe(true);
    const site = await Site.open('/trust/authority', { ...answers, renewAuthority: authority() }, 'administrator');
    await site.press(/Renew …/);
    expect(site.text).toContain('What it has signed stays valid');
    await site.fill(/^Key/, 'a new one, RSA 3072');
    expect(site.text).toContain('Everything that it has signed must be signed again');
    await site.fill(/^Present passphrase/, 'open it');
    await site.fill(/^New passphrase/, 'short');
    await site.press(/^Renew$/);
    expect([site.asked('renewAuthority'), site.faults]).toEqual([[], ['The passphrase needs at least 12 letters.']]);
    await site.fill(/^New passphrase/, '');
    await site.press(/^Renew$/);
    expect(site.asked('renewAuthority')).toEqual([
      { newKey: 'RSA 3072', validDays: 3650, passphrase: 'open it', newPassphrase: null },
    ]);
    expect(site.told).toContain('Both are valid side by side');
  });

  it('tells of a former one what still hangs on it, and leads to the plan', async () => {
    const former = authority({
      thumbprint: thumbprintOf('F'),
      isCurrent: false,
      mayRenew: false,
      succession: {
        after: thumbprintOf('C'),
        afterName: 'Works Authority',
        afterSince: '2026-03-01T00:00:00.000Z',
        trustOnlyBefore: ['Lehr'],
        trustBoth: ['Furnace', 'Line display'],
        showBefore: ['a', 'b', 'c', 'd', 'e'],
        isOver: false,
      },
    });
    const both = { trustParties: parties(), authorities: { authorities: [authority(), former] } };
    const site = await Site.open('/trust/authority', both);
    expect(site.headline).toContain('The previous one is still needed.');
    expect(site.all('hinge-succession li').map(({ textContent }) => textContent)).toEqual([
      'Lehr trusts this one, and not yet the one after it.',
      'Furnace and Line display trust both.',
      '5 applications show a certificate that only this one signed.',
    ]);
    expect(site.one('hinge-succession a.act').getAttribute('href')).toBe('/trust/plan?by=authority');
  });

  it('says so where nothing hangs on a former one any more', async () => {
    const succession = {
      after: thumbprintOf('C'),
      afterName: 'Works',
      afterSince: '2026-03-01T00:00:00.000Z',
      trustOnlyBefore: [],
      trustBoth: [],
      showBefore: [],
    };
    const former = authority({
      thumbprint: thumbprintOf('F'),
      isCurrent: false,
      succession: { ...succession, isOver: true },
    });
    const site = await Site.open('/trust/authority', {
      trustParties: parties(),
      authorities: { authorities: [authority(), former] },
    });
    expect(site.text).toContain('Nothing depends on it any more');
    expect(site.text).not.toContain('Plan what is left');
    expect(site.headline).not.toContain('still needed');
  });

  it('revokes with a reason, after asking', async () => {
    const site = await Site.open('/trust/authority', { ...answers, revokeCertificate: authority() }, 'approver');
    await site.press(/^Revoke …$/);
    await site.fill(/Passphrase/, 'open it');
    await site.press(/^Revoke$/);
    expect(site.asked('revokeCertificate')[0]).toMatchObject({ serialNumber: '0A', passphrase: 'open it' });
    expect(site.told).toContain('CRL number 4 names it');
  });

  it('issues the next CRL, and says which', async () => {
    const site = await Site.open('/trust/authority', { ...answers, issueCrl: authority() });
    await site.press(/Issue the next CRL/);
    await site.fill(/Passphrase/, 'open it');
    await site.press(/^Issue$/);
    expect(site.asked('issueCrl')).toEqual([{ passphrase: 'open it' }]);
    expect(site.text).not.toContain('It names all that was revoked');
  });

  it('invites to make one where there is none', async () => {
    const site = await Site.open('/trust/authority', { trustParties: parties(), authorities: { authorities: [] } });
    expect(site.headline).toBe('The plant has no authority of its own yet.');
    expect(site.text).toContain('Create one, or import one');
  });
});

describe('an authority whose key is kept elsewhere', () => {
  const elsewhere = { trustParties: parties(), authorities: { authorities: [outside] } };

  it('has requests made by those that can be asked, and never signs here', async () => {
    const site = await Site.open('/trust/authority', { ...elsewhere, requestCertificate: refused('It is away.') });
    expect(site.text).not.toContain('Sign a request');
    await site.press(/Create a request/);
    expect(site.filled(/^For/)).toBe('which application?');
    expect(await site.offered(/^For/)).toEqual(['Furnace server', 'Lehr server', 'Line display']);
    await site.pick(/^Line display$/);
    await site.press(/^Create$/);
    expect(site.asked('requestCertificate')).toEqual([{ applicationId: 'display' }]);
    expect(site.one('[role=alert]').textContent).toContain('It is away.');
  });

  it('takes the certificate that comes back, and leads to the work order', async () => {
    const site = await Site.open('/trust/authority', {
      ...elsewhere,
      bringCertificate: order({ id: 'o5' }),
      order: order({ id: 'o5' }),
    });
    await site.choose(/Bring the certificate … for Line display/, 'display.pem', 'PEM of a certificate');
    expect(site.asked('bringCertificate')).toEqual([{ certificatePem: 'PEM of a certificate' }]);
    expect(site.url).toBe('/orders/o5');
  });

  it('waits no longer when told so', async () => {
    const site = await Site.open('/trust/authority', { ...elsewhere, dropRequest: { done: true } });
    await site.press(/Withdraw the request/);
    expect(site.calls.find(({ name }) => name === 'dropRequest')?.params).toEqual({ id: 'r1' });
  });
});
