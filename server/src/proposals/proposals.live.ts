import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { plantGiven, thumbprintIn } from '../testing/given.js';
import { ownPassword, ownServer } from '../testing/own-server.js';

const taken = plantGiven();
const own = ownServer('proposals');
let engineer: Caller;
let administrator: Caller;
let another: Caller;
beforeAll(async () => {
  await own.setUp();
  const { url } = await own.serve();
  [engineer, administrator, another] = (await Promise.all(
    ['engineer', 'administrator', 'approver'].map((name) => signIn(name, url, ownPassword)),
  )) as [Caller, Caller, Caller];
  const settings = await administrator.call('settings');
  await administrator.call('putSettings', {}, { ...settings, approvedByAnother: true });
});
afterAll(() => own.remove());

const waiting = async () => (await engineer.call('proposals')).proposals.filter(({ state }) => state === 'waiting');

describe('where the plant wants a second person', () => {
  it('a new plant waits for another one, who sees what will be other, and accepts it once', async () => {
    const document = await engineer.call('exportPlant');
    const [gone, ...links] = document.plant.links;
    const { waitsAs } = await engineer.call('importPlant', {}, { ...document, plant: { ...document.plant, links } });
    const id = waitsAs ?? '';
    expect(await waiting()).toMatchObject([
      { id, kind: 'plant', proposedBy: 'engineer', says: [`Gone: 1 link: ${gone?.name}.`] },
    ]);
    expect((await engineer.call('links')).fitting).toBe(document.plant.links.length);
    expect(await engineer.refused('acceptProposal', { id }, {})).toMatchObject({ status: 403 });
    const both = await Promise.allSettled(
      [administrator, another].map((caller) => caller.call('acceptProposal', { id }, {})),
    );
    expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    expect((await engineer.call('links')).fitting).toBe(links.length);
    expect(await waiting()).toEqual([]);
    expect(await own.read(`select actor from audit where action = 'plant imported'`)).toEqual([{ actor: 'engineer' }]);
  });

  it('a waiver waits for another approver than the one who gives it', async () => {
    const thumbprint = thumbprintIn(taken.authority.certificatePem);
    const until = new Date(Date.now() + 86_400_000).toISOString();
    const wish = { holderId: 'history-client', thumbprint, step: 'validity period', until, why: 'A test.' } as const;
    const { waiver, waitsAs } = await administrator.call('giveWaiver', {}, wish);
    expect(waiver).toBeNull();
    const id = waitsAs ?? '';
    expect(await administrator.refused('acceptProposal', { id }, {})).toMatchObject({
      status: 409,
      detail: expect.stringContaining('Another person'),
    });
    expect(await own.read('select 1 from waivers')).toEqual([]);
    expect(await another.call('acceptProposal', { id }, {})).toMatchObject({
      state: 'accepted',
      decidedBy: 'approver',
    });
    expect(await own.read('select given_by from waivers')).toEqual([{ given_by: 'administrator' }]);
  });

  it('lists that the product keeps are not replaced by a file', async () => {
    const file = { name: 'x.zip', base64: 'UEsFBgAAAAAAAAAAAAAAAAAAAAAAAA==' };
    const body = { file, copiedAt: new Date().toISOString() };
    expect(await engineer.refused('importBundle', { id: 'history-client' }, body)).toMatchObject({
      status: 409,
      detail: expect.stringContaining('second person'),
    });
  });

  it('the rule itself is let go by two alone, and a refused proposal changes nothing', async () => {
    const settings = await administrator.call('settings');
    const wish = { ...settings, approvedByAnother: false, checksKeptDays: 91 };
    const first = await administrator.call('putSettings', {}, wish);
    expect(first).toMatchObject({ approvedByAnother: true, checksKeptDays: 91 });
    expect(await engineer.refused('refuseProposal', { id: first.waitsAs ?? '' }, {})).toMatchObject({ status: 403 });
    expect(await another.call('refuseProposal', { id: first.waitsAs ?? '' }, {})).toMatchObject({ state: 'refused' });
    expect(await another.refused('acceptProposal', { id: first.waitsAs ?? '' }, {})).toMatchObject({ status: 409 });
    expect(await administrator.call('settings')).toMatchObject({ approvedByAnother: true });
    const second = await administrator.call('putSettings', {}, wish);
    await another.call('acceptProposal', { id: second.waitsAs ?? '' }, {});
    expect(await administrator.call('settings')).toMatchObject({ approvedByAnother: false });
  });
});
