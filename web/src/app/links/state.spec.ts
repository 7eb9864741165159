import type { HingeEvent, LinkRow } from '@loyal-hinge/contract';
import { boardOf } from '../../testing/plant-answers';
import { boardHeadline, linkActions, linksFeature } from './state';

const wish = { find: '', state: '', by: 'place' } as const;

const row = (id: string, state: LinkRow['state'], partedAt: LinkRow['partedAt'] = null): LinkRow => ({
  id,
  kind: 'ua',
  name: id,
  client: 'c',
  clientZone: '',
  server: 's',
  serverZone: '',
  endpointUrl: 'opc.tcp://s:4840',
  state,
  headline: '',
  partedAt,
  leadingCause: null,
  verdicts: Array.from({ length: 13 }, () => 'unknown' as const),
  checkedAt: null,
  checkId: null,
  waitsFor: null,
});

describe('the step board', () => {
  it('tells the finding in one sentence', () => {
    const none = { Parted: 0, Strained: 0, Untried: 0, Sound: 0 };
    expect(boardHeadline({ ...none, Parted: 1, Strained: 1, Sound: 1 }, true)).toBe(
      '1 of 3 links is parted; 1 strained, 1 sound.',
    );
    expect(boardHeadline({ ...none, Sound: 2 }, true)).toBe('All 2 links are sound.');
    expect(boardHeadline(none, true)).toBe('There is no link yet.');
  });

  it('keeps rows by their places, and drops what comes for another wish', () => {
    const { reducer, selectPlaces } = linksFeature;
    const rows = [row('a', 'Parted'), row('b', 'Sound')];
    let state = reducer(undefined, linkActions.loaded({ wish, board: boardOf(rows, { from: 40, fitting: 50 }) }));
    expect(Object.keys(selectPlaces({ links: state }))).toEqual(['40', '41']);
    const other = { ...wish, find: 'lehr' };
    state = reducer(state, linkActions.look({ wish: other }));
    expect(selectPlaces({ links: state })).toEqual({});
    state = reducer(state, linkActions.loaded({ wish, board: boardOf(rows) }));
    expect([state.loaded, selectPlaces({ links: state })]).toEqual([false, {}]);
  });

  it('forgets places that are behind the last row', () => {
    const { reducer, selectPlaces } = linksFeature;
    let state = reducer(
      undefined,
      linkActions.loaded({ wish, board: boardOf([row('a', 'Sound'), row('b', 'Sound')]) }),
    );
    state = reducer(state, linkActions.loaded({ wish, board: boardOf([row('b', 'Sound')]) }));
    expect(Object.values(selectPlaces({ links: state })).map(({ id }) => id)).toEqual(['b']);
  });

  it('follows a check live: its step, its verdicts, its end', () => {
    const { reducer } = linksFeature;
    let state = reducer(undefined, linkActions.loaded({ wish, board: boardOf([row('a', 'Untried')]) }));
    state = reducer(
      state,
      linkActions.heard({
        event: {
          kind: 'check-step',
          checkId: '1',
          linkId: 'a',
          step: 'reach',
          verdicts: Array.from({ length: 13 }, () => 'holds' as const),
        },
      }),
    );
    expect(state.working).toEqual({ a: 'reach' });
    expect(state.entities['a']).toMatchObject({ checkId: '1' });
    expect(state.entities['a']?.verdicts[0]).toBe('holds');
    state = reducer(
      state,
      linkActions.heard({ event: { kind: 'check-ended', checkId: '1', linkId: 'a', state: 'done', found: 'Sound' } }),
    );
    expect([state.working, state.entities['a']?.checkId]).toEqual([{}, null]);
  });

  it('keeps whom a check waits for until it begins, ends or is asked for again', () => {
    const { reducer } = linksFeature;
    const waits = { kind: 'check-waits', checkId: '1', linkId: 'a', waitsFor: 'the check of B' } as const;
    const loaded = reducer(undefined, linkActions.loaded({ wish, board: boardOf([row('a', 'Parted')]) }));
    const waiting = reducer(loaded, linkActions.heard({ event: waits }));
    expect(waiting.entities['a']).toMatchObject({ checkId: '1', waitsFor: 'the check of B' });
    for (const event of [
      { kind: 'check-asked', checkId: '2', linkId: 'a' },
      { kind: 'check-ended', checkId: '1', linkId: 'a', state: 'failed', found: null },
    ] as const)
      expect(reducer(waiting, linkActions.heard({ event })).entities['a']?.waitsFor).toBeNull();
  });

  it('lets nothing that is heard late bring an ended check back', () => {
    const { reducer } = linksFeature;
    const heard = (state: ReturnType<typeof reducer>, event: HingeEvent) =>
      reducer(state, linkActions.heard({ event }));
    const asked = { kind: 'check-asked', checkId: '1', linkId: 'a' } as const;
    let state = reducer(undefined, linkActions.loaded({ wish, board: boardOf([row('a', 'Parted')]) }));
    state = heard(state, { kind: 'check-ended', checkId: '1', linkId: 'a', state: 'done', found: 'Sound' });
    expect(heard(state, asked).entities['a']?.checkId).toBeNull();
    expect(heard(state, { ...asked, checkId: '2' }).entities['a']?.checkId).toBe('2');
  });

  it('keeps the remedy on the table where carrying it out failed', () => {
    const { reducer } = linksFeature;
    const remedy = {
      title: 't',
      target: 'x',
      before: 'a',
      after: 'b',
      change: { kind: 'by-hand' as const },
      restart: false,
      undo: 'u',
    };
    const problem = { title: 'No', detail: 'd', remedy: 'r', faults: [] };
    let state = reducer(undefined, linkActions.considerRemedy({ remedy }));
    state = reducer(state, linkActions.mend({ linkId: 'a', change: remedy.change }));
    expect(state.mending.busy).toBe(true);
    state = reducer(state, linkActions.mendFailed({ problem }));
    expect(state.mending).toMatchObject({ remedy, problem, busy: false });
  });
});
