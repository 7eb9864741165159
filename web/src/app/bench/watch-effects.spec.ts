import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { TestBed } from '@angular/core/testing';
import { provideEffects } from '@ngrx/effects';
import { Store, provideState, provideStore } from '@ngrx/store';
import type { BenchChange, BenchMessage } from '@loyal-hinge/contract';
import { benchActions, benchFeature } from './state';
import { ValueHistory } from './value-history';
import { WatchEffects } from './watch-effects';
import { watchActions, watchFeature, watchKey } from './watch-state';

const bench = { benchId: 'b1', linkId: 'l', linkName: 'L', kind: 'ua' as const, security: 's', user: 'u' };
const over = { linkId: 'l', linkName: 'L' };
const node = { nodeId: 'a', browseName: 'a', displayName: 'a', nodeClass: 'Variable' as const };
const quiet = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 200));

/** Streams that are opened, and what they are made to tell. */
class MadeUpEvents {
  static readonly open: MadeUpEvents[] = [];
  onmessage: (event: { data: string }) => void = () => undefined;
  onopen: () => void = () => undefined;
  onerror: () => void = () => undefined;
  readyState = 1;
  isClosed = false;

  constructor(readonly url: string) {
    MadeUpEvents.open.push(this);
  }

  close(): void {
    this.isClosed = true;
  }

  tell(message: Partial<BenchMessage>): void {
    this.onmessage({ data: JSON.stringify({ here: null, ended: [], unused: [], heard: [], ...message }) });
  }

  changes(benchId: string, ...changes: readonly BenchChange[]): void {
    const slots = [{ slot: 0, nodeId: 'a' }];
    const counts = { came: changes.length, thinned: 0, overflown: 0 };
    this.tell({ heard: [{ benchId, slots, watching: [], changes: [...changes], ...counts, session: null }] });
  }
}

function page() {
  MadeUpEvents.open.splice(0);
  Object.assign(globalThis, { EventSource: Object.assign(MadeUpEvents, { CLOSED: 2 }) });
  TestBed.configureTestingModule({
    providers: [
      provideHttpClient(),
      provideHttpClientTesting(),
      provideStore(),
      provideState(benchFeature),
      provideState(watchFeature),
      provideEffects(WatchEffects),
    ],
  });
  const store = TestBed.inject(Store);
  return {
    store,
    http: TestBed.inject(HttpTestingController),
    history: TestBed.inject(ValueHistory),
    sessions: store.selectSignal(benchFeature.selectSessions),
    problem: store.selectSignal(benchFeature.selectProblem),
    live: store.selectSignal(watchFeature.selectLive),
    watched: store.selectSignal(watchFeature.selectWatched),
  };
}

describe('what a page does for what it watches', () => {
  it('has one stream for all its sessions, for as long as there is one', () => {
    const { store } = page();
    expect(MadeUpEvents.open).toEqual([]);
    store.dispatch(benchActions.opened({ bench }));
    store.dispatch(benchActions.opened({ bench: { ...bench, benchId: 'b2', linkId: 'm' } }));
    expect(MadeUpEvents.open.map(({ url }) => url)).toEqual([
      expect.stringMatching(/^\/api\/bench-stream\?page=[0-9a-f]{32}$/),
    ]);
    store.dispatch(benchActions.closeSessions({ linkIds: ['l', 'm'] }));
    expect(MadeUpEvents.open[0]?.isClosed).toBe(true);
  });

  it('says what is watched once it is chosen, and only where that has changed', async () => {
    const { store, http } = page();
    store.dispatch(benchActions.opened({ bench }));
    await quiet();
    http.expectNone(() => true);
    store.dispatch(watchActions.watch({ over, node, unit: '' }));
    store.dispatch(watchActions.watch({ over, node: { ...node, nodeId: 'b' }, unit: '' }));
    await quiet();
    const { request } = http.expectOne('/api/bench/b1/watched');
    expect([request.method, request.body]).toEqual(['PUT', { nodeIds: ['a', 'b'], everyMs: 500 }]);
    // Another bench on the same link watches the same.
    store.dispatch(benchActions.reopened({ bench: { ...bench, benchId: 'b9' } }));
    await quiet();
    expect(http.match('/api/bench/b1/watched')).toEqual([]);
  });

  it('keeps each value and how it went, and breaks the line where the session is lost', () => {
    const { store, live, history } = page();
    store.dispatch(benchActions.opened({ bench }));
    store.dispatch(watchActions.watch({ over, node, unit: '' }));
    MadeUpEvents.open[0]?.changes('b1', [0, 1, 1000, null], [0, 2, 2000, null], [0, 'text', 3000, null]);
    const key = watchKey('l', 'a');
    expect(live()[key]?.newest?.value).toBe('text');
    expect(history.newest(key)).toEqual([
      { at: 1000, value: 1 },
      { at: 2000, value: 2 },
    ]);
    const session = { isLost: true, at: '1970-01-01T00:00:04.000Z', says: '' };
    const nothing = { slots: [], watching: [], changes: [], came: 3, thinned: 0, overflown: 0 };
    MadeUpEvents.open[0]?.tell({ heard: [{ benchId: 'b1', ...nothing, session }] });
    expect(history.newest(key).at(-1)).toEqual({ at: 4000, value: NaN });
    store.dispatch(watchActions.unwatch({ key }));
    expect(history.newest(key)).toEqual([]);
  });

  it('waits for a session that was lost, and lets one go that nobody used', () => {
    const { store, sessions, problem, watched } = page();
    store.dispatch(benchActions.opened({ bench }));
    store.dispatch(benchActions.opened({ bench: { ...bench, benchId: 'b2', linkId: 'm' } }));
    store.dispatch(watchActions.watch({ over, node, unit: '' }));
    MadeUpEvents.open[0]?.tell({ ended: ['b1'] });
    expect(sessions().map((one) => [one.bench.benchId, one.state?.isLost])).toEqual([
      ['b1', true],
      ['b2', undefined],
    ]);
    MadeUpEvents.open[0]?.tell({ unused: ['b2'] });
    expect(sessions().map((one) => one.bench.benchId)).toEqual(['b1']);
    expect(problem()?.detail).toContain('Nobody used it for five minutes');
    expect(watched()).toHaveLength(1);
  });

  it('closes a session that is neither looked at nor watched over', () => {
    const { store, sessions } = page();
    store.dispatch(benchActions.opened({ bench }));
    store.dispatch(benchActions.opened({ bench: { ...bench, benchId: 'b2', linkId: 'm' } }));
    store.dispatch(watchActions.watch({ over, node, unit: '' }));
    store.dispatch(benchActions.lookAway());
    expect(sessions().map((one) => one.bench.linkId)).toEqual(['l']);
    store.dispatch(watchActions.unwatchAll());
    expect(sessions()).toEqual([]);
  });
});
