import type { BenchChange, BenchHeard, BenchNode } from '@loyal-hinge/contract';
import { BenchesReader } from './heard';
import { watchActions, watchFeature, watchKey } from './watch-state';

const { reducer } = watchFeature;
const over = { linkId: 'l', linkName: 'L' };
const node = (nodeId: string): BenchNode => ({
  nodeId,
  browseName: nodeId,
  displayName: nodeId,
  nodeClass: 'Variable',
});
const told = (changes: BenchChange[], differs: Partial<BenchHeard> = {}): BenchHeard => ({
  benchId: 'b',
  slots: [],
  watching: [],
  changes,
  came: changes.length,
  thinned: 0,
  overflown: 0,
  session: null,
  ...differs,
});
const slots = [
  { slot: 0, nodeId: 'a' },
  { slot: 1, nodeId: 'b' },
];
/** What is heard of a session, message by message. */
function heardOf(...messages: readonly BenchHeard[]) {
  const reader = new BenchesReader([]);
  return messages.flatMap((heard) => reader.read({ here: null, ended: [], unused: [], heard: [heard] }).heard);
}

describe('what is watched', () => {
  it('is watched once, over each link, until it is let go', () => {
    let state = reducer(undefined, watchActions.watch({ over, node: node('a'), unit: '°C' }));
    state = reducer(state, watchActions.watch({ over, node: node('a'), unit: '°C' }));
    state = reducer(state, watchActions.watch({ over: { linkId: 'm', linkName: 'M' }, node: node('a'), unit: '' }));
    expect([...watchFeature.selectWatchedByLink({ watch: state })]).toEqual([
      ['l', ['a']],
      ['m', ['a']],
    ]);
    state = reducer(state, watchActions.showTrend({ key: watchKey('l', 'a') }));
    state = reducer(state, watchActions.unwatchOver({ linkIds: ['l'] }));
    expect([state.watched.map(({ linkId }) => linkId), state.trend]).toEqual([['m'], null]);
    expect(reducer(state, watchActions.unwatchAll()).watched).toEqual([]);
  });

  it('is found by a pattern, called by its path, and never more than may be watched', () => {
    const nodes = Array.from({ length: 6000 }, (_, at) => ({ ...node(`n${at}`), path: `Lehr/${at}` }));
    const state = reducer(undefined, watchActions.watchAll({ over, nodes }));
    expect(state.watched).toHaveLength(5000);
    expect(state.watched[1]?.node.displayName).toBe('Lehr/1');
  });

  it('keeps the last good value where a bad one comes, and what the server made of the intervals', () => {
    const intervals = { slot: 0, revisedSamplingIntervalMs: 1000, revisedPublishingIntervalMs: 1000, isTold: true };
    let state = reducer(undefined, watchActions.watch({ over, node: node('a'), unit: '' }));
    const messages = [
      told([[0, 5, 1000, 2000]], { slots, watching: [intervals] }),
      told([[0, null, null, null, 'BadNoCommunication']], { came: 2 }),
      // Of a node that is not watched any more.
      told([[1, 7, null, null]], { came: 3 }),
    ];
    for (const heard of heardOf(...messages)) state = reducer(state, watchActions.heard({ linkId: 'l', heard }));
    expect(Object.values(state.live)).toEqual([
      {
        newest: { code: 'BadNoCommunication', value: null, number: null, sourceTime: null, serverTime: null },
        lastGood: { code: 'Good', value: '5', number: 5, sourceTime: 1000, serverTime: 2000 },
        intervals,
      },
    ]);
    expect(state.tally).toEqual({ changes: 3, thinned: 0, overflown: 0, missing: 0 });
  });

  it('is counted: what was left out, what was lost on its way, and what the server lost', () => {
    let state = reducer(undefined, watchActions.watch({ over, node: node('a'), unit: '' }));
    const messages = [
      told([[0, 1, null, null]], { slots }),
      told([[0, 9, null, null]], { came: 9, thinned: 4, overflown: 2 }),
    ];
    for (const heard of heardOf(...messages)) state = reducer(state, watchActions.heard({ linkId: 'l', heard }));
    expect(state.tally).toEqual({ changes: 2, thinned: 4, overflown: 2, missing: 3 });
  });
});

describe('a stream', () => {
  it('tells texts and numbers, and numbers that have another text', () => {
    const changes: BenchChange[] = [
      [0, 'true', null, null],
      [0, '9007199254740993', null, null, '', 9007199254740992],
      [0, 0.5, null, null, 'UncertainLastUsableValue'],
    ];
    const [heard] = heardOf(told(changes, { slots }));
    expect(heard?.values.map(({ value: { code, value, number } }) => [code, value, number])).toEqual([
      ['Good', 'true', null],
      ['Good', '9007199254740993', 9007199254740992],
      ['UncertainLastUsableValue', '0.5', 0.5],
    ]);
  });

  it('that begins anew says of which sessions it knows nothing any more', () => {
    const reader = new BenchesReader(['one', 'other']);
    expect(reader.read({ here: ['other'], ended: [], unused: [], heard: [] }).ended).toEqual(['one']);
    expect(reader.read({ here: null, ended: ['other'], unused: [], heard: [] }).ended).toEqual(['other']);
  });
});
