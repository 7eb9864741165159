import { Injectable, inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { EMPTY, concatMap, mergeMap, of, switchMap, withLatestFrom } from 'rxjs';
import { counted } from '@loyal-hinge/core';
import type { BodyOf, FirewallView } from '@loyal-hinge/contract';
import { answered } from '../http/answered';
import { notJson, parsedJson } from '../http/parsed-json';
import { Server } from '../http/server';
import { kindsHeard } from '../links/kinds-heard';
import { passageActions, passageFeature } from './state';

@Injectable()
export class PassageEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly store = inject(Store);

  readonly show = createEffect(() =>
    this.actions.pipe(
      ofType(passageActions.show),
      switchMap(() =>
        this.server.ask('passage').pipe(
          answered(
            (view) => passageActions.shown({ view }),
            ({ problem }) => passageActions.notShown({ view: 'view', problem }),
          ),
        ),
      ),
    ),
  );

  readonly widths = createEffect(() =>
    this.actions.pipe(
      ofType(passageActions.showWidths),
      switchMap(() =>
        this.server.ask('conduitWidths').pipe(
          answered(
            ({ widths }) => passageActions.widthsShown({ widths }),
            ({ problem }) => passageActions.notShown({ view: 'widths', problem }),
          ),
        ),
      ),
    ),
  );

  readonly firewall = createEffect(() =>
    this.actions.pipe(
      ofType(passageActions.lookAtFirewall),
      switchMap(({ firewallId }) =>
        this.server.ask('firewall', { path: { firewallId } }).pipe(
          answered(
            (view) => passageActions.firewallShown({ view }),
            ({ problem }) => passageActions.notShown({ view: 'firewall', problem }),
          ),
        ),
      ),
    ),
  );

  /** Somebody changed what is known of firewalls, or the plant: what is needed has changed with it. */
  readonly changed = createEffect(() =>
    kindsHeard(this.actions, 'passage-changed', 'plant-changed', 'dcom-changed').pipe(
      withLatestFrom(
        this.store.select(passageFeature.selectFirewallId),
        this.store.select(passageFeature.selectKnown),
        this.store.select(passageFeature.selectWidthById),
      ),
      mergeMap(([, firewallId, known, widths]) => [
        ...(firewallId === null ? [] : [passageActions.lookAtFirewall({ firewallId })]),
        ...(known ? [passageActions.show()] : []),
        ...(widths ? [passageActions.showWidths()] : []),
      ]),
    ),
  );

  readonly try = createEffect(() =>
    this.actions.pipe(
      ofType(passageActions.try, passageActions.tryNoMore, passageActions.leaveFirewall),
      switchMap((action) => {
        if (action.type !== passageActions.try.type) return EMPTY;
        const { firewallId, edits } = action;
        return this.server.ask('rulesWhatIf', { path: { firewallId }, body: { edits } }).pipe(
          answered(
            (turns) => passageActions.tried({ turns }),
            ({ problem }) => passageActions.notShown({ view: 'turns', problem }),
          ),
        );
      }),
    ),
  );

  readonly save = createEffect(() =>
    this.actions.pipe(
      ofType(passageActions.saveFirewall, passageActions.saveConduit, passageActions.saveService),
      concatMap((action) =>
        this.sent(action).pipe(
          answered(
            () => passageActions.saved({ says: `${action.wish.name} was saved.` }),
            ({ problem }) => passageActions.failed({ command: 'save', problem }),
          ),
        ),
      ),
    ),
  );

  readonly remove = createEffect(() =>
    this.actions.pipe(
      ofType(passageActions.removeFirewall, passageActions.removeConduit, passageActions.removeService),
      concatMap((action) =>
        this.removed(action).pipe(
          answered(
            () => passageActions.removed({ says: `${action.name} was removed.` }),
            ({ problem }) => passageActions.failed({ command: 'remove', problem }),
          ),
        ),
      ),
    ),
  );

  readonly import = createEffect(() =>
    this.actions.pipe(
      ofType(passageActions.import),
      concatMap(({ firewallId, name, text }) =>
        this.server.ask('importRules', { path: { firewallId }, body: { name, text } }).pipe(
          answered(
            (view) => passageActions.imported({ view, says: importWords(view) }),
            ({ problem }) => passageActions.failed({ command: 'import', problem }),
          ),
        ),
      ),
    ),
  );

  readonly importDocument = createEffect(() =>
    this.actions.pipe(
      ofType(passageActions.importDocument),
      concatMap(({ text }) => {
        const document = parsedJson(text);
        if (document === null) return of(passageActions.failed({ command: 'import', problem: notJson }));
        // Whatever the file holds: the server says what is wrong with it.
        return this.server.ask('importPassage', { body: document as BodyOf<'importPassage'> }).pipe(
          answered(
            ({ firewalls, conduits, services }) =>
              passageActions.documentImported({
                says: `Imported: ${counted(firewalls, 'firewall')}, ${counted(conduits, 'conduit')}, ${counted(services, 'service')}.`,
              }),
            ({ problem }) => passageActions.failed({ command: 'import', problem }),
          ),
        );
      }),
    ),
  );

  private sent(
    action: ReturnType<
      typeof passageActions.saveFirewall | typeof passageActions.saveConduit | typeof passageActions.saveService
    >,
  ) {
    const { id } = action;
    switch (action.type) {
      case passageActions.saveFirewall.type:
        return id === null
          ? this.server.ask('addFirewall', { body: action.wish })
          : this.server.ask('putFirewall', { path: { firewallId: id }, body: action.wish });
      case passageActions.saveConduit.type:
        return id === null
          ? this.server.ask('addConduit', { body: action.wish })
          : this.server.ask('putConduit', { path: { conduitId: id }, body: action.wish });
      case passageActions.saveService.type:
        return id === null
          ? this.server.ask('addService', { body: action.wish })
          : this.server.ask('putService', { path: { serviceId: id }, body: action.wish });
    }
  }

  private removed({
    id,
    type,
  }: ReturnType<
    typeof passageActions.removeFirewall | typeof passageActions.removeConduit | typeof passageActions.removeService
  >) {
    switch (type) {
      case passageActions.removeFirewall.type:
        return this.server.ask('removeFirewall', { path: { firewallId: id } });
      case passageActions.removeConduit.type:
        return this.server.ask('removeConduit', { path: { conduitId: id } });
      case passageActions.removeService.type:
        return this.server.ask('removeService', { path: { serviceId: id } });
    }
  }
}

/** What came of an import, in a sentence. */
function importWords({ rules, notes }: FirewallView): string {
  const read = `${counted(rules.length, 'rule')} ${rules.length === 1 ? 'was' : 'were'} read.`;
  return notes.length === 0 ? read : `${read} ${counted(notes.length, 'line')} could not be understood.`;
}
