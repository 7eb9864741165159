import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type {
  CaseActWish,
  CasebookView,
  CaseView,
  ConversationView,
  EvidenceReading,
  EvidencePlace,
  MessageBytes,
  ReadingRuleRow,
  ReadingRulesFile,
  ReadingRuleWish,
  RuleTrialView,
  RuleTrialWish,
} from '@loyal-hinge/contract';
import { begun, ended, noCommands } from '../http/commands';
import type { Commands } from '../http/commands';
import type { ShownProblem } from '../http/problem';
import { asked, noView, notShown, shown } from '../http/view';
import type { View } from '../http/view';

/** A file on its way. */
export interface Sending {
  readonly name: string;
  readonly sent: number;
  readonly bytes: number;
}

export type CasebookCommand = 'act' | 'reading' | 'remove' | 'rule' | 'remove rule' | 'take rules';
export interface CasebookState {
  readonly view: View<CasebookView>;
  readonly one: View<CaseView>;
  /** The case that is looked at; null: none. */
  readonly caseId: string | null;
  /** What stands at the place of a file that is looked at. */
  readonly place: View<EvidencePlace>;
  readonly conversation: View<ConversationView>;
  /** The bytes of the message that is looked at. */
  readonly bytes: View<MessageBytes>;
  readonly rules: View<readonly ReadingRuleRow[]>;
  /** What the pattern that is being written makes of its sample. */
  readonly trial: View<RuleTrialView>;
  readonly sending: readonly Sending[];
  /** Why a file did not arrive. */
  readonly notSent: ShownProblem | null;
  readonly commands: Commands<CasebookCommand>;
}
const beginning: CasebookState = {
  view: noView,
  one: noView,
  caseId: null,
  place: noView,
  conversation: noView,
  bytes: noView,
  rules: noView,
  trial: noView,
  sending: [],
  notSent: null,
  commands: noCommands,
};

export const casebookActions = createActionGroup({
  source: 'Casebook',
  events: {
    show: emptyProps(),
    shown: props<{ view: CasebookView }>(),
    look: props<{ caseId: string }>(),
    'case shown': props<{ view: CaseView }>(),
    leave: emptyProps(),
    'look at place': props<{ evidenceId: string; position: number }>(),
    'place shown': props<{ place: EvidencePlace }>(),
    listen: props<{ evidenceId: string; position: string }>(),
    heard: props<{ conversation: ConversationView }>(),
    'look at bytes': props<{ evidenceId: string; position: string; index: number }>(),
    'bytes shown': props<{ bytes: MessageBytes }>(),
    'show rules': emptyProps(),
    'rules shown': props<{ rules: readonly ReadingRuleRow[] }>(),
    'try rule': props<{ wish: RuleTrialWish }>(),
    'rule tried': props<{ trial: RuleTrialView }>(),
    'save rule': props<{ id: string | null; wish: ReadingRuleWish }>(),
    'remove rule': props<{ id: string; name: string }>(),
    'take rules': props<{ file: ReadingRulesFile }>(),
    'not shown': props<{
      view: 'view' | 'one' | 'place' | 'conversation' | 'bytes' | 'rules' | 'trial';
      problem: ShownProblem;
    }>(),
    bring: props<{ file: File }>(),
    sent: props<{ sending: Sending }>(),
    arrived: props<{ name: string; says: string }>(),
    'not sent': props<{ name: string; problem: ShownProblem }>(),
    'set reading': props<{ evidenceId: string; reading: EvidenceReading }>(),
    act: props<{ caseId: string; wish: CaseActWish }>(),
    remove: props<{ evidenceId: string; name: string }>(),
    done: props<{ command: CasebookCommand; says: string }>(),
    failed: props<{ command: CasebookCommand; problem: ShownProblem }>(),
  },
});

const without = (sending: readonly Sending[], name: string): readonly Sending[] =>
  sending.filter((one) => one.name !== name);

export const casebookFeature = createFeature({
  name: 'casebook',
  reducer: createReducer(
    beginning,
    on(casebookActions.show, (state): CasebookState => ({ ...state, view: asked(state.view) })),
    on(casebookActions.shown, (state, { view }): CasebookState => ({ ...state, view: shown(view) })),
    on(casebookActions.look, (state, { caseId }): CasebookState => ({
      ...state,
      caseId,
      one: asked(state.caseId === caseId ? state.one : noView),
    })),
    on(casebookActions.caseShown, (state, { view }): CasebookState => ({ ...state, one: shown(view) })),
    on(casebookActions.leave, (state): CasebookState => ({ ...state, caseId: null, one: noView, place: noView })),
    on(casebookActions.lookAtPlace, (state): CasebookState => ({ ...state, place: asked(noView) })),
    on(casebookActions.placeShown, (state, { place }): CasebookState => ({ ...state, place: shown(place) })),
    on(casebookActions.listen, (state): CasebookState => ({
      ...state,
      conversation: asked(noView),
      bytes: noView,
    })),
    on(casebookActions.heard, (state, { conversation }): CasebookState => ({
      ...state,
      conversation: shown(conversation),
    })),
    on(casebookActions.lookAtBytes, (state): CasebookState => ({ ...state, bytes: asked(noView) })),
    on(casebookActions.bytesShown, (state, { bytes }): CasebookState => ({ ...state, bytes: shown(bytes) })),
    on(casebookActions.showRules, (state): CasebookState => ({ ...state, rules: asked(state.rules) })),
    on(casebookActions.rulesShown, (state, { rules }): CasebookState => ({ ...state, rules: shown(rules) })),
    on(casebookActions.tryRule, (state): CasebookState => ({ ...state, trial: asked(state.trial) })),
    on(casebookActions.ruleTried, (state, { trial }): CasebookState => ({ ...state, trial: shown(trial) })),
    on(casebookActions.saveRule, (state): CasebookState => ({ ...state, commands: begun(state.commands, 'rule') })),
    on(casebookActions.removeRule, (state): CasebookState => ({
      ...state,
      commands: begun(state.commands, 'remove rule'),
    })),
    on(casebookActions.takeRules, (state): CasebookState => ({
      ...state,
      commands: begun(state.commands, 'take rules'),
    })),
    on(casebookActions.notShown, (state, { view, problem }): CasebookState => ({
      ...state,
      [view]: notShown<unknown>(state[view], problem),
    })),
    on(casebookActions.bring, (state, { file: { name, size } }): CasebookState => ({
      ...state,
      notSent: null,
      sending: [...without(state.sending, name), { name, sent: 0, bytes: size }],
    })),
    on(casebookActions.sent, (state, { sending }): CasebookState => ({
      ...state,
      sending: state.sending.map((one) => (one.name === sending.name ? sending : one)),
    })),
    on(casebookActions.arrived, (state, { name }): CasebookState => ({
      ...state,
      sending: without(state.sending, name),
    })),
    on(casebookActions.notSent, (state, { name, problem }): CasebookState => ({
      ...state,
      sending: without(state.sending, name),
      notSent: problem,
    })),
    on(casebookActions.setReading, (state): CasebookState => ({
      ...state,
      commands: begun(state.commands, 'reading'),
    })),
    on(casebookActions.act, (state): CasebookState => ({ ...state, commands: begun(state.commands, 'act') })),
    on(casebookActions.remove, (state): CasebookState => ({ ...state, commands: begun(state.commands, 'remove') })),
    on(casebookActions.done, (state, { command }): CasebookState => ({
      ...state,
      commands: ended(state.commands, command),
    })),
    on(casebookActions.failed, (state, { command, problem }): CasebookState => ({
      ...state,
      commands: ended(state.commands, command, problem),
    })),
  ),
  extraSelectors: ({
    selectView,
    selectOne,
    selectPlace,
    selectConversation,
    selectBytes,
    selectRules,
    selectTrial,
    selectCommands,
    selectNotSent,
  }) => ({
    selectShownRules: createSelector(selectRules, ({ shown: rules }) => rules),
    selectShownTrial: createSelector(selectTrial, ({ shown: trial }) => trial),
    selectShown: createSelector(selectView, ({ shown: view }) => view),
    selectShownCase: createSelector(selectOne, ({ shown: view }) => view),
    selectShownPlace: createSelector(selectPlace, ({ shown: place }) => place),
    selectShownConversation: createSelector(selectConversation, ({ shown: conversation }) => conversation),
    selectShownBytes: createSelector(selectBytes, ({ shown: bytes }) => bytes),
    selectRunning: createSelector(selectCommands, ({ running }) => running),
    selectDone: createSelector(selectCommands, ({ done }) => done),
    selectProblem: createSelector(
      selectView,
      selectOne,
      selectPlace,
      selectConversation,
      selectBytes,
      selectRules,
      selectCommands,
      selectNotSent,
      (view, one, place, conversation, bytes, rules, { problem }, notSent) =>
        notSent ??
        problem ??
        [view, one, place, conversation, bytes, rules].find((each) => each.problem !== null)?.problem ??
        null,
    ),
  }),
});
