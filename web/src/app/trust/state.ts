import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type { LinkTurn, TrustChange } from '@loyal-hinge/core';
import type {
  AuthorityView,
  BodyOf,
  CertificatePage,
  CreateAuthority,
  HolderDetail,
  HorizonView,
  ImportAuthority,
  Issued,
  IssueRequest,
  MadeTicket,
  PullTicket,
  RecognisedFile,
  RenewAuthority,
  SetAsideEntry,
  GridChoice,
  GridPage,
  TrustFinding,
  TrustOverview,
  TrustPartyRow,
  TrustPlans,
  PasswordMove,
  TrustWayBody,
  UserTrust,
} from '@loyal-hinge/contract';
import { begun, ended, noCommands } from '../http/commands';
import type { Commands } from '../http/commands';
import type { ShownProblem } from '../http/problem';
import { asked, noView, notShown, shown } from '../http/view';
import type { View } from '../http/view';

/** What the server shows in this place, by the name of the view. */
export interface TrustShows {
  /** The part of the grid that is looked at. */
  readonly overview: TrustOverview;
  readonly finding: TrustFinding;
  /** The part of the grid that is about people. */
  readonly users: UserTrust;
  /** Applications by name, for choosing one. */
  readonly parties: readonly TrustPartyRow[];
  readonly holder: HolderDetail;
  readonly setAside: readonly SetAsideEntry[];
  readonly horizon: HorizonView;
  readonly plans: TrustPlans;
  readonly authorities: readonly AuthorityView[];
  readonly certificate: CertificatePage;
  /** Links that a change would turn, as asked for last. */
  readonly turns: readonly LinkTurn[];
  readonly tickets: readonly PullTicket[];
}
export type TrustView = keyof TrustShows;
type TrustViews = { readonly [Name in TrustView]: View<TrustShows[Name]> };
/** One view with what it shows. */
export type TrustShown = {
  readonly [Name in TrustView]: { readonly view: Name; readonly what: TrustShows[Name] };
}[TrustView];

/** Which part of the grid is asked for. */
export interface GridWish {
  readonly find: string;
  readonly only: GridChoice;
  readonly from: number;
}

/** Which view to load, and of what. */
export type TrustRequest =
  | { readonly view: 'overview'; readonly wish: GridWish }
  | { readonly view: 'finding' | 'users' | 'parties' | 'setAside' | 'horizon' | 'authorities' | 'tickets' }
  | { readonly view: 'plans'; readonly find: string }
  | { readonly view: 'holder'; readonly id: string }
  | { readonly view: 'certificate'; readonly thumbprint: string }
  | { readonly view: 'turns'; readonly changes: readonly TrustChange[] };

/** What can be asked of the server; each tells in words what came of it. */
export type TrustCommand =
  | { readonly does: 'read all' }
  | { readonly does: 'read'; readonly id: string }
  | { readonly does: 'set way'; readonly id: string; readonly body: TrustWayBody }
  | { readonly does: 'release password'; readonly id: string; readonly move: PasswordMove }
  | { readonly does: 'step back'; readonly id: string; readonly entry: number }
  | { readonly does: 'fetch bundle'; readonly id: string }
  | { readonly does: 'import bundle'; readonly id: string; readonly body: BodyOf<'importBundle'> }
  | { readonly does: 'recognise'; readonly files: BodyOf<'recognise'>['files'] }
  | { readonly does: 'dismiss'; readonly holderId: string; readonly thumbprint: string; readonly dismissed: boolean }
  | { readonly does: 'waive'; readonly body: BodyOf<'giveWaiver'> }
  | { readonly does: 'take waiver back'; readonly id: number }
  | { readonly does: 'create authority'; readonly body: CreateAuthority }
  | { readonly does: 'import authority'; readonly body: ImportAuthority }
  | { readonly does: 'renew authority'; readonly authority: string; readonly body: RenewAuthority }
  | { readonly does: 'issue'; readonly authority: string; readonly body: IssueRequest }
  | { readonly does: 'make request'; readonly authority: string; readonly applicationId: string }
  | { readonly does: 'bring certificate'; readonly id: string; readonly certificatePem: string }
  | { readonly does: 'drop request'; readonly id: string }
  | { readonly does: 'make ticket'; readonly body: BodyOf<'makePullTicket'> }
  | { readonly does: 'sign ticket'; readonly id: string; readonly body: BodyOf<'signPullTicket'> }
  | { readonly does: 'revoke'; readonly authority: string; readonly body: BodyOf<'revokeCertificate'> }
  | { readonly does: 'issue CRL'; readonly authority: string; readonly passphrase: string };

/** What a command brought along beside what it says. */
export interface TrustYield {
  readonly issued?: Issued;
  readonly recognised?: readonly RecognisedFile[];
  readonly madeTicket?: MadeTicket;
  /** Applications whose lists the server reads from now on. */
  readonly reading?: readonly string[];
}

export interface TrustState {
  readonly views: TrustViews;
  /** What is loaded anew when it has changed. */
  readonly looked: TrustRequest | null;
  readonly issued: Issued | null;
  readonly recognised: readonly RecognisedFile[];
  /** The ticket that was made last, with its token: gone when the page is left. */
  readonly madeTicket: MadeTicket | null;
  readonly commands: Commands<TrustCommand['does']>;
}

const beginning: TrustState = {
  views: {
    overview: noView,
    finding: noView,
    users: noView,
    parties: noView,
    holder: noView,
    setAside: noView,
    horizon: noView,
    plans: noView,
    authorities: noView,
    certificate: noView,
    turns: noView,
    tickets: noView,
  },
  looked: null,
  issued: null,
  recognised: [],
  madeTicket: null,
  commands: noCommands,
};

export const trustActions = createActionGroup({
  source: 'Trust',
  events: {
    /** A page opens: what was said before is over. */
    show: props<{ request: TrustRequest }>(),
    /** Beside what the page shows. */
    load: props<{ request: TrustRequest }>(),
    /** A view is asked for, at last or anew. */
    asked: props<{ view: TrustView }>(),
    loaded: props<{ loaded: TrustShown }>(),
    'not loaded': props<{ view: TrustView; problem: ShownProblem }>(),
    command: props<{ command: TrustCommand }>(),
    done: props<{ command: TrustCommand; says: string; yields: TrustYield }>(),
    failed: props<{ command: TrustCommand; problem: ShownProblem }>(),
    'forget turns': emptyProps(),
  },
});

export const trustFeature = createFeature({
  name: 'trust',
  reducer: createReducer(
    beginning,
    on(trustActions.show, (state, { request }): TrustState => ({
      ...state,
      views: withoutStale(state.views, request),
      looked: request,
      commands: { ...state.commands, problem: null },
      issued: null,
      madeTicket: null,
    })),
    on(trustActions.asked, (state, { view }): TrustState =>
      withView(state, view, asked<TrustShows[TrustView]>(state.views[view])),
    ),
    on(trustActions.loaded, (state, { loaded }): TrustState => withView(state, loaded.view, shown(loaded.what))),
    on(trustActions.notLoaded, (state, { view, problem }): TrustState =>
      withView(state, view, notShown<TrustShows[TrustView]>(state.views[view], problem)),
    ),
    on(trustActions.command, (state, { command }): TrustState => ({
      ...state,
      commands: begun(state.commands, command.does),
    })),
    on(trustActions.done, (state, { command, yields: { reading = [], ...brought } }): TrustState => ({
      ...state,
      views: { ...state.views, overview: beingRead(state.views.overview, reading) },
      ...brought,
      commands: ended(state.commands, command.does),
    })),
    on(trustActions.failed, (state, { command, problem }): TrustState => ({
      ...state,
      commands: ended(state.commands, command.does, problem),
    })),
    on(trustActions.forgetTurns, (state): TrustState => withView(state, 'turns', noView)),
  ),
  extraSelectors: ({ selectViews, selectCommands, selectLooked }) => {
    const of = <Name extends TrustView>(view: Name) =>
      createSelector(selectViews, (views): TrustShows[Name] | null => views[view].shown);
    const [selectOverview, selectSetAside] = [of('overview'), of('setAside')];
    return {
      selectOverview,
      selectSetAside,
      selectFinding: of('finding'),
      selectUsers: of('users'),
      selectParties: of('parties'),
      selectHolder: of('holder'),
      selectHorizon: of('horizon'),
      selectPlans: of('plans'),
      selectAuthorities: of('authorities'),
      selectCertificate: of('certificate'),
      selectTurns: of('turns'),
      selectTickets: of('tickets'),
      /** Why what is looked at can't be shown, or why the last command was refused. */
      selectProblem: createSelector(selectCommands, selectViews, selectLooked, ({ problem }, views, looked) =>
        looked === null ? problem : (problem ?? views[looked.view].problem),
      ),
      selectRunning: createSelector(selectCommands, ({ running }) => running),
      selectDone: createSelector(selectCommands, ({ done }) => done),
      selectReadingCount: createSelector(selectOverview, (overview) => overview?.reading ?? 0),
      selectWaitingAside: createSelector(
        selectSetAside,
        (entries) => (entries ?? []).filter(({ dismissed }) => !dismissed).length,
      ),
    };
  },
});

/** Whether one of these commands is under way. */
export const isRunning = (...does: readonly TrustCommand['does'][]) =>
  createSelector(trustFeature.selectRunning, (running) => running.some((one) => does.includes(one)));

const withView = (state: TrustState, name: TrustView, view: View<TrustShows[TrustView]>): TrustState => ({
  ...state,
  views: { ...state.views, [name]: view },
});

/** A wish as the contract has it: what is not filtered by is left out. */
export const gridQuery = ({ find, only, from }: GridWish): GridPage => ({
  ...(find === '' ? {} : { find }),
  ...(only === 'all' ? {} : { only }),
  ...(from === 0 ? {} : { from }),
});

/** The page of another certificate or application does not show the one before while it loads. */
function withoutStale(views: TrustViews, request: TrustRequest): TrustViews {
  const { certificate, holder } = views;
  if (request.view === 'certificate' && certificate.shown?.certificate.thumbprint !== request.thumbprint)
    return { ...views, certificate: noView };
  if (request.view === 'holder' && holder.shown?.party.applicationId !== request.id)
    return { ...views, holder: noView };
  return views;
}

/** Shown at once: what the server puts together anew may take its time. */
function beingRead(view: View<TrustOverview>, applicationIds: readonly string[]): View<TrustOverview> {
  const overview = view.shown;
  if (!overview || applicationIds.length === 0) return view;
  const parties = overview.parties.map((party) =>
    applicationIds.includes(party.applicationId) ? { ...party, reading: true } : party,
  );
  const reading = Math.max(overview.reading, applicationIds.length);
  return { ...view, shown: { ...overview, parties, reading } };
}
