import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { emptyFolder, writePkiFolder } from '@loyal-hinge/core/bundles';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { derOf, given, plantGiven, thumbprintIn } from '../testing/given.js';
import { found } from '../testing/found.js';
import { Pair, listing, unlisting } from '../testing/orders.js';
import { wantSecondPerson } from '../testing/second-person.js';
import { until } from '../testing/until.js';
import { silenceLibrary } from '../ua/quiet.js';

silenceLibrary();
const taken = plantGiven();
const standIns = dirname(given('HINGE_TEST_HANDOVER'));
const authority = thumbprintIn(taken.authority.certificatePem);
const ownOf = (id: string): string =>
  thumbprintIn(taken.clients.find(({ applicationId }) => applicationId === id)?.certificatePem ?? '');

let engineer: Caller;
let approver: Caller;
let pair: Pair;
beforeAll(async () => {
  [engineer, approver] = [await signIn('engineer'), await signIn('administrator')];
  pair = new Pair(engineer, approver);
});

describe('a work order', () => {
  it('is carried out and proved, turns its link Sound, and can be undone', async () => {
    await engineer.call('readTrust', { id: 'cooling-water-server' }, {});
    const order = await pair.carryOut([listing('cooling-water-server', authority)], ['quality--cooling-water']);
    expect(order).toMatchObject({ state: 'proved' });
    expect(order.lines[0]).toMatchObject({
      state: 'proved',
      way: 'push',
      says: 'Written over push management, and read again.',
      before: 'not in the trusted list',
    });
    expect(await found(engineer, 'quality--cooling-water')).toBe('Sound');
    const { history } = await engineer.call('trustHolder', { id: 'cooling-water-server' });
    expect(history[0]?.added[0]).toMatch(/^trusted: Marrowby Glass Works Authority/);
    const undone = await engineer.call('undoLine', { id: order.id, position: '1' }, {});
    expect(undone.lines[0]).toMatchObject({ state: 'undone', provedAt: null });
    expect(await found(engineer, 'quality--cooling-water')).toBe('Parted');
  });

  it('restarts a server that needs it, waits until it is back, and proves by what it reads then', async () => {
    await engineer.call('readTrust', { id: 'cullet-sorter-server' }, {});
    const known = await engineer.call('trustHolder', { id: 'quality-client' });
    const crlId = known.crls[0]?.id ?? '';
    const change = {
      kind: 'list-crl',
      holderId: 'cullet-sorter-server',
      list: 'trusted',
      crlId,
      before: null,
    } as const;
    const order = await pair.carryOut([change], ['quality--cullet-sorter']);
    expect(order.lines[0]).toMatchObject({
      state: 'proved',
      restart: true,
      says: expect.stringContaining('restarted'),
    });
    expect(await found(engineer, 'quality--cullet-sorter')).toBe('Sound');
    const again = await pair.carryOut([change]);
    expect(again.lines[0]?.says).toBe('Its lists held this already; nothing was written.');
    const undone = await engineer.call('undoLine', { id: order.id, position: '1' }, {});
    expect(undone.lines[0]).toMatchObject({ state: 'undone', says: expect.stringContaining('restarted') });
    expect(await engineer.call('readTrust', { id: 'cullet-sorter-server' }, {})).toMatchObject({
      ok: true,
      says: expect.stringContaining('0 CRLs'),
    });
  });

  it('takes nothing away where something could not be given, and goes on where nothing hangs on that', async () => {
    const own = ownOf('quality-client');
    expect(await pair.carryOut([listing('gas-meter-server', own)])).toMatchObject({ state: 'proved' });
    const order = await pair.carryOut([
      unlisting('cutter-server', own),
      unlisting('gas-meter-server', own),
      listing('cutter-server', authority),
    ]);
    expect(order.state).toBe('approved');
    expect(order.lines.map(({ state, target }) => [target, state])).toEqual([
      ['Cutter server', 'failed'],
      ['Cutter server', 'waiting'],
      ['Gas meter server', 'proved'],
    ]);
    expect(order.lines[0]?.says).toContain('cutter-cabinet-7');
    expect(order.lines[1]?.says).toBe('It waits for 1 line that is not done (1).');
  });

  it('leaves to a person what no wire reaches, and proves nothing by the person’s word alone', async () => {
    const order = await pair.carryOut([listing('cullet-crusher-server', authority)]);
    expect(order.lines[0]).toMatchObject({ state: 'by hand', says: expect.stringContaining('bundle') });
    const told = await engineer.call('lineDoneByHand', { id: order.id, position: '1' }, {});
    expect(told.lines[0]).toMatchObject({ state: 'done', says: 'engineer marked it as done.', provedAt: null });
    const copied = (trusted: readonly Uint8Array[]) => ({
      file: {
        name: 'crusher.zip',
        base64: Buffer.from(writePkiFolder({ ...emptyFolder, trusted }, 'crusher', '')).toString('base64'),
      },
      copiedAt: new Date().toISOString(),
    });
    await engineer.call('importBundle', { id: 'cullet-crusher-server' }, copied([]));
    expect((await engineer.call('order', { id: order.id })).state).toBe('done');
    const works = derOf(taken.authority.certificatePem);
    expect(await engineer.call('importBundle', { id: 'cullet-crusher-server' }, copied([works]))).toMatchObject({
      lists: expect.arrayContaining([{ list: 'trusted certificates', count: 1 }]),
    });
    expect(await engineer.call('order', { id: order.id })).toMatchObject({
      state: 'proved',
      lines: [{ state: 'proved', provedAt: expect.any(String) }],
    });
    const whole = readFileSync(join(standIns, 'copied-from-machines', 'cullet-crusher-server.zip')).toString('base64');
    const file = { name: 'whole.zip', base64: whole };
    const copiedAt = new Date().toISOString();
    await engineer.call('importBundle', { id: 'cullet-crusher-server' }, { file, copiedAt });
  });

  it('is approved by an approver only, and by another than its proposer where the plant says so', async () => {
    const lines = [{ change: listing('furnace-server', authority), why: 'A test.', linkIds: [] }];
    const { id } = await engineer.call('proposeOrder', {}, { title: 'A test', lines });
    expect(await engineer.refused('approveOrder', { id }, {})).toMatchObject({ status: 403 });
    expect(await engineer.refused('carryOutOrder', { id }, {})).toMatchObject({
      status: 409,
      detail: 'Only an approved order is carried out.',
    });
    const letGo = await wantSecondPerson(approver, await signIn('approver'));
    try {
      const own = await approver.call('proposeOrder', {}, { title: 'My own', lines });
      expect(await approver.refused('approveOrder', { id: own.id }, {})).toMatchObject({
        detail: expect.stringContaining('another person'),
      });
      expect(await approver.call('approveOrder', { id })).toMatchObject({
        state: 'approved',
        decidedBy: 'administrator',
      });
    } finally {
      await letGo();
    }
    expect(await engineer.call('withdrawOrder', { id }, {})).toMatchObject({ state: 'withdrawn' });
  });

  it('is what mending and undoing become where the plant wants a second person, and so does every other way', async () => {
    const change = {
      kind: 'trust-server-certificate',
      linkId: 'history--tin-bath',
      clientId: 'history-client',
      thumbprint: authority,
    } as const;
    const done = await pair.carryOut([listing('gas-meter-server', ownOf('quality-client'))]);
    const letGo = await wantSecondPerson(approver, await signIn('approver'));
    try {
      const mended = await engineer.call('mend', { linkId: change.linkId }, { change });
      expect(mended).toMatchObject({ checkId: null, says: expect.stringContaining('another person') });
      expect(await engineer.call('order', { id: mended.orderId ?? '' })).toMatchObject({
        state: 'proposed',
        lines: [{ change: { kind: 'list-certificate', holderId: 'history-client', thumbprint: authority } }],
      });
      const undoing = await engineer.call('undoLine', { id: done.id, position: '1' }, {});
      expect(undoing).toMatchObject({ state: 'proposed', lines: [{ change: { kind: 'unlist-certificate' } }] });
      expect(undoing.id).not.toBe(done.id);
      expect((await engineer.call('order', { id: done.id })).lines[0]?.state).toMatch(/done|proved/);
      const { lists } = await engineer.call('trustHolder', { id: 'history-client' });
      expect(lists.filter(({ thumbprint }) => thumbprint === authority)).toEqual([]);
    } finally {
      await letGo();
    }
  });

  it('is undone once, says so where nothing was left to undo, and not at all where it changed nothing', async () => {
    const own = ownOf('line-display-client');
    const wish = listing('gas-meter-server', own);
    const order = await pair.carryOut([wish]);
    const again = await pair.carryOut([wish]);
    expect(again.lines[0]).toMatchObject({ wrote: false });
    expect(await engineer.refused('undoLine', { id: again.id, position: '1' }, {})).toMatchObject({
      status: 409,
      detail: expect.stringContaining('changed nothing'),
    });
    const both = await Promise.allSettled(
      [engineer, approver].map((caller) => caller.call('undoLine', { id: order.id, position: '1' }, {})),
    );
    expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    const third = await pair.carryOut([wish]);
    await pair.carryOut([unlisting('gas-meter-server', own)]);
    expect(await engineer.call('undoLine', { id: third.id, position: '1' }, {})).toMatchObject({
      lines: [{ state: 'undone', says: 'Nothing was left to undo: it was so already.' }],
    });
  });

  it('with a wrong line is refused whole, with the place named', async () => {
    const lines = [{ change: { ...listing('furnace-server', authority), thumbprint: 'zz' }, why: 'x', linkIds: [] }];
    expect(await engineer.refused('proposeOrder', {}, { title: 'A test', lines })).toMatchObject({
      status: 400,
      faults: [{ place: 'lines.0.change.thumbprint' }],
    });
  });

  it('gives trust for a time, and the trust ends by itself', async () => {
    const soon = new Date(Date.now() + 4000).toISOString();
    await engineer.call('readTrust', { id: 'gas-meter-server' }, {});
    const order = await pair.carryOut([listing('gas-meter-server', ownOf('quality-client'), soon)]);
    expect(order.lines[0]).toMatchObject({ state: 'proved' });
    const listed = async () =>
      (await engineer.call('trustHolder', { id: 'gas-meter-server' })).lists.find(
        ({ thumbprint }) => thumbprint === ownOf('quality-client'),
      );
    expect(await listed()).toMatchObject({ until: soon });
    await until(listed, (entry) => entry === undefined);
    const { history } = await engineer.call('trustHolder', { id: 'gas-meter-server' });
    expect(history[0]).toMatchObject({ actor: 'temporary trust', removed: [expect.stringContaining('Quality board')] });
  });
});
