import type { BenchNode } from '@loyal-hinge/contract';
import { benchActions, benchFeature, mostEvents } from './state';

const { reducer } = benchFeature;
const node = (nodeId: string, nodeClass: BenchNode['nodeClass'] = 'Object'): BenchNode => ({
  nodeId,
  browseName: nodeId,
  displayName: nodeId,
  nodeClass,
});
const bench = { benchId: '1', linkId: 'l', linkName: 'L', kind: 'ua' as const, security: 's', user: 'u' };

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

  it('keeps a session that is lost, and puts the one that is opened again in its place', () => {
    let state = reducer(undefined, benchActions.opened({ bench }));
    state = reducer(state, benchActions.opened({ bench: { ...bench, benchId: '5', linkId: 'm' } }));
    const lost = { isLost: true, at: '2026-03-01T12:00:00.000Z', says: 'The session was lost.' };
    state = reducer(state, benchActions.turned({ linkId: 'l', state: lost }));
    state = reducer(state, benchActions.gone({ linkId: 'l', says: 'The bench was closed.' }));
    expect(state.sessions[0]?.state).toEqual({ ...lost, says: 'The bench was closed.' });
    state = reducer(state, benchActions.reopened({ bench: { ...bench, benchId: '2' } }));
    expect(state.sessions.map((one) => one.bench.benchId)).toEqual(['2', '5']);
    expect(state.front).toBe('m');
  });

  it('keeps events, the newest first, tells those apart that are the same, and lets old ones go', () => {
    const event = { at: null, severity: 500, sourceName: 'Zone A', message: 'Too hot' };
    let state = reducer(undefined, benchActions.listen({ node: node('a') }));
    for (let times = 0; times < mostEvents; times += 1)
      state = reducer(state, benchActions.eventsHeard({ heard: { events: [event, event], skipped: 3, says: null } }));
    expect([state.events.length, state.eventsSkipped]).toEqual([mostEvents, 3 * mostEvents]);
    expect(state.events[0]?.number).toBe(2 * mostEvents);
    expect(new Set(state.events.map(({ number }) => number)).size).toBe(mostEvents);
  });

  it('starts again on another link, and keeps the sessions that are open', () => {
    let state = reducer(reducer(undefined, benchActions.opened({ bench })), benchActions.open({ linkId: 'm' }));
    expect(state).toMatchObject({ front: null, opening: true, columns: [], sessions: [{ bench }] });
    state = reducer(state, benchActions.closeSessions({ linkIds: ['l'] }));
    expect(state.sessions).toEqual([]);
  });
});
