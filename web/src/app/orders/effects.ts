import { Injectable, inject } from '@angular/core';
import { Router } from '@angular/router';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import type { Observable } from 'rxjs';
import {
  buffer,
  concatMap,
  debounceTime,
  exhaustMap,
  filter,
  map,
  mergeMap,
  share,
  switchMap,
  tap,
  withLatestFrom,
} from 'rxjs';
import type { WorkOrder } from '@loyal-hinge/contract';
import { answered } from '../http/answered';
import { Server } from '../http/server';
import type { ShownProblem } from '../http/problem';
import { linkActions } from '../links/state';
import { orderActions, ordersFeature } from './state';
import type { OrderCommand, OrderDoes } from './state';

const gatherMs = 200;

@Injectable()
export class OrderEffects {
  private readonly actions = inject(Actions);
  private readonly server = inject(Server);
  private readonly store = inject(Store);
  private readonly router = inject(Router);

  private readonly changes = this.actions.pipe(
    ofType(linkActions.heard),
    map(({ event }) => event),
    filter((event) => event.kind === 'order-changed' || event.kind === 'proposals-changed'),
    share(),
  );

  readonly load = createEffect(() =>
    this.actions.pipe(
      ofType(orderActions.load, orderActions.reload),
      switchMap(() =>
        this.server
          .ask('orders')
          .pipe(answered(({ orders }) => orderActions.loaded({ rows: orders }), orderActions.notLoaded)),
      ),
    ),
  );

  readonly proposals = createEffect(() =>
    this.actions.pipe(
      ofType(orderActions.load, orderActions.reload),
      switchMap(() =>
        this.server
          .ask('proposals')
          .pipe(answered(({ proposals }) => orderActions.proposalsLoaded({ proposals }), orderActions.notLoaded)),
      ),
    ),
  );

  readonly decide = createEffect(() =>
    this.actions.pipe(
      ofType(orderActions.decide),
      exhaustMap(({ proposal, accepts }) =>
        this.server.ask(accepts ? 'acceptProposal' : 'refuseProposal', { path: { id: proposal.id } }).pipe(
          switchMap(() => this.server.ask('proposals')),
          answered(
            ({ proposals }) => [
              orderActions.proposalsLoaded({ proposals }),
              orderActions.done({ does: 'decide', order: null }),
            ],
            failed('decide'),
          ),
        ),
      ),
    ),
  );

  readonly open = createEffect(() =>
    this.actions.pipe(
      ofType(orderActions.open),
      switchMap(({ id }) =>
        this.server
          .ask('order', { path: { id } })
          .pipe(answered((order) => orderActions.opened({ order }), orderActions.notLoaded)),
      ),
    ),
  );

  readonly proposePlan = createEffect(() =>
    this.actions.pipe(
      ofType(orderActions.proposePlan),
      exhaustMap(({ strategy }) =>
        this.told('propose plan', this.gone(this.server.ask('proposePlan', { body: { strategy } }))),
      ),
    ),
  );

  readonly propose = createEffect(() =>
    this.actions.pipe(
      ofType(orderActions.propose),
      exhaustMap(({ order }) => this.told('propose', this.gone(this.server.ask('proposeOrder', { body: order })))),
    ),
  );

  readonly command = createEffect(() =>
    this.actions.pipe(
      ofType(orderActions.command),
      concatMap(({ id, command }) =>
        this.told(
          command.does,
          this.asked(id, command).pipe(
            // Where the plant wants a second person, an order of its own was proposed instead.
            tap((order) => void (order.id !== id && this.router.navigate(['/orders', order.id]))),
          ),
        ),
      ),
    ),
  );

  /** The list where one was read, and the order that is looked at where it is the one that changed. */
  readonly reload = createEffect(() =>
    this.changes.pipe(
      buffer(this.changes.pipe(debounceTime(gatherMs))),
      withLatestFrom(this.store.select(ordersFeature.selectOrdersState)),
      mergeMap(([events, { looked, loaded }]) => [
        ...(loaded ? [orderActions.reload()] : []),
        ...(looked !== null && events.some((event) => event.kind === 'order-changed' && event.orderId === looked)
          ? [orderActions.open({ id: looked })]
          : []),
      ]),
    ),
  );

  /** Goes to the order that came of it. */
  private gone(asked: Observable<WorkOrder>): Observable<WorkOrder> {
    return asked.pipe(tap(({ id }) => void this.router.navigate(['/orders', id])));
  }

  private told(does: OrderDoes, asked: Observable<WorkOrder>) {
    return asked.pipe(answered((order) => orderActions.done({ does, order }), failed(does)));
  }

  private asked(id: string, command: OrderCommand): Observable<WorkOrder> {
    const { server } = this;
    switch (command.does) {
      case 'approve':
        return server.ask('approveOrder', { path: { id } });
      case 'withdraw':
        return server.ask('withdrawOrder', { path: { id } });
      case 'carry out':
        return server.ask('carryOutOrder', { path: { id }, body: { passphrase: command.passphrase } });
      case 'done by hand':
        return server.ask('lineDoneByHand', { path: { id, position: command.position } });
      case 'undo':
        return server.ask('undoLine', { path: { id, position: command.position } });
    }
  }
}

const failed =
  (does: OrderDoes) =>
  ({ problem }: { problem: ShownProblem }) =>
    orderActions.failed({ does, problem });
