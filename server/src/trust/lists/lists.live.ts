import { signIn } from '../../testing/calls.js';
import type { Caller } from '../../testing/calls.js';
import { plantGiven, thumbprintIn } from '../../testing/given.js';

const taken = plantGiven();
const ownOf = (id: string): string =>
  thumbprintIn(taken.clients.find(({ applicationId }) => applicationId === id)?.certificatePem ?? '');

let engineer: Caller;
beforeAll(async () => {
  engineer = await signIn('engineer');
});

describe('the lists of a running server', () => {
  it('are read over push management, and shown with what they come to', async () => {
    expect(await engineer.call('readTrust', { id: 'cooling-water-server' }, {})).toMatchObject({
      ok: true,
      says: expect.stringContaining('1 trusted certificate, 1 issuer, 1 CRL'),
    });
    const { cells, parties } = await engineer.call('trust');
    expect(parties.find(({ applicationId }) => applicationId === 'cooling-water-server')).toMatchObject({
      way: 'push',
      trusted: 1,
      issuers: 1,
      fault: null,
    });
    const cell = cells.find(
      ({ holderId, thumbprint }) => holderId === 'cooling-water-server' && thumbprint === ownOf('quality-client'),
    );
    expect(cell).toMatchObject({ status: 'BadCertificateUntrusted', linkIds: ['quality--cooling-water'] });
    expect(cell?.says).toContain('is only in the issuers list');
  });

  it('that can’t be reached say why, and what was known stays', async () => {
    const told = await engineer.call('readTrust', { id: 'cutter-server' }, {});
    expect(told).toMatchObject({ ok: false, says: expect.stringContaining('cutter-cabinet-7') });
    const { party } = await engineer.call('trustHolder', { id: 'cutter-server' });
    expect(party).toMatchObject({ readAt: null, fault: expect.stringContaining('cutter-cabinet-7') });
  });

  it('of an application without a way to them are not read', async () => {
    expect(await engineer.call('readTrust', { id: 'crane-server' }, {})).toMatchObject({
      ok: false,
      says: expect.stringContaining('It is not known how push management'),
    });
  });

  it('are nobody’s to read or change who only looks', async () => {
    const viewer = await signIn('viewer');
    expect(await viewer.refused('readTrust', { id: 'furnace-server' }, {})).toMatchObject({ status: 403 });
    expect(await viewer.refused('proposeOrder', {}, {})).toMatchObject({ status: 403 });
  });
});
