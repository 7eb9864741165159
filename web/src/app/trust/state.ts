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
  TrustFinding,
  TrustOverview,
  TrustPartyRow,
  TrustPlans,
  PasswordMove,
  TrustWayBody,
} from '@loyal-hinge/contract';
import type { ShownProblem } from '../http/problem';

/** What a page of this place shows. */
export interface TrustViews {
  /** The part of the grid that is shown. */
  readonly overview: TrustOverview | null;
  readonly finding: TrustFinding | null;
  /** Applications by name, for choosing one. */
  readonly parties: readonly TrustPartyRow[] | null;
  readonly holder: HolderDetail | null;
  readonly setAside: readonly SetAsideEntry[] | null;
  readonly horizon: HorizonView | null;
  readonly plans: TrustPlans | null;
  readonly authorities: readonly AuthorityView[] | null;
  readonly certificate: CertificatePage | null;
  /** Links that a change would turn, as asked for last. */
  readonly turns: readonly LinkTurn[] | null;
  readonly issued: Issued | null;
  readonly recognised: readonly RecognisedFile[];
  readonly tickets: readonly PullTicket[] | null;
  /** The ticket that was made last, with its token: gone when the page is left. */
  readonly madeTicket: MadeTicket | null;
}

/** Which part of the grid is asked for. */
export interface GridWish {
  readonly find: string;
  readonly only: GridChoice;
  readonly from: number;
}

/** Which view to load, and of what. */
export type TrustRequest =
  | { readonly view: 'overview'; readonly wish: GridWish }
  | { readonly view: 'finding' | 'parties' | 'setAside' | 'horizon' | 'authorities' | 'tickets' }
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

export interface TrustState extends TrustViews {
  /** What is loaded anew when lists have changed. */
  readonly shown: TrustRequest | null;
  readonly busy: boolean;
  readonly problem: ShownProblem | null;
  readonly says: string | null;
}

const beginning: TrustState = {
  overview: null,
  finding: null,
  parties: null,
  holder: null,
  setAside: null,
  horizon: null,
  plans: null,
  authorities: null,
  certificate: null,
  turns: null,
  issued: null,
  recognised: [],
  tickets: null,
  madeTicket: null,
  shown: null,
  busy: false,
  problem: null,
  says: null,
};

export const trustActions = createActionGroup({
  source: 'Trust',
  events: {
    /** A page opens: what was said before is over. */
    show: props<{ request: TrustRequest }>(),
    /** Beside what the page shows. */
    load: props<{ request: TrustRequest }>(),
    loaded: props<{ views: Partial<TrustViews> }>(),
    command: props<{ command: TrustCommand }>(),
    /** `reading`: applications whose lists the server reads from now on. */
    done: props<{ says: string; views?: Partial<TrustViews>; reading?: readonly string[] }>(),
    failed: props<{ problem: ShownProblem }>(),
    'forget turns': emptyProps(),
  },
});

export const trustFeature = createFeature({
  name: 'trust',
  reducer: createReducer(
    beginning,
    on(trustActions.show, (state, { request }): TrustState => ({
      ...state,
      ...stale(state, request),
      shown: request,
      problem: null,
      says: null,
      issued: null,
      madeTicket: null,
    })),
    on(trustActions.loaded, (state, { views }): TrustState => ({ ...state, ...views })),
    on(trustActions.command, (state): TrustState => ({ ...state, busy: true, problem: null, says: null })),
    on(trustActions.done, (state, { says, views, reading = [] }): TrustState => ({
      ...state,
      overview: beingRead(state.overview, reading),
      ...views,
      busy: false,
      says,
    })),
    on(trustActions.failed, (state, { problem }): TrustState => ({ ...state, busy: false, problem })),
    on(trustActions.forgetTurns, (state): TrustState => ({ ...state, turns: null })),
  ),
  extraSelectors: ({ selectOverview, selectSetAside }) => ({
    selectReadingCount: createSelector(selectOverview, (overview) => overview?.reading ?? 0),
    selectWaitingAside: createSelector(
      selectSetAside,
      (entries) => (entries ?? []).filter(({ dismissed }) => !dismissed).length,
    ),
  }),
});

/** The page of another certificate or application does not show the one before while it loads. */
function stale(state: TrustState, request: TrustRequest): Partial<TrustViews> {
  if (request.view === 'certificate' && state.certificate?.certificate.thumbprint !== request.thumbprint)
    return { certificate: null };
  if (request.view === 'holder' && state.holder?.party.applicationId !== request.id) return { holder: null };
  return {};
}

/** Shown at once: what the server puts together anew may take its time. */
function beingRead(overview: TrustOverview | null, applicationIds: readonly string[]): TrustOverview | null {
  if (!overview || applicationIds.length === 0) return overview;
  const parties = overview.parties.map((party) =>
    applicationIds.includes(party.applicationId) ? { ...party, reading: true } : party,
  );
  return { ...overview, parties, reading: Math.max(overview.reading, applicationIds.length) };
}
