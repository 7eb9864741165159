import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { EMPTY, concatMap, filter, map, switchMap, withLatestFrom } from 'rxjs';
import { counted } from '@loyal-hinge/core';
import type { DcomView } from '@loyal-hinge/contract';
import { answered } from '../http/answered';
import { Server } from '../http/server';
import { kindsHeard } from '../links/kinds-heard';
import { dcomActions, dcomFeature } from './state';

@Injectable()
export class DcomEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly store = inject(Store);

  readonly machines = createEffect(() =>
    this.actions.pipe(
      ofType(dcomActions.showMachines),
      switchMap(() =>
        this.server.ask('dcomMachines').pipe(
          answered(
            ({ machines }) => dcomActions.machinesShown({ machines }),
            ({ problem }) => dcomActions.notShown({ view: 'machines', problem }),
          ),
        ),
      ),
    ),
  );

  readonly machine = createEffect(() =>
    this.actions.pipe(
      ofType(dcomActions.look),
      switchMap(({ look: { machineId, exportId } }) =>
        this.server
          .ask('dcomMachine', { path: { machineId }, query: exportId === null ? {} : { export: exportId } })
          .pipe(
            answered(
              (view) => dcomActions.machineShown({ view }),
              ({ problem }) => dcomActions.notShown({ view: 'machine', problem }),
            ),
          ),
      ),
    ),
  );

  /** Somebody brought exports, or the plant was changed: what is needed has changed with it. */
  readonly changed = createEffect(() =>
    kindsHeard(this.actions, 'dcom-changed', 'plant-changed').pipe(
      withLatestFrom(this.store.select(dcomFeature.selectLook), this.store.select(dcomFeature.selectKnownMachines)),
      map(([, look, machines]) => {
        if (look) return dcomActions.look({ look });
        return machines ? dcomActions.showMachines() : null;
      }),
      filter((action) => action !== null),
    ),
  );

  readonly compare = createEffect(() =>
    this.actions.pipe(
      ofType(dcomActions.compare, dcomActions.compareNoMore, dcomActions.leave),
      switchMap((action) => {
        if (action.type !== dcomActions.compare.type) return EMPTY;
        const { machineId, before, after } = action;
        return this.server
          .ask('compareMachineSettings', { path: { machineId, before: String(before), after: String(after) } })
          .pipe(
            answered(
              (compared) => dcomActions.compared({ compared }),
              ({ problem }) => dcomActions.notShown({ view: 'compared', problem }),
            ),
          );
      }),
    ),
  );

  readonly import = createEffect(() =>
    this.actions.pipe(
      ofType(dcomActions.import),
      concatMap(({ machineId, files }) =>
        this.server
          .ask('importMachineSettings', { path: { machineId }, body: { files } })
          .pipe(answered((view) => dcomActions.imported({ view, says: importWords(view) }), dcomActions.failed)),
      ),
    ),
  );
}

/** What came of an import, in a sentence. */
function importWords({ applications, accounts, faults }: DcomView): string {
  const found = `${counted(applications.length, 'application')} and ${counted(accounts.length, 'account')} were read.`;
  return faults.length === 0 ? found : `${found} ${counted(faults.length, 'line')} could not be read.`;
}
