import { createActionGroup, createFeature, createReducer, emptyProps, on, props } from '@ngrx/store';
import type { AuthorityView, ClientIdentity, ClientIdentityView, PlantSettings } from '@loyal-hinge/contract';
import type { ShownProblem } from '../http/problem';

export interface SettingsState {
  readonly settings: PlantSettings | null;
  readonly identities: readonly ClientIdentityView[];
  readonly authorities: readonly AuthorityView[];
  readonly busy: boolean;
  readonly problem: ShownProblem | null;
  readonly says: string | null;
}

const beginning: SettingsState = {
  settings: null,
  identities: [],
  authorities: [],
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
    on(settingsActions.keep, settingsActions.giveIdentity, (state): SettingsState => ({
      ...state,
      busy: true,
      problem: null,
      says: null,
    })),
    on(settingsActions.kept, (state, { says }): SettingsState => ({ ...state, busy: false, says })),
    on(settingsActions.failed, (state, { problem }): SettingsState => ({ ...state, busy: false, problem })),
  ),
});
