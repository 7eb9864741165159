import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type {
  PlantOrder,
  Choosable,
  DiscoveryState,
  DiscoveryWish,
  KnownMatches,
  MatchesWish,
  PlantChoices,
  PlantView,
} from '@loyal-hinge/contract';
import type { LinkKindId, Application, Machine, Plant, Zone } from '@loyal-hinge/core';
import { begun, ended, noCommands } from '../http/commands';
import type { Commands } from '../http/commands';
import type { ShownProblem } from '../http/problem';

/** Rows that are looked at. */
export interface PlantWish {
  readonly part: PlantPart;
  readonly find: string;
  readonly from: number;
  readonly by: PlantOrder | '';
  readonly descending: 'yes' | '';
}

/** Needed items of a server, to be looked up. */
export type LookUp = MatchesWish & { readonly serverId: string };

/** What can be chosen, as far as it was looked for; null: not yet. */
export type Choices = Readonly<Record<Choosable, PlantChoices | null>>;

export type PlantPart = 'links' | 'applications' | 'machines' | 'zones';
export type PlantRow = Plant[PlantPart][number];

/** A row that is being added or changed: as it is kept, or null for a new one. */
export type Editing = {
  readonly [Part in PlantPart]: { readonly part: Part; readonly row: Plant[Part][number] | null };
}[PlantPart];

/** What can be asked of the server here. */
export type PlantDoes =
  'save' | 'remove' | 'import document' | 'import machines' | 'begin discovery' | 'stop discovery' | 'adopt';

/** How far an import is: rows read or written, of how many. */
export type ImportProgress =
  'sending' | { readonly doing: 'reading' | 'writing'; readonly done: number; readonly total: number };

export interface PlantState {
  /** The rows that are looked at, with whatever they stand on. */
  readonly view: PlantView | null;
  /** Which rows these are. */
  readonly wish: PlantWish;
  /** What the form that is open offers for choosing. */
  readonly choices: Choices;
  /** What the needed items in the form stand for; null: not known. */
  readonly matches: KnownMatches | null;
  readonly commands: Commands<PlantDoes>;
  /** Why what is looked at can’t be shown. */
  readonly unshown: ShownProblem | null;
  /** How far an import is; null: none is under way. */
  readonly importing: ImportProgress | null;
  readonly editing: Editing | null;
  readonly discovery: DiscoveryState | null;
}

const noChoices: Choices = { machines: null, clients: null, servers: null, userCertificates: null };

const beginning: PlantState = {
  view: null,
  wish: { part: 'machines', find: '', from: 0, by: '', descending: '' },
  choices: noChoices,
  matches: null,
  commands: noCommands,
  unshown: null,
  importing: null,
  editing: null,
  discovery: null,
};

export const plantActions = createActionGroup({
  source: 'Plant',
  events: {
    look: props<{ wish: PlantWish }>(),
    load: emptyProps(),
    loaded: props<{ wish: PlantWish; view: PlantView }>(),
    'look for': props<{ of: Choosable; find: string; speaks?: LinkKindId }>(),
    found: props<{ of: Choosable; choices: PlantChoices }>(),
    /** What the needed items of a link stand for. */
    'look up': props<{ wish: LookUp }>(),
    'looked up': props<{ matches: KnownMatches | null }>(),
    failed: props<{ does: PlantDoes; problem: ShownProblem }>(),
    'not loaded': props<{ problem: ShownProblem }>(),
    edit: props<{ editing: Editing }>(),
    'leave edit': emptyProps(),
    save: props<{ part: PlantPart; row: PlantRow }>(),
    remove: props<{ part: PlantPart; id: string }>(),
    'import document': props<{ text: string }>(),
    'import progress': props<{ far: ImportProgress }>(),
    'import machines': props<{ text: string }>(),
    changed: props<{ does: PlantDoes; says: string }>(),
    'load discovery': emptyProps(),
    'discovery loaded': props<{ discovery: DiscoveryState }>(),
    'begin discovery': props<{ wish: DiscoveryWish }>(),
    'stop discovery': emptyProps(),
    /** A search has begun, or was stopped. */
    'discovery turned': props<{ does: PlantDoes; discovery: DiscoveryState }>(),
    /** Adds what was found, its zone and machine first. */
    adopt: props<{ zone: Zone | null; machine: Machine | null; application: Application }>(),
    'adopt device': props<{ zone: Zone | null; machine: Machine }>(),
  },
});

export const plantFeature = createFeature({
  name: 'plant',
  reducer: createReducer(
    beginning,
    on(plantActions.look, (state, { wish }): PlantState => ({
      ...state,
      wish,
      view: wish.part === state.wish.part ? state.view : null,
    })),
    on(plantActions.loaded, (state, { wish, view }): PlantState =>
      // What was asked for before comes too late.
      wish === state.wish ? { ...state, view, unshown: null } : state,
    ),
    on(plantActions.found, (state, { of, choices }): PlantState => ({
      ...state,
      choices: { ...state.choices, [of]: choices },
    })),
    on(plantActions.lookedUp, (state, { matches }): PlantState => ({ ...state, matches })),
    on(plantActions.discoveryLoaded, (state, { discovery }): PlantState => ({ ...state, discovery })),
    on(plantActions.beginDiscovery, (state) => beganWith(state, 'begin discovery')),
    on(plantActions.stopDiscovery, (state) => beganWith(state, 'stop discovery')),
    on(plantActions.discoveryTurned, (state, { does, discovery }): PlantState => ({
      ...state,
      discovery,
      commands: ended(state.commands, does),
    })),
    on(plantActions.adoptDevice, (state) => beganWith(state, 'adopt')),
    on(plantActions.adopt, (state) => beganWith(state, 'adopt')),
    on(plantActions.importMachines, (state) => beganWith(state, 'import machines')),
    on(plantActions.remove, (state) => beganWith(state, 'remove')),
    on(plantActions.save, (state) => beganWith(state, 'save')),
    on(plantActions.importDocument, (state): PlantState => ({
      ...beganWith(state, 'import document'),
      importing: 'sending',
    })),
    on(plantActions.importProgress, (state, { far }): PlantState =>
      state.importing ? { ...state, importing: far } : state,
    ),
    on(plantActions.edit, (state, { editing }): PlantState => ({
      ...state,
      choices: noChoices,
      matches: null,
      editing,
      commands: { ...state.commands, problem: null },
    })),
    on(plantActions.leaveEdit, (state): PlantState => ({
      ...state,
      editing: null,
      commands: { ...state.commands, problem: null },
    })),
    on(plantActions.failed, (state, { does, problem }): PlantState => ({
      ...state,
      importing: does === 'import document' ? null : state.importing,
      commands: ended(state.commands, does, problem),
    })),
    on(plantActions.notLoaded, (state, { problem }): PlantState => ({ ...state, unshown: problem })),
    on(plantActions.changed, (state, { does }): PlantState => ({
      ...state,
      editing: does === 'save' ? null : state.editing,
      importing: does === 'import document' ? null : state.importing,
      commands: ended(state.commands, does),
    })),
  ),
  extraSelectors: ({ selectCommands, selectUnshown, selectEditing }) => ({
    /** What stands at the form where one is open, and on the page otherwise. */
    selectProblem: createSelector(selectCommands, selectUnshown, selectEditing, ({ problem }, unshown, editing) =>
      editing === null ? (problem ?? unshown) : unshown,
    ),
    selectFormProblem: createSelector(selectCommands, ({ problem }) => problem),
    selectIsSaving: createSelector(selectCommands, ({ running }) => running.includes('save')),
  }),
});

function beganWith(state: PlantState, does: PlantDoes): PlantState {
  return { ...state, commands: begun(state.commands, does) };
}

/** Of the time that an import takes, so much goes by while its rows are read. */
const readingShare = 0.3;

export const selectImportProgress = createSelector(plantFeature.selectImporting, (far) => {
  if (far === null) return null;
  if (far === 'sending') return { says: 'Sending the file …', percent: null };
  const share = far.done / far.total;
  return far.doing === 'reading'
    ? { says: `Reading: ${far.done} of ${far.total} rows`, percent: Math.round(100 * readingShare * share) }
    : {
        says: `Writing: ${far.done} of ${far.total} rows`,
        percent: Math.round(100 * (readingShare + (1 - readingShare) * share)),
      };
});
