import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { TestBed } from '@angular/core/testing';
import { provideMockActions } from '@ngrx/effects/testing';
import { Store, provideState, provideStore } from '@ngrx/store';
import { Subject } from 'rxjs';
import type { Action } from '@ngrx/store';
import { boardOf, row } from '../../testing/plant-answers';
import { LinkEffects } from './effects';
import { linkActions, linksFeature } from './state';

describe('the effects of links', () => {
  let actions: Subject<Action>;
  let http: HttpTestingController;
  let effects: LinkEffects;
  beforeEach(() => {
    actions = new Subject();
    TestBed.configureTestingModule({
      providers: [
        provideHttpClient(),
        provideHttpClientTesting(),
        provideMockActions(() => actions),
        provideStore(),
        provideState(linksFeature),
        LinkEffects,
      ],
    });
    http = TestBed.inject(HttpTestingController);
    effects = TestBed.inject(LinkEffects);
  });
  afterEach(() => http.verify());

  const soon = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 60));
  const heardFrom = (effect: { subscribe(hear: (action: Action) => void): unknown }): Action[] => {
    const heard: Action[] = [];
    effect.subscribe((action) => heard.push(action));
    return heard;
  };

  it('read the rows in sight, and tell a refusal in the server’s own words', async () => {
    const heard = heardFrom(effects.reach);
    const wish = { find: 'lehr', state: 'Parted', by: 'name' } as const;
    TestBed.inject(Store).dispatch(linkActions.look({ wish }));
    actions.next(linkActions.look({ wish }));
    await soon();
    const board = boardOf([row('a', 'A')]);
    http.expectOne('/api/links?find=lehr&state=Parted&by=name&from=0&most=75').flush(board);
    actions.next(linkActions.reach({ from: 50, to: 100 }));
    await soon();
    http
      .expectOne('/api/links?find=lehr&state=Parted&by=name&from=50&most=50')
      .flush(
        { title: 'Away', detail: 'The database can’t be reached.', remedy: 'Wait.' },
        { status: 503, statusText: 'no' },
      );
    expect(heard).toEqual([
      linkActions.loaded({ wish, board }),
      linkActions.failed({
        problem: { title: 'Away', detail: 'The database can’t be reached.', remedy: 'Wait.', faults: [] },
      }),
    ]);
  });

  it('read no row that is there already', async () => {
    const store = TestBed.inject(Store);
    const wish = { find: '', state: '', by: 'place' } as const;
    const rows = Array.from({ length: 60 }, (_, index) => row(`l${index}`, `Link ${index}`));
    store.dispatch(linkActions.loaded({ wish, board: boardOf(rows, { fitting: 100 }) }));
    heardFrom(effects.reach);
    actions.next(linkActions.reach({ from: 0, to: 50 }));
    await soon();
    http.expectNone(() => true);
    actions.next(linkActions.reach({ from: 25, to: 75 }));
    await soon();
    http.expectOne('/api/links?by=place&from=60&most=15').flush(boardOf([]));
  });

  it('carry a change out once, however often it is pressed', () => {
    const heard = heardFrom(effects.mend);
    const mend = linkActions.mend({ linkId: 'a b', change: { kind: 'by-hand' } });
    actions.next(mend);
    actions.next(mend);
    http.expectOne('/api/links/a%20b/mendings').flush({ says: 'Done.', checkId: 'c', orderId: null });
    expect(heard).toEqual([
      linkActions.mended({ says: 'Done. The check runs again to prove it.' }),
      linkActions.open({ linkId: 'a b' }),
    ]);
  });

  it('show a certificate before it is trusted, and none for other changes', () => {
    const heard = heardFrom(effects.showCertificate);
    const remedy = { title: '', target: '', before: '', after: '', restart: false, undo: '' };
    actions.next(linkActions.considerRemedy({ remedy: { ...remedy, change: { kind: 'by-hand' } } }));
    const change = { kind: 'trust-server-certificate', linkId: 'l', clientId: 'c', thumbprint: 'AB' } as const;
    actions.next(linkActions.considerRemedy({ remedy: { ...remedy, change } }));
    http.expectOne('/api/certificates/AB').flush('', { status: 0, statusText: '' });
    expect(heard).toEqual([
      expect.objectContaining({
        type: linkActions.mendFailed.type,
        problem: expect.objectContaining({ title: 'The server can’t be reached' }),
      }),
    ]);
  });

  it('read a link again whose check ends while it is being read for the first time', () => {
    const heard = heardFrom(effects.reloadDetail);
    const store = TestBed.inject(Store);
    const ended = (linkId: string) =>
      linkActions.heard({ event: { kind: 'check-ended', checkId: 'c', linkId, state: 'done', found: 'Sound' } });
    store.dispatch(linkActions.open({ linkId: 'a' }));
    actions.next(ended('b'));
    actions.next(ended('a'));
    expect(heard).toEqual([linkActions.open({ linkId: 'a' })]);
    store.dispatch(linkActions.leave());
    actions.next(ended('a'));
    expect(heard).toHaveLength(1);
  });
});
