import type { Action } from '@ngrx/store';
import type { OperatorFunction } from 'rxjs';
import { catchError, mergeMap, of, pipe } from 'rxjs';
import { shownProblem } from './problem';
import type { ShownProblem } from './problem';

/** Turns the answer of a call into one action or several, and its refusal into the action that shows the problem. */
export function answered<Answer, Done extends Action, Failed extends Action>(
  done: (answer: Answer) => Done | readonly Done[],
  failed: (props: { problem: ShownProblem }) => Failed,
): OperatorFunction<Answer, Done | Failed> {
  return pipe(
    mergeMap((answer: Answer): readonly Done[] => [done(answer)].flat() as Done[]),
    catchError((error: unknown) => of(failed({ problem: shownProblem(error) }))),
  );
}
