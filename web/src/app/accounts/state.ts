import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type { AccessChange, UserSettings } from '@loyal-hinge/core';
import type {
  AccessTurns,
  AccessView,
  AccountView,
  AccountsPage,
  AccountsView,
  ServerReportsView,
  UserCertificateGift,
  UserCertificateView,
} from '@loyal-hinge/contract';
import { begun, ended, noCommands } from '../http/commands';
import type { Commands } from '../http/commands';
import type { ShownProblem } from '../http/problem';
import { asked, noView, notShown, shown } from '../http/view';
import type { View } from '../http/view';

interface Shown {
  readonly accounts: AccountsView;
  readonly access: AccessView;
  readonly turns: AccessTurns;
  readonly certificates: readonly UserCertificateView[];
  readonly reports: ServerReportsView;
}
export type AccountsViewName = keyof Shown;

/** What can be asked of the server here. */
export type AccountsCommand = 'read' | 'read all' | 'seal' | 'give certificate' | 'forget certificate' | 'listen';

export interface AccountsState {
  readonly views: { readonly [Name in AccountsViewName]: View<Shown[Name]> };
  /** Which accounts are wished for; null: nobody looks at them. */
  readonly wish: AccountsPage | null;
  /** The server whose roles and users are looked at. */
  readonly serverId: string | null;
  /** Changes of that server that are tried out. */
  readonly drafts: readonly AccessChange[];
  /** Whether somebody looks at the user certificates. */
  readonly looksAtCertificates: boolean;
  readonly commands: Commands<AccountsCommand>;
}

const beginning: AccountsState = {
  views: { accounts: noView, access: noView, turns: noView, certificates: noView, reports: noView },
  wish: null,
  serverId: null,
  drafts: [],
  looksAtCertificates: false,
  commands: noCommands,
};

export const accountsActions = createActionGroup({
  source: 'Accounts',
  events: {
    'show accounts': props<{ wish: AccountsPage }>(),
    'accounts shown': props<{ accounts: AccountsView }>(),
    'show access': props<{ serverId: string }>(),
    'access shown': props<{ access: AccessView }>(),
    'turns shown': props<{ turns: AccessTurns }>(),
    'show certificates': emptyProps(),
    'certificates shown': props<{ certificates: readonly UserCertificateView[] }>(),
    'give certificate': props<{ name: string; gift: UserCertificateGift }>(),
    'forget certificate': props<{ name: string }>(),
    'reports shown': props<{ reports: ServerReportsView }>(),
    listen: props<{ serverId: string; minutes: number }>(),
    'listen no more': props<{ serverId: string }>(),
    /** Something may be other than it is shown. */
    'show again': emptyProps(),
    leave: emptyProps(),
    'not shown': props<{ view: AccountsViewName; problem: ShownProblem }>(),
    /** One more change is tried out, or takes the place of one of the same thing. */
    draft: props<{ change: AccessChange }>(),
    'drop draft': props<{ change: AccessChange }>(),
    'drop drafts': emptyProps(),
    read: props<{ serverId: string }>(),
    'read all': emptyProps(),
    /** A new user with a password becomes a draft. */
    'add user': props<{ serverId: string; userName: string; password: string; settings: UserSettings }>(),
    /** A new password becomes a work order. */
    'change password': props<{ account: AccountView; password: string }>(),
    done: props<{ does: AccountsCommand; says: string }>(),
    failed: props<{ does: AccountsCommand; problem: ShownProblem }>(),
  },
});

/** Changes of the same thing, of which one holds. */
function isOfSame(one: AccessChange, other: AccessChange): boolean {
  if ('thumbprint' in one || 'thumbprint' in other)
    return 'thumbprint' in one && 'thumbprint' in other && one.thumbprint === other.thumbprint;
  if ('userName' in one || 'userName' in other)
    return 'userName' in one && 'userName' in other && one.userName === other.userName;
  return one.roleId === other.roleId && JSON.stringify(one.rule) === JSON.stringify(other.rule);
}

/** A rule that is added and removed again is no change. */
const withDraft = (drafts: readonly AccessChange[], change: AccessChange): readonly AccessChange[] => {
  const others = drafts.filter((one) => !isOfSame(one, change));
  const isTakenBack = drafts.some(
    (one) => isOfSame(one, change) && ('rule' in one || 'thumbprint' in one) && one.kind !== change.kind,
  );
  return isTakenBack ? others : [...others, change];
};

const withView = <Name extends AccountsViewName>(
  state: AccountsState,
  name: Name,
  view: View<Shown[Name]>,
): AccountsState => ({ ...state, views: { ...state.views, [name]: view } });
const beganWith = (state: AccountsState, does: AccountsCommand): AccountsState => ({
  ...state,
  commands: begun(state.commands, does),
});
const drafted = (state: AccountsState, drafts: readonly AccessChange[]): AccountsState => ({
  ...withView(state, 'turns', drafts.length === 0 ? noView : asked(state.views.turns)),
  drafts,
});

export const accountsFeature = createFeature({
  name: 'accounts',
  reducer: createReducer(
    beginning,
    on(accountsActions.showAccounts, (state, { wish }) => ({
      ...withView(state, 'accounts', asked(state.views.accounts)),
      wish,
    })),
    on(accountsActions.accountsShown, (state, { accounts }) => withView(state, 'accounts', shown(accounts))),
    on(accountsActions.showAccess, (state, { serverId }): AccountsState => {
      const isSame = state.serverId === serverId;
      const access = asked(isSame ? state.views.access : noView);
      const reports = asked(isSame ? state.views.reports : noView);
      const next = withView(isSame ? state : drafted(state, []), 'access', access);
      return { ...withView(next, 'reports', reports), serverId };
    }),
    on(accountsActions.reportsShown, (state, { reports }) => withView(state, 'reports', shown(reports))),
    on(accountsActions.listen, accountsActions.listenNoMore, (state) => beganWith(state, 'listen')),
    on(accountsActions.accessShown, (state, { access }) => withView(state, 'access', shown(access))),
    // The answer to changes that are taken back may come late.
    on(accountsActions.turnsShown, (state, { turns }) =>
      state.drafts.length === 0 ? state : withView(state, 'turns', shown(turns)),
    ),
    on(accountsActions.showCertificates, (state): AccountsState => ({
      ...withView(state, 'certificates', asked(state.views.certificates)),
      looksAtCertificates: true,
    })),
    on(accountsActions.certificatesShown, (state, { certificates }) =>
      withView(state, 'certificates', shown(certificates)),
    ),
    on(accountsActions.giveCertificate, (state) => beganWith(state, 'give certificate')),
    on(accountsActions.forgetCertificate, (state) => beganWith(state, 'forget certificate')),
    on(accountsActions.leave, (state): AccountsState => ({
      ...state,
      wish: null,
      serverId: null,
      drafts: [],
      looksAtCertificates: false,
    })),
    on(accountsActions.notShown, (state, { view, problem }): AccountsState => ({
      ...state,
      views: { ...state.views, [view]: notShown<unknown>(state.views[view], problem) },
    })),
    on(accountsActions.draft, (state, { change }) => drafted(state, withDraft(state.drafts, change))),
    on(accountsActions.dropDraft, (state, { change }) =>
      drafted(
        state,
        state.drafts.filter((one) => !isOfSame(one, change)),
      ),
    ),
    on(accountsActions.dropDrafts, (state) => drafted(state, [])),
    on(accountsActions.read, (state) => beganWith(state, 'read')),
    on(accountsActions.readAll, (state) => beganWith(state, 'read all')),
    on(accountsActions.addUser, accountsActions.changePassword, (state) => beganWith(state, 'seal')),
    on(accountsActions.done, (state, { does }): AccountsState => ({ ...state, commands: ended(state.commands, does) })),
    on(accountsActions.failed, (state, { does, problem }): AccountsState => ({
      ...state,
      commands: ended(state.commands, does, problem),
    })),
  ),
  extraSelectors: ({ selectViews, selectCommands }) => ({
    selectAccounts: createSelector(selectViews, ({ accounts }) => accounts.shown),
    selectReports: createSelector(selectViews, ({ reports }) => reports.shown),
    selectAccess: createSelector(selectViews, ({ access }) => access.shown),
    selectCertificates: createSelector(selectViews, ({ certificates }) => certificates.shown),
    selectTurns: createSelector(selectViews, ({ turns }) => turns),
    selectCommandProblem: createSelector(selectCommands, ({ problem }) => problem),
    selectProblem: createSelector(
      selectViews,
      selectCommands,
      ({ accounts, access, turns, certificates }, { problem }) =>
        problem ?? accounts.problem ?? access.problem ?? turns.problem ?? certificates.problem,
    ),
    selectRunning: createSelector(selectCommands, ({ running }) => running),
    selectDone: createSelector(selectCommands, ({ done }) => done),
  }),
});

/** Whether one of these commands is under way. */
export const isRunning = (...does: readonly AccountsCommand[]) =>
  createSelector(accountsFeature.selectRunning, (running) => running.some((one) => does.includes(one)));
