import type { AnswerOf, CaseRow, RoundWish } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('rounds');
const linkId = 'line-display--lehr';
let engineer: Caller;
let viewer: Caller;
let link: AnswerOf<'plant'>['links'][number];
beforeAll(async () => {
  await own.setUp();
  const { url } = await own.serve();
  [engineer, viewer] = [await signIn('engineer', url, ownPassword), await signIn('viewer', url, ownPassword)];
  link = (await engineer.call('plant')).links.find(({ id }) => id === linkId) as typeof link;
});
afterAll(() => own.remove());

const wish = (more: Partial<RoundWish> = {}): RoundWish => ({
  name: 'Line display',
  scope: { kind: 'links', linkIds: [linkId] },
  everyMinutes: 1440,
  at: '00:00',
  quiet: null,
  zone: 'UTC',
  perMinute: 60,
  isPaused: false,
  ...more,
});
const timeline = () => viewer.query('timeline', { days: '1', find: link.name });
const stateNow = async () => (await timeline()).rows[0]?.state;
const ownCase = async (): Promise<CaseRow | undefined> =>
  (await viewer.call('casebook')).cases.find((one) => one.linkId === linkId);
/** Runs the round, and waits until its check has seen the link. */
async function seenAs(state: string): Promise<void> {
  const before = (await engineer.call('link', { linkId })).checks.length;
  await engineer.call('runRound', { roundId: 'line-display' });
  await until(
    () => engineer.call('link', { linkId }),
    ({ checks }) => checks.length > before && checks.every(({ endedAt }) => endedAt !== null),
  );
  expect(await until(stateNow, (seen) => seen === state)).toBe(state);
}

describe('rounds', () => {
  it('are kept as they are wanted, and say what is wrong with a wish', async () => {
    expect(await viewer.refused('addRound', {}, wish())).toMatchObject({ status: 403 });
    expect(await engineer.refused('addRound', {}, wish({ scope: { kind: 'zone', zoneId: 'none' } }))).toMatchObject({
      status: 400,
      faults: [{ place: 'scope.zoneId', says: 'Choose a zone of the plant.' }],
    });
    const links = { kind: 'links' as const, linkIds: [linkId, 'none'] };
    expect(await engineer.refused('addRound', {}, wish({ scope: links }))).toMatchObject({
      faults: [{ place: 'scope.linkIds.1', says: 'The plant has no link “none”.' }],
    });
    const always = { days: [1, 2, 3, 4, 5, 6, 7], from: '00:00', to: '00:00' };
    expect(await engineer.refused('addRound', {}, wish({ quiet: always }))).toMatchObject({
      faults: [{ place: 'quiet.to', says: expect.stringContaining('shorten the quiet hours') as string }],
    });
    expect(await engineer.refused('runRound', { roundId: 'none' })).toMatchObject({ status: 404 });
    const kept = await engineer.call('addRound', {}, wish());
    expect(kept).toMatchObject({ id: 'line-display', links: 1, lastRun: null });
    expect(new Date(kept.nextAt ?? '').toISOString()).toMatch(/T00:00:00\.000Z$/);
    const paused = await engineer.call('putRound', { roundId: kept.id }, wish({ isPaused: true }));
    expect(paused.nextAt).toBeNull();
    const zone = (await engineer.call('rounds')).zones[0];
    const whole = await engineer.call(
      'addRound',
      {},
      wish({ name: 'Zone', scope: { kind: 'zone', zoneId: zone?.id ?? '' } }),
    );
    expect(whole.links).toBeGreaterThan(0);
    await engineer.call('removeRound', { roundId: whole.id });
    expect((await viewer.call('rounds')).rounds.map(({ id }) => id)).toEqual(['line-display']);
  });

  it('open a case when a link falls, and prove it when the link works again', async () => {
    await seenAs('Sound');
    expect(await ownCase()).toBeUndefined();

    await engineer.call('putLink', { id: linkId }, { ...link, endpointUrl: 'opc.tcp://lehr.marrowby.example:4999' });
    await seenAs('Parted');
    const fallen = await until(ownCase, (one) => one !== undefined);
    expect(fallen).toMatchObject({ kind: 'link', checks: 1, count: 1, status: { state: 'open' }, assignedTo: null });
    const caseId = fallen?.id ?? '';
    const told = await viewer.call('case', { caseId });
    expect(told.findings.length).toBeGreaterThan(0);
    expect(told.assessment?.state).toBe('Parted');
    expect(told.before.map(({ says }) => says)).toContain(`Link changed by engineer: ${link.name}.`);
    expect(told.people).toContain('engineer');

    await engineer.call('putLink', { id: linkId }, link);
    await seenAs('Sound');
    const proved = await until(ownCase, (one) => one?.status.state === 'proved');
    expect(proved).toMatchObject({ id: caseId, count: 1 });
    const { changes } = await viewer.call('rounds');
    const ofLink = changes.filter((change) => change.linkId === linkId).map(({ from, to }) => [from, to]);
    expect(ofLink.slice(0, 2)).toEqual([
      ['Parted', 'Sound'],
      ['Sound', 'Parted'],
    ]);
    const { rows, availability } = await timeline();
    expect(rows[0]?.months).toEqual([]);
    const year = (await viewer.query('timeline', { days: '366', find: link.name })).rows[0]?.months ?? [];
    expect([12, 13, 14]).toContain(year.length);
    const parted = (months: typeof year) => months.reduce((sum, { ms }) => sum + ms.Parted, 0);
    expect(parted(year)).toBeGreaterThan(0);
    // All of it was just now.
    expect(parted(year.slice(0, -2))).toBe(0);
    expect(rows[0]?.availability.falls).toBe(1);
    expect(availability.partedMs).toBeGreaterThan(0);
    expect(availability.usable).toBeLessThan(1);
  });

  it('leave a case to people: notes, who has it, closed and open again', async () => {
    const caseId = (await ownCase())?.id ?? '';
    const act = (kind: 'note' | 'assign' | 'close' | 'reopen', text: string, to: string | null = null) =>
      engineer.call('actOnCase', { caseId }, { kind, text, to });
    expect(await viewer.refused('actOnCase', { caseId }, { kind: 'note', text: 'x', to: null })).toMatchObject({
      status: 403,
    });
    expect(await engineer.refused('actOnCase', { caseId }, { kind: 'close', text: ' ', to: null })).toMatchObject({
      faults: [{ place: 'text', says: 'Say why.' }],
    });
    expect(
      await engineer.refused('actOnCase', { caseId }, { kind: 'assign', text: '', to: 'nobody here' }),
    ).toMatchObject({ faults: [{ place: 'to', says: 'Choose somebody who signs in here.' }] });
    expect(
      await engineer.refused('actOnCase', { caseId: 'none' }, { kind: 'note', text: 'x', to: null }),
    ).toMatchObject({
      status: 404,
    });
    await act('note', 'The port was typed wrong.');
    await act('assign', '', 'viewer');
    await act('reopen', 'It is not understood yet.');
    expect(await ownCase()).toMatchObject({ status: { state: 'open' }, assignedTo: 'viewer' });
    await act('close', 'A typing error.');
    expect(await ownCase()).toMatchObject({ status: { state: 'closed', by: 'engineer', why: 'A typing error.' } });
    const { acts } = await viewer.call('case', { caseId });
    expect(acts.map(({ kind, text }) => [kind, text])).toEqual([
      ['note', 'The port was typed wrong.'],
      ['assign', ''],
      ['reopen', 'It is not understood yet.'],
      ['close', 'A typing error.'],
    ]);
  });

  it('begin by themselves when their time comes, once', async () => {
    await engineer.call('putRound', { roundId: 'line-display' }, wish());
    const begunBefore = (await viewer.call('rounds')).rounds[0]?.lastRun?.begunAt;
    await own.read(`update rounds set next_at = now() - interval '1 minute'`);
    const begun = await until(
      async () => (await viewer.call('rounds')).rounds[0],
      (round) => round?.lastRun?.begunAt !== begunBefore && round?.lastRun?.pending === 0,
    );
    expect(begun?.lastRun).toMatchObject({ links: 1, askedBy: 'Line display' });
    expect(Date.parse(begun?.nextAt ?? '')).toBeGreaterThan(Date.now());
    const { checks } = await engineer.call('link', { linkId });
    expect(checks[0]?.askedBy).toBe('Line display');
  });
});
