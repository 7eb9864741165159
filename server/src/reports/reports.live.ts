import type { ServerReportView, ServerReportsView } from '@loyal-hinge/contract';
import { walkLink } from '../probe/walk-link.js';
import { meansOf, memoryLog, subjectOf } from '../testing/by-hand.js';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { plantGiven } from '../testing/given.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';
import type { UaSession } from '../ua/session.js';

const serverId = 'lehr-server';
const own = ownServer('reports');
let engineer: Caller;
let viewer: Caller;
beforeAll(async () => {
  await own.setUp();
  const { url } = await own.serve();
  [engineer, viewer] = [await signIn('engineer', url, ownPassword), await signIn('viewer', url, ownPassword)];
});
afterAll(() => own.remove());

const view = (): Promise<ServerReportsView> => viewer.call('serverReports', { serverId });
const seen = (fits: (report: ServerReportView) => boolean): Promise<ServerReportsView> =>
  until(view, ({ reports }) => reports.some(fits));

/** Signs in at the server of a link as its client does, beside everything that the product does there. */
async function beside(linkId: string, password: string | null, use: (session: UaSession) => Promise<unknown>) {
  const taken = plantGiven();
  const subject = subjectOf(taken, linkId);
  const means = meansOf(taken, subject);
  let wasIn = false;
  const walk = { ...means, readServerLists: null, password: password ?? means.password };
  await walkLink(subject, walk, memoryLog(), AbortSignal.timeout(20_000), async (session) => {
    wasIn = true;
    await use(session);
  });
  return wasIn;
}

describe('what a server reports', () => {
  it('is nothing before anybody listens; who only looks can’t begin it', async () => {
    expect(await view()).toMatchObject({ listening: null, ended: null, reports: [], total: 0 });
    expect(await viewer.refused('listenToServer', { serverId }, { minutes: 5 })).toMatchObject({ status: 403 });
    expect(await engineer.refused('listenToServer', { serverId: 'nowhere' }, { minutes: 5 })).toMatchObject({
      status: 404,
    });
    expect(await engineer.refused('listenNoMore', { serverId }, {})).toMatchObject({ status: 409 });
  });

  it('is kept while it is listened to: who signed in, who was refused, what was written', async () => {
    await engineer.call('listenToServer', { serverId }, { minutes: 5 });
    await until(view, ({ listening }) => listening?.says === 'Listening.');
    expect(await engineer.refused('listenToServer', { serverId }, { minutes: 5 })).toMatchObject({ status: 409 });
    const linkId = 'line-display--lehr';
    const wasIn = await beside(linkId, null, async (session) => {
      const node = await session.readToWrite('ns=1;s=Lehr/Roller speed wanted');
      await session.write('ns=1;s=Lehr/Roller speed wanted', node.value);
    });
    expect(wasIn).toBe(true);
    const told = await seen(({ kind }) => kind === 'write');
    const of = (kind: ServerReportView['kind']) => told.reports.find((report) => report.kind === kind);
    const created = told.reports.find(({ says }) => says === 'A session was created.');
    expect(created).toMatchObject({ kind: 'session', outcome: 'done', application: 'Line display' });
    expect(of('sign-in')).toMatchObject({ outcome: 'done', userName: 'technician' });
    expect(of('write')?.says).toMatch(/^Written to ns=1;s=Lehr\/Roller speed wanted: [\d.]+ → [\d.]+\.$/);

    expect(await beside(linkId, 'not this one', () => Promise.resolve())).toBe(false);
    const { refused } = await seen(({ kind, outcome }) => kind === 'sign-in' && outcome === 'refused');
    expect(refused).toBeGreaterThan(0);
    // What the server refused is a case, with the event as its evidence.
    const asTechnician = async () => (await viewer.call('casebook')).cases.find((one) => one.as === 'technician');
    const found = await until(asTechnician, (one) => one !== undefined);
    expect(found?.to).toBe('Lehr control');
    const { recent } = await viewer.call('case', { caseId: found?.id ?? '' });
    expect(recent[0]?.evidence).toMatchObject([{ evidenceId: null, file: 'audit events of Lehr server' }]);
    const { listening } = await view();
    expect(listening?.heard).toBeGreaterThan(2);
  });

  it('ends when it is told to, keeps what was heard, and lets checks go on', async () => {
    await engineer.call('listenNoMore', { serverId }, {});
    const { ended, total } = await until(view, ({ listening }) => listening === null);
    expect([ended?.says, total > 2]).toEqual(['It was ended.', true]);
    const check = await engineer.call('checkLink', { linkId: 'history--lehr' }, {});
    await until(
      () => engineer.call('check', { checkId: check.id }),
      (known) => known.check.state === 'done',
    );
  });

  it('says why it can’t be listened to', async () => {
    await engineer.call('listenToServer', { serverId: 'cutter-server' }, { minutes: 1 });
    const { ended } = await until(
      () => viewer.call('serverReports', { serverId: 'cutter-server' }),
      ({ listening }) => listening === null,
    );
    expect(ended?.says).toMatch(/push management|can’t be reached/);
  });
});
