import type { Actions } from '@ngrx/effects';
import { ofType } from '@ngrx/effects';
import type { Observable } from 'rxjs';
import { debounceTime, filter, map } from 'rxjs';
import type { HingeEvent } from '@loyal-hinge/contract';
import { linkActions } from './state';

/** Several checks or readings may end at about the same time: what they changed is asked for once. */
const gatherMs = 400;

/** That the server told of something of these kinds, once for all that come at about the same time. */
export const kindsHeard = (actions: Actions, ...kinds: readonly HingeEvent['kind'][]): Observable<void> =>
  actions.pipe(
    ofType(linkActions.heard),
    filter(({ event }) => kinds.includes(event.kind)),
    debounceTime(gatherMs),
    map(() => undefined),
  );
