import { createEntityAdapter } from '@ngrx/entity';
import type { EntityState } from '@ngrx/entity';
import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type {
  Account,
  AddPerson,
  ChangePerson,
  Person,
  ResetPerson,
  Session,
  WantedSecondFactor,
} from '@loyal-hinge/contract';
import { begun, ended, noCommands } from '../http/commands';
import type { Commands } from '../http/commands';
import type { ShownProblem } from '../http/problem';

/** What can be asked of the server; each tells in words what came of it. */
export type PeopleCommand =
  | { readonly does: 'add'; readonly body: AddPerson }
  | { readonly does: 'change'; readonly name: string; readonly body: ChangePerson }
  | { readonly does: 'reset'; readonly name: string; readonly body: ResetPerson }
  | { readonly does: 'end session'; readonly name: string; readonly id: string }
  | { readonly does: 'end own session'; readonly id: string }
  | { readonly does: 'change password'; readonly current: string; readonly next: string }
  | { readonly does: 'begin second factor'; readonly current: string }
  | { readonly does: 'confirm second factor'; readonly code: string }
  | { readonly does: 'end second factor'; readonly current: string }
  | { readonly does: 'renew recovery codes'; readonly current: string };

/** What the server showed once and will not show again. */
export interface ShownOnce {
  readonly wanted?: WantedSecondFactor | null;
  readonly recoveryCodes?: readonly string[];
}

export interface PeopleState extends EntityState<Person> {
  readonly loaded: boolean;
  /** The sessions of the person who is opened. */
  readonly opened: { readonly name: string; readonly sessions: readonly Session[] | null } | null;
  readonly account: Account | null;
  readonly wanted: WantedSecondFactor | null;
  readonly recoveryCodes: readonly string[];
  readonly commands: Commands<PeopleCommand['does']>;
  /** Why what is looked at can't be shown. */
  readonly unshown: ShownProblem | null;
}

export const personAdapter = createEntityAdapter<Person>({ selectId: ({ name }) => name });

const beginning: PeopleState = personAdapter.getInitialState({
  loaded: false,
  opened: null,
  account: null,
  wanted: null,
  recoveryCodes: [],
  commands: noCommands,
  unshown: null,
});

export const peopleActions = createActionGroup({
  source: 'People',
  events: {
    'show people': emptyProps(),
    'show account': emptyProps(),
    loaded: props<{ people: Person[] }>(),
    'account loaded': props<{ account: Account }>(),
    'open person': props<{ name: string | null }>(),
    'person opened': props<{ name: string; sessions: readonly Session[] }>(),
    command: props<{ command: PeopleCommand }>(),
    done: props<{ command: PeopleCommand; says: string; once?: ShownOnce }>(),
    failed: props<{ command: PeopleCommand; problem: ShownProblem }>(),
    'not loaded': props<{ problem: ShownProblem }>(),
    /** A form is opened or left: what was told of the one before is over. */
    'put aside': emptyProps(),
    'forget what was shown once': emptyProps(),
  },
});

const untold = (state: PeopleState): Pick<PeopleState, 'commands' | 'unshown'> => ({
  commands: { ...state.commands, problem: null },
  unshown: null,
});

export const peopleFeature = createFeature({
  name: 'people',
  reducer: createReducer(
    beginning,
    on(peopleActions.showPeople, peopleActions.showAccount, (state): PeopleState => ({
      ...state,
      ...untold(state),
      opened: null,
      wanted: null,
      recoveryCodes: [],
    })),
    on(peopleActions.loaded, (state, { people }): PeopleState =>
      personAdapter.setAll(people, { ...state, loaded: true }),
    ),
    on(peopleActions.accountLoaded, (state, { account }): PeopleState => ({ ...state, account })),
    on(peopleActions.openPerson, (state, { name }): PeopleState => ({
      ...state,
      opened: name === null ? null : { name, sessions: null },
    })),
    on(peopleActions.personOpened, (state, { name, sessions }): PeopleState =>
      state.opened?.name === name ? { ...state, opened: { name, sessions } } : state,
    ),
    on(peopleActions.command, (state, { command }): PeopleState => ({
      ...state,
      commands: begun(state.commands, command.does),
    })),
    on(peopleActions.done, (state, { command, once = {} }): PeopleState => ({
      ...state,
      commands: ended(state.commands, command.does),
      wanted: once.wanted ?? null,
      recoveryCodes: once.recoveryCodes ?? [],
    })),
    on(peopleActions.failed, (state, { command, problem }): PeopleState => ({
      ...state,
      commands: ended(state.commands, command.does, problem),
    })),
    on(peopleActions.notLoaded, (state, { problem }): PeopleState => ({ ...state, unshown: problem })),
    on(peopleActions.putAside, (state): PeopleState => ({ ...state, ...untold(state) })),
    on(peopleActions.forgetWhatWasShownOnce, (state): PeopleState => ({ ...state, wanted: null, recoveryCodes: [] })),
  ),
  extraSelectors: ({ selectPeopleState, selectCommands, selectUnshown }) => ({
    selectProblem: createSelector(selectCommands, selectUnshown, ({ problem }, unshown) => problem ?? unshown),
    selectRunning: createSelector(selectCommands, ({ running }) => running),
    selectDone: createSelector(selectCommands, ({ done }) => done),
    selectRows: createSelector(selectPeopleState, personAdapter.getSelectors().selectAll),
  }),
});

/** Whether one of these commands is under way. */
export const isRunning = (...does: readonly PeopleCommand['does'][]) =>
  createSelector(peopleFeature.selectRunning, (running) => running.some((one) => does.includes(one)));
