import { Injectable, inject } from '@angular/core';
import { Router } from '@angular/router';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import type { Observable } from 'rxjs';
import { concatMap, debounceTime, exhaustMap, filter, mergeMap, switchMap, tap, withLatestFrom } from 'rxjs';
import type { AnswerOf, WorkOrder } from '@loyal-hinge/contract';
import { answered } from '../http/answered';
import { linkActions } from '../links/state';
import { OrdersApi } from './api';
import { orderActions, ordersFeature } from './state';
import type { OrderCommand } from './state';

const gatherMs = 200;

@Injectable()
export class OrderEffects {
  private readonly actions = inject(Actions);
  private readonly api = inject(OrdersApi);
  private readonly store = inject(Store);
  private readonly router = inject(Router);

  readonly load = createEffect(() =>
    this.actions.pipe(
      ofType(orderActions.load),
      switchMap(() =>
        this.api.all().pipe(answered(({ orders }) => orderActions.loaded({ rows: orders }), orderActions.failed)),
      ),
    ),
  );

  readonly proposals = createEffect(() =>
    this.actions.pipe(
      ofType(orderActions.load),
      switchMap(() => this.listed(this.api.proposals())),
    ),
  );

  readonly decide = createEffect(() =>
    this.actions.pipe(
      ofType(orderActions.decide),
      exhaustMap(({ proposal, accepts }) =>
        this.listed(this.api.decide(proposal, accepts).pipe(switchMap(() => this.api.proposals()))),
      ),
    ),
  );

  readonly open = createEffect(() =>
    this.actions.pipe(
      ofType(orderActions.open),
      switchMap(({ id }) => this.told(this.api.one(id))),
    ),
  );

  readonly proposePlan = createEffect(() =>
    this.actions.pipe(
      ofType(orderActions.proposePlan),
      exhaustMap(({ strategy }) =>
        this.told(this.api.proposePlan(strategy).pipe(tap(({ id }) => void this.router.navigate(['/orders', id])))),
      ),
    ),
  );

  readonly propose = createEffect(() =>
    this.actions.pipe(
      ofType(orderActions.propose),
      exhaustMap(({ order }) =>
        this.told(this.api.propose(order).pipe(tap(({ id }) => void this.router.navigate(['/orders', id])))),
      ),
    ),
  );

  readonly command = createEffect(() =>
    this.actions.pipe(
      ofType(orderActions.command),
      concatMap(({ id, command }) =>
        this.told(
          this.asked(id, command).pipe(
            // Where the plant wants a second person, an order of its own was proposed instead.
            tap((order) => void (order.id !== id && this.router.navigate(['/orders', order.id]))),
          ),
        ),
      ),
    ),
  );

  readonly reload = createEffect(() =>
    this.actions.pipe(
      ofType(linkActions.heard),
      filter(({ event }) => event.kind === 'order-changed' || event.kind === 'proposals-changed'),
      debounceTime(gatherMs),
      withLatestFrom(this.store.select(ordersFeature.selectOrder)),
      mergeMap(([, order]) => [orderActions.load(), ...(order ? [orderActions.open({ id: order.id })] : [])]),
    ),
  );

  private listed(asked: Observable<AnswerOf<'proposals'>>) {
    return asked.pipe(answered(({ proposals }) => orderActions.proposalsLoaded({ proposals }), orderActions.failed));
  }

  private told(asked: Observable<WorkOrder>) {
    return asked.pipe(answered((order) => orderActions.opened({ order }), orderActions.failed));
  }

  private asked(id: string, command: OrderCommand): Observable<WorkOrder> {
    switch (command.does) {
      case 'approve':
        return this.api.approve(id);
      case 'withdraw':
        return this.api.withdraw(id);
      case 'carry out':
        return this.api.carryOut(id, command.passphrase);
      case 'done by hand':
        return this.api.doneByHand(id, command.position);
      case 'undo':
        return this.api.undo(id, command.position);
    }
  }
}
