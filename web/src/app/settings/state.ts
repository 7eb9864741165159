import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type {
  AuthorityView,
  ClientIdentity,
  ClientIdentityView,
  OwnCertificate,
  OwnCertificateState,
  PlantSettings,
} from '@loyal-hinge/contract';
import { begun, ended, noCommands } from '../http/commands';
import type { Commands } from '../http/commands';
import type { ShownProblem } from '../http/problem';

export interface SettingsState {
  readonly settings: PlantSettings | null;
  readonly identities: readonly ClientIdentityView[];
  readonly authorities: readonly AuthorityView[];
  /** null: not looked up, or not for whoever is signed in. */
  readonly ownCertificate: OwnCertificateState | null;
  /** A request that is to be saved. */
  readonly requested: string | null;
  /** Why what is looked at can’t be shown. */
  readonly unshown: ShownProblem | null;
  readonly commands: Commands<SettingsCommand>;
}

/** What can be asked of the server here. */
export type SettingsCommand = 'save' | 'give identity' | 'give own certificate' | 'request own certificate';

const beginning: SettingsState = {
  settings: null,
  identities: [],
  authorities: [],
  ownCertificate: null,
  requested: null,
  unshown: null,
  commands: noCommands,
};

export const settingsActions = createActionGroup({
  source: 'Settings',
  events: {
    load: emptyProps(),
    loaded: props<{ settings: PlantSettings; identities: ClientIdentityView[]; authorities: AuthorityView[] }>(),
    save: props<{ settings: PlantSettings }>(),
    'give identity': props<{ applicationId: string; identity: ClientIdentity }>(),
    'load own certificate': emptyProps(),
    'own certificate loaded': props<{ state: OwnCertificateState }>(),
    'give own certificate': props<{ wish: OwnCertificate }>(),
    'request own certificate': props<{ hosts: readonly string[] }>(),
    requested: props<{ requestPem: string }>(),
    'request saved': emptyProps(),
    done: props<{ does: SettingsCommand; says: string }>(),
    failed: props<{ does: SettingsCommand; problem: ShownProblem }>(),
    'not loaded': props<{ problem: ShownProblem }>(),
  },
});

const beganWith = (state: SettingsState, does: SettingsCommand): SettingsState => ({
  ...state,
  commands: begun(state.commands, does),
});

export const settingsFeature = createFeature({
  name: 'settings',
  reducer: createReducer(
    beginning,
    on(settingsActions.loaded, (state, { settings, identities, authorities }): SettingsState => ({
      ...state,
      settings,
      identities,
      authorities,
      unshown: null,
    })),
    on(settingsActions.ownCertificateLoaded, (state, { state: ownCertificate }): SettingsState => ({
      ...state,
      ownCertificate,
    })),
    on(settingsActions.requested, (state, { requestPem }): SettingsState => ({
      ...state,
      commands: ended(state.commands, 'request own certificate'),
      requested: requestPem,
    })),
    on(settingsActions.requestSaved, (state): SettingsState => ({ ...state, requested: null })),
    on(settingsActions.save, (state) => beganWith(state, 'save')),
    on(settingsActions.giveIdentity, (state) => beganWith(state, 'give identity')),
    on(settingsActions.giveOwnCertificate, (state) => beganWith(state, 'give own certificate')),
    on(settingsActions.requestOwnCertificate, (state) => beganWith(state, 'request own certificate')),
    on(settingsActions.done, (state, { does }): SettingsState => ({ ...state, commands: ended(state.commands, does) })),
    on(settingsActions.failed, (state, { does, problem }): SettingsState => ({
      ...state,
      commands: ended(state.commands, does, problem),
    })),
    on(settingsActions.notLoaded, (state, { problem }): SettingsState => ({ ...state, unshown: problem })),
  ),
  extraSelectors: ({ selectCommands, selectUnshown }) => ({
    selectProblem: createSelector(selectCommands, selectUnshown, ({ problem }, unshown) => problem ?? unshown),
    selectRunning: createSelector(selectCommands, ({ running }) => running),
  }),
});

/** Whether one of these commands is under way. */
export const isRunning = (...does: readonly SettingsCommand[]) =>
  createSelector(settingsFeature.selectRunning, (running) => running.some((one) => does.includes(one)));
