import { Site, refused } from '../../testing/site';
import { holder, order, parties, party, thumbprintOf } from '../../testing/trust-answers';

const answers = { trustParties: parties(), trustHolder: holder() };

describe('the page of an application’s lists', () => {
  it('tells what is there and can’t be read', async () => {
    const site = await Site.open('/trust/lists/furnace', {
      ...answers,
      trustHolder: holder({ unreadable: ['This is not a CRL in DER: it is cut off.'] }),
    });
    expect(site.text).toContain('can’t be read and are ignored');
    expect(site.text).toContain('it is cut off');
  });

  it('tells what lies where, since when and until when', async () => {
    const site = await Site.open('/trust/lists/furnace', answers);
    expect(site.headline).toBe(
      'Furnace server trusts 2 certificates and has set 1 aside; its lists are changed over push management.',
    );
    expect(site.text).toContain('until 20 Mar 2026');
    expect(site.text).toContain('added: trusted: X');
    expect(site.text).toContain('removed: trusted: Y');
  });

  it('reads them, and says what came of it', async () => {
    const site = await Site.open('/trust/lists/furnace', {
      ...answers,
      readTrust: { applicationId: 'furnace', ok: false, says: 'It does not answer.' },
    });
    await site.press(/Read the lists/);
    expect(site.text).toContain('It does not answer.');
  });

  it('keeps how push management is reached, and what was typed where that is refused', async () => {
    const site = await Site.open('/trust/lists/furnace', {
      ...answers,
      setTrustWay: refused('There is no such client.'),
    });
    await site.fill(/^User/, 'administrator');
    await site.fill(/^Password/, 'a secret');
    await site.press(/^Save$/);
    expect(site.asked('setTrustWay')).toEqual([
      {
        way: 'push',
        clientId: 'display',
        endpointUrl: 'opc.tcp://furnace:4840',
        userName: 'administrator',
        password: 'a secret',
      },
    ]);
    expect(site.one('[role=alert]').textContent).toContain('There is no such client.');
    expect(site.filled(/^User/)).toBe('administrator');
    expect(site.filled(/^Password/)).toBe('a secret');
  });

  it('forgets the password when it is kept', async () => {
    const site = await Site.open('/trust/lists/furnace', { ...answers, setTrustWay: { done: true } });
    await site.fill(/^Password/, 'a secret');
    await site.press(/^Save$/);
    expect(site.filled(/^Password/)).toBe('');
  });

  it('proposes to take a certificate out, and to take the newest step back', async () => {
    const site = await Site.open('/trust/lists/furnace', {
      ...answers,
      proposeOrder: refused('Not now.'),
      stepBack: order({ id: 'o3' }),
      order: order({ id: 'o3' }),
    });
    await site.press(/^Remove …/);
    expect(site.asked('proposeOrder')[0]?.lines[0]?.change).toEqual({
      kind: 'unlist-certificate',
      holderId: 'furnace',
      list: 'trusted',
      thumbprint: thumbprintOf('A'),
    });
    await site.press(/Undo this change/);
    expect(site.calls.find(({ name }) => name === 'stepBack')?.params).toEqual({ id: 'furnace', entry: '7' });
    expect(site.url).toBe('/orders/o3');
  });

  it('takes a copied folder over, and names what it skipped', async () => {
    const site = await Site.open('/trust/lists/furnace', {
      ...answers,
      importBundle: {
        lists: [{ list: 'trusted certificates', count: 2 }],
        passedOver: [{ path: 'a.txt', says: 'no certificate' }],
      },
    });
    await site.choose(/PKI folder/, 'pki.zip', 'zip');
    expect(site.asked('importBundle')[0]?.file).toEqual({ name: 'pki.zip', base64: expect.any(String) });
    expect(site.told).toMatch(/2 trusted certificates.*a\.txt \(no certificate\)/);
  });

  it('of a client that the product holds has no way to choose', async () => {
    const site = await Site.open('/trust/lists/display', {
      trustParties: parties(),
      trustHolder: holder({ party: party('display', 'Line display', { way: 'held', kind: 'client' }), access: null }),
    });
    expect(site.text).toContain('By Loyal Hinge, which holds the key and the lists of this client.');
    expect(site.all('select[name=way]')).toEqual([]);
  });
});
