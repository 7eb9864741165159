import { lists, member, plantOf, wantedLink, works } from '../../testing/plant-trust.js';
import type { Works } from '../../testing/plant-trust.js';
import type { Certificate } from '../certificate.js';
import { shelfOf } from './plant-trust.js';
import type { Shelf } from './plant-trust.js';
import { changedLists, inSafeOrder, keyOfChange, listingCrl, onPaper, targetOf, undoOf } from './trust-change.js';
import type { TrustChange } from './trust-change.js';

let site: Works;
let display: Certificate;
let shelf: Shelf;
beforeAll(async () => {
  site = await works();
  display = await site.own('display');
  shelf = shelfOf({ parties: [] }, [site.root, display]);
});

const at = (list: 'trusted' | 'issuers', { thumbprint }: Certificate) => ({ holderId: 'furnace', list, thumbprint });
const give = (list: 'trusted' | 'issuers', certificate: Certificate): TrustChange => ({
  kind: 'list-certificate',
  ...at(list, certificate),
  until: null,
});
const take = (list: 'trusted' | 'issuers', certificate: Certificate): TrustChange => ({
  kind: 'unlist-certificate',
  ...at(list, certificate),
});

describe('lists after changes', () => {
  it('hold what was given, once, and no longer set it aside', () => {
    const after = changedLists(
      lists({ rejected: [display] }),
      [give('trusted', display), give('trusted', display)],
      shelf,
    );
    expect(after).toEqual(lists({ trusted: [display] }));
  });

  it('keep what is set aside where it only completes chains', () => {
    const after = changedLists(lists({ rejected: [site.root] }), [give('issuers', site.root)], shelf);
    expect(after).toEqual(lists({ issuers: [site.root], rejected: [site.root] }));
  });

  it('lose only what is taken away, from that list alone', () => {
    const before = lists({ trusted: [display, site.root], issuers: [site.root] });
    expect(changedLists(before, [take('trusted', site.root)], shelf)).toEqual(
      lists({ trusted: [display], issuers: [site.root] }),
    );
  });

  it('are the same again when a change is undone', () => {
    const before = lists({ trusted: [site.root] });
    const change = give('trusted', display);
    const undo = undoOf(change);
    if (!undo) throw new Error('there is no way back');
    expect(changedLists(before, [change, undo], shelf)).toEqual(before);
  });

  it('take a newer CRL in the place of the older one of the same authority', async () => {
    const [older, newer] = [await site.crl({ thisUpdate: '2026-01-01' }), await site.crl({ thisUpdate: '2026-02-20' })];
    const known = { ...shelf, crls: [older, newer] };
    const bring = (crlId: string): TrustChange => ({
      kind: 'list-crl',
      holderId: 'furnace',
      list: 'trusted',
      crlId,
      before: null,
    });
    expect(changedLists(lists({ trustedCrls: [older] }), [bring(newer.id)], known).trustedCrls).toEqual([newer]);
    const back = changedLists(lists({ trustedCrls: [newer] }), [bring(older.id)], known).trustedCrls;
    expect(back).toEqual([newer, older]);
  });

  it('get the older CRL back where the newer one is undone', async () => {
    const [older, newer] = [await site.crl({ thisUpdate: '2026-01-01' }), await site.crl({ thisUpdate: '2026-02-20' })];
    const known = { ...shelf, crls: [older, newer] };
    for (const [list, key] of [
      ['trusted', 'trustedCrls'],
      ['issuers', 'issuerCrls'],
    ] as const) {
      const held = lists({ [key]: [older] });
      const change = listingCrl('furnace', list, newer, held);
      expect(change).toMatchObject({ crlId: newer.id, before: older.id });
      const undo = undoOf(change) as TrustChange;
      expect(changedLists(held, [change, undo], known)).toEqual(held);
      expect(undoOf(undo)).toEqual(change);
    }
  });

  it('lose a CRL that took nobody’s place without another one coming', async () => {
    const [own, other] = [await site.crl(), await (await works('Other CA')).crl()];
    const change = listingCrl('furnace', 'trusted', own, lists({ trustedCrls: [other] }));
    expect(change).toMatchObject({ before: null });
    const known = { ...shelf, crls: [own, other] };
    const undone = changedLists(lists({ trustedCrls: [other, own] }), [undoOf(change) as TrustChange], known);
    expect(undone.trustedCrls).toEqual([other]);
  });

  it('are left alone by what nobody knows', () => {
    const unknown: TrustChange = { ...give('trusted', display), thumbprint: '00' } as TrustChange;
    expect(changedLists(lists(), [unknown], shelf)).toEqual(lists());
  });
});

describe('a plant on paper', () => {
  it('changes only the application that is the target, and claims nothing of lists that nobody knows', () => {
    const plant = plantOf(
      [member('furnace', null), member('lehr', null), member('cutter', null, null)],
      [wantedLink('furnace', 'lehr')],
    );
    const elsewhere: TrustChange = { ...give('trusted', display), holderId: 'cutter' } as TrustChange;
    const after = onPaper(plant, [give('trusted', display), elsewhere], shelf);
    expect(after.parties.map((party) => party.lists?.trusted.length ?? null)).toEqual([1, 0, null]);
  });
});

describe('changes', () => {
  const renew: TrustChange = { kind: 'renew-certificate', applicationId: 'lehr', authority: 'AA', before: null };

  it('have a target, and a key that tells the same from another', () => {
    expect([targetOf(renew), targetOf(give('trusted', display))]).toEqual(['lehr', 'furnace']);
    const keys = [renew, give('trusted', display), give('issuers', display), take('trusted', display)].map(keyOfChange);
    expect(new Set(keys).size).toBe(4);
  });

  it('give the certificate from before again, and have no way back where nobody knows it', () => {
    expect(undoOf({ ...renew, before: 'BB' } as TrustChange)).toEqual({
      kind: 'install-certificate',
      applicationId: 'lehr',
      thumbprint: 'BB',
      before: null,
    });
    expect(undoOf(renew)).toBeNull();
  });

  it('stand in an order in which nothing is cut off in between', () => {
    const order = inSafeOrder(
      [take('trusted', display), renew, give('trusted', display)].map((change) => ({ change })),
    );
    expect(order.map(({ change }) => change.kind)).toEqual([
      'list-certificate',
      'renew-certificate',
      'unlist-certificate',
    ]);
  });
});

describe('a certificate that was signed elsewhere', () => {
  const install = (thumbprint: string, before: string | null): TrustChange => ({
    kind: 'install-certificate',
    applicationId: 'display',
    thumbprint,
    before,
  });

  it('is shown on paper, and lists stay as they are', async () => {
    const signed = await site.signed('display');
    const held = lists({ trusted: [site.root] });
    const plant = plantOf([member('display', display, held), member('furnace', await site.own('furnace'))], []);
    const known = shelfOf({ parties: [] }, [display, signed]);
    const [changed, other] = onPaper(plant, [install(signed.thumbprint, display.thumbprint)], known).parties;
    expect(changed).toMatchObject({ certificate: signed, lists: held });
    expect(other?.certificate).toBe(plant.parties[1]?.certificate);
    expect(onPaper(plant, [install('00', null)], known).parties[0]?.certificate).toBe(display);
  });

  it('has its way back where the one before is known', () => {
    expect(undoOf(install('AA', 'BB'))).toEqual(install('BB', 'AA'));
    expect(undoOf(install('AA', null))).toBeNull();
    expect(targetOf(install('AA', null))).toBe('display');
    expect(keyOfChange(install('AA', null))).not.toBe(keyOfChange(install('BB', null)));
  });

  it('comes after what gives trust, and before what takes it away', () => {
    const lines = [take('trusted', display), install('AA', null), give('trusted', site.root)].map((change) => ({
      change,
    }));
    expect(inSafeOrder(lines).map(({ change }) => change.kind)).toEqual([
      'list-certificate',
      'install-certificate',
      'unlist-certificate',
    ]);
  });
});
