import { createActionGroup, createFeature, createReducer, emptyProps, on, props } from '@ngrx/store';
import type {
  AuthorityView,
  ClientIdentity,
  ClientIdentityView,
  OwnCertificate,
  OwnCertificateState,
  PlantSettings,
} from '@loyal-hinge/contract';
import type { ShownProblem } from '../http/problem';

export interface SettingsState {
  readonly settings: PlantSettings | null;
  readonly identities: readonly ClientIdentityView[];
  readonly authorities: readonly AuthorityView[];
  /** null: not looked up, or not for whoever is signed in. */
  readonly ownCertificate: OwnCertificateState | null;
  /** A request that is to be saved. */
  readonly requested: string | null;
  readonly busy: boolean;
  readonly problem: ShownProblem | null;
  readonly says: string | null;
}

const beginning: SettingsState = {
  settings: null,
  identities: [],
  authorities: [],
  ownCertificate: null,
  requested: null,
  busy: false,
  problem: null,
  says: null,
};

export const settingsActions = createActionGroup({
  source: 'Settings',
  events: {
    load: emptyProps(),
    loaded: props<{ settings: PlantSettings; identities: ClientIdentityView[]; authorities: AuthorityView[] }>(),
    keep: props<{ settings: PlantSettings }>(),
    'give identity': props<{ applicationId: string; identity: ClientIdentity }>(),
    'load own certificate': emptyProps(),
    'own certificate loaded': props<{ state: OwnCertificateState }>(),
    'give own certificate': props<{ wish: OwnCertificate }>(),
    'request own certificate': props<{ hosts: readonly string[] }>(),
    requested: props<{ requestPem: string }>(),
    'request saved': emptyProps(),
    kept: props<{ says: string }>(),
    failed: props<{ problem: ShownProblem }>(),
  },
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
    })),
    on(settingsActions.ownCertificateLoaded, (state, { state: ownCertificate }): SettingsState => ({
      ...state,
      ownCertificate,
    })),
    on(settingsActions.requested, (state, { requestPem }): SettingsState => ({
      ...state,
      busy: false,
      requested: requestPem,
    })),
    on(settingsActions.requestSaved, (state): SettingsState => ({ ...state, requested: null })),
    on(
      settingsActions.keep,
      settingsActions.giveIdentity,
      settingsActions.giveOwnCertificate,
      settingsActions.requestOwnCertificate,
      (state): SettingsState => ({
        ...state,
        busy: true,
        problem: null,
        says: null,
      }),
    ),
    on(settingsActions.kept, (state, { says }): SettingsState => ({ ...state, busy: false, says })),
    on(settingsActions.failed, (state, { problem }): SettingsState => ({ ...state, busy: false, problem })),
  ),
});
