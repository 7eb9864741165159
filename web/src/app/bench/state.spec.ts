import type { BenchHeard, BenchNode, BenchValue } from '@loyal-hinge/contract';
import { benchActions, benchFeature, historyLength, mostEvents } from './state';

const { reducer } = benchFeature;
const node = (nodeId: string, nodeClass: BenchNode['nodeClass'] = 'Object'): BenchNode => ({
  nodeId,
  browseName: nodeId,
  displayName: nodeId,
  nodeClass,
});
const value = (nodeId: string, number: number): BenchValue => ({
  nodeId,
  code: 'Good',
  status: 'Good',
  value: String(number),
  number,
  dataType: 'Double',
  sourceTimestamp: '2026-03-01T12:00:00.000Z',
  serverTimestamp: null,
});
const heard = (values: BenchValue[], differs: Partial<BenchHeard> = {}) => ({
  heard: { values, watching: [], session: null, ...differs },
});
const bench = { benchId: '1', linkId: 'l', linkName: 'L', security: 's', user: 'u' };

describe('the bench', () => {
  it('opens each level as a column of its own, and drops the deeper ones when another node is chosen', () => {
    let state = reducer(undefined, benchActions.opened({ bench }));
    state = reducer(state, benchActions.browsed({ parent: null, nodes: [node('a'), node('b')] }));
    state = reducer(state, benchActions.choose({ depth: 0, node: node('a') }));
    state = reducer(state, benchActions.browsed({ parent: 'a', nodes: [node('c')] }));
    state = reducer(state, benchActions.choose({ depth: 1, node: node('c') }));
    expect(state.columns.map((column) => column.parent)).toEqual([null, 'a', 'c']);
    state = reducer(state, benchActions.choose({ depth: 0, node: node('b') }));
    expect(state.columns.map((column) => [column.parent, column.chosen])).toEqual([
      [null, 'b'],
      ['b', null],
    ]);
  });

  it('watches a node once, keeps its last values, and forgets it when it is let go', () => {
    let state = reducer(undefined, benchActions.opened({ bench }));
    for (let time = 0; time < 2; time += 1)
      state = reducer(state, benchActions.watch({ node: node('a', 'Variable'), unit: '°C' }));
    expect(state.watched).toHaveLength(1);
    for (let number = 0; number < historyLength + 5; number += 1)
      state = reducer(state, benchActions.heard(heard([value('a', number), value('other', 1)])));
    expect(state.watched[0]?.history).toHaveLength(historyLength);
    expect(state.watched[0]?.history.at(-1)?.value).toBe(historyLength + 4);
    expect(reducer(state, benchActions.unwatch({ nodeId: 'a' })).watched).toEqual([]);
  });

  it('keeps the last good value where a bad one comes, and what the server made of the intervals', () => {
    const watching = { nodeId: 'a', revisedSamplingIntervalMs: 1000, revisedPublishingIntervalMs: 1000 };
    let state = reducer(undefined, benchActions.opened({ bench }));
    state = reducer(state, benchActions.watch({ node: node('a', 'Variable'), unit: '' }));
    state = reducer(state, benchActions.heard(heard([value('a', 5)], { watching: [watching] })));
    const bad = { ...value('a', 5), code: 'BadNoCommunication', value: null, number: null };
    state = reducer(state, benchActions.heard(heard([bad])));
    expect(state.watched[0]).toMatchObject({ value: bad, lastGood: { value: '5' }, intervals: watching });
    expect(state.watched[0]?.history.map((point) => point.value)).toEqual([5]);
  });

  it('keeps all that is watched while its session is lost, and when it is opened again', () => {
    let state = reducer(undefined, benchActions.opened({ bench }));
    state = reducer(state, benchActions.watch({ node: node('a', 'Variable'), unit: '' }));
    const lost = { isLost: true, at: '2026-03-01T12:00:00.000Z', says: 'The session was lost.' };
    state = reducer(state, benchActions.heard(heard([value('a', 5)])));
    state = reducer(state, benchActions.heard(heard([], { session: lost })));
    state = reducer(state, benchActions.gone({ says: 'The bench was closed.' }));
    expect(state.session).toEqual({ ...lost, says: 'The bench was closed.' });
    state = reducer(state, benchActions.reopened({ bench: { ...bench, benchId: '2' } }));
    state = reducer(state, benchActions.heard(heard([], { session: { ...lost, isLost: false } })));
    expect(state).toMatchObject({ bench: { benchId: '2' }, session: { isLost: false } });
    expect(state.watched[0]?.lastGood?.value).toBe('5');
    expect(state.watched[0]?.history.map((point) => point.value)).toEqual([5, NaN]);
  });

  it('keeps events, the newest first, tells those apart that are the same, and lets old ones go', () => {
    const event = { at: null, severity: 500, sourceName: 'Zone A', message: 'Too hot' };
    let state = reducer(undefined, benchActions.listen({ node: node('a') }));
    for (let times = 0; times < mostEvents; times += 1)
      state = reducer(state, benchActions.eventsHeard({ heard: { events: [event, event], says: null } }));
    expect(state.events).toHaveLength(mostEvents);
    expect(state.events[0]?.number).toBe(2 * mostEvents);
    expect(new Set(state.events.map(({ number }) => number)).size).toBe(mostEvents);
  });

  it('starts again on another link', () => {
    const state = reducer(reducer(undefined, benchActions.opened({ bench })), benchActions.open({ linkId: 'm' }));
    expect(state).toMatchObject({ bench: null, opening: true, columns: [], watched: [] });
  });
});
