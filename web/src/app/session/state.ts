import { createActionGroup, createFeature, createReducer, emptyProps, on, props } from '@ngrx/store';
import type { BodyOf, SignedIn } from '@loyal-hinge/contract';
import type { ShownProblem } from '../http/problem';

export interface SessionState {
  readonly signedIn: SignedIn | null;
  /** Whether it is known yet who is signed in. */
  readonly asked: boolean;
  readonly busy: boolean;
  readonly problem: ShownProblem | null;
}

const beginning: SessionState = { signedIn: null, asked: false, busy: false, problem: null };

export const sessionActions = createActionGroup({
  source: 'Session',
  events: {
    ask: emptyProps(),
    found: props<{ signedIn: SignedIn | null }>(),
    signIn: props<{ wish: BodyOf<'signIn'> }>(),
    'password changed': emptyProps(),
    'signed in': props<{ signedIn: SignedIn }>(),
    refused: props<{ problem: ShownProblem }>(),
    'sign out': emptyProps(),
    ended: emptyProps(),
  },
});

export const sessionFeature = createFeature({
  name: 'session',
  reducer: createReducer(
    beginning,
    on(sessionActions.found, (state, { signedIn }): SessionState => ({ ...state, signedIn, asked: true })),
    on(sessionActions.passwordChanged, (state): SessionState => ({
      ...state,
      signedIn: state.signedIn && { ...state.signedIn, mustChangePassword: false },
    })),
    on(sessionActions.signIn, (state): SessionState => ({ ...state, busy: true, problem: null })),
    on(sessionActions.signedIn, (state, { signedIn }): SessionState => ({
      ...state,
      signedIn,
      asked: true,
      busy: false,
      problem: null,
    })),
    on(sessionActions.refused, (state, { problem }): SessionState => ({ ...state, busy: false, problem })),
    on(sessionActions.ended, (): SessionState => ({ ...beginning, asked: true })),
  ),
});
