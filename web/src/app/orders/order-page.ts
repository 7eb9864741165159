import { ChangeDetectionStrategy, Component, DestroyRef, computed, effect, inject, input, signal } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { byNumber, givesCertificate, isTrustChange } from '@loyal-hinge/core';
import { issueCrlRequest } from '@loyal-hinge/contract';
import { contractForm, isComplete } from '../forms/contract-form';
import { TextField } from '../forms/text-field';
import { ProblemNotice } from '../http/problem-notice';
import { may } from '../session/may';
import { Keys } from '../shell/keys';
import { Moment } from '../signs/moment';
import { fromAddress } from '../shell/page-address';
import { OrderLines } from './order-lines';
import { stateTones } from './orders-page';
import { isRunning, orderActions, ordersFeature } from './state';
import type { OrderCommand } from './state';
import { Waiting } from '../shell/waiting';
import { PagePath } from '../shell/path';

/** One work order: before and after of each line side by side, what came of it, and the way back. */
@Component({
  selector: 'hinge-order-page',
  imports: [PagePath, Waiting, ReactiveFormsModule, TextField, ProblemNotice, Moment, OrderLines],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      @if (order(); as told) {
        <hinge-path above="Work orders" way="/orders" [here]="told.title" />
        <header class="page-head">
          <h1>{{ headline() }}</h1>
          <div class="actions">
            @switch (told.state) {
              @case ('proposed') {
                <button
                  type="button"
                  class="act main"
                  [disabled]="!mayApprove() || busy()"
                  (click)="ask({ does: 'approve' })"
                >
                  Approve
                </button>
                <button type="button" class="act" [disabled]="!mayAct() || busy()" (click)="ask({ does: 'withdraw' })">
                  Withdraw
                </button>
              }
              @case ('approved') {
                <button type="button" class="act main" [disabled]="!mayAct() || busy()" (click)="sure.set(true)">
                  {{ isBegun() ? 'Continue …' : 'Carry out …' }}
                </button>
                @if (!isBegun()) {
                  <button
                    type="button"
                    class="act"
                    [disabled]="!mayAct() || busy()"
                    (click)="ask({ does: 'withdraw' })"
                  >
                    Withdraw
                  </button>
                }
              }
            }
          </div>
        </header>
        <hinge-problem [problem]="problem()" />
        <p class="faint">
          <strong [class]="tones[told.state]">{{ told.state }}</strong>, proposed by {{ told.proposedBy }} on
          <hinge-moment [at]="told.proposedAt" />
          @if (told.decidedAt) {
            @if (told.state === 'withdrawn') {
              &ngsp;(withdrawn by {{ told.decidedBy }} on <hinge-moment [at]="told.decidedAt" />)
            } @else {
              &ngsp;(approved by {{ told.decidedBy }} on <hinge-moment [at]="told.decidedAt" />)
            }
          }
        </p>
        @if (sure() && told.state === 'approved') {
          <form class="sure" [formGroup]="form" (ngSubmit)="carryOut($event)">
            <h2>This changes running machines</h2>
            <p>
              {{ openWords()
              }}{{
                restarts() > 0
                  ? '; ' + restarts() + ' of them may restart a server, which interrupts its sessions for some seconds'
                  : ''
              }}. If one fails or waits for a person, the lines that depend on it wait as well{{
                renews() ? ', and nothing is removed before the new certificates are proved' : ''
              }}.
            </p>
            @if (signs()) {
              <hinge-text label="Passphrase of the authority" kind="password" [control]="form.controls.passphrase">
                <small class="faint">New certificates are signed. It is used once and never stored.</small>
              </hinge-text>
            }
            <div class="actions">
              <button type="submit" class="act main" [disabled]="busy()">Carry out now</button>
              <button type="button" class="act" (click)="sure.set(false)">Cancel</button>
            </div>
          </form>
        }
        <hinge-order-lines
          [lines]="told.lines"
          [find]="find()"
          [standing]="standing()"
          [mayAct]="mayAct()"
          [busy]="busy()"
          (ask)="ask($event)"
        />
      } @else {
        <hinge-problem [problem]="problem()" />
        @if (!problem()) {
          <hinge-waiting />
        }
      }
    </div>
  `,
  styles: `
    .sure {
      background: var(--panel);
      border: 1px solid var(--line);
      border-left: 4px solid var(--weak);
      padding: 0.8rem 1rem;
      margin-bottom: 0.9rem;
      max-width: 48rem;
    }
    .sure h2 {
      margin-bottom: 0.3rem;
    }
  `,
})
export class OrderPage {
  private readonly store = inject(Store);
  /** From the address. */
  readonly id = input.required<string>();
  readonly find = input('', { transform: fromAddress });
  /** How the lines that are shown stand; empty: all. */
  readonly standing = input('', { transform: fromAddress });
  readonly order = this.store.selectSignal(ordersFeature.selectOrder);
  readonly headline = this.store.selectSignal(ordersFeature.selectHeadline);
  readonly problem = this.store.selectSignal(ordersFeature.selectProblem);
  readonly busy = this.store.selectSignal(isRunning());
  readonly mayAct = may('engineer');
  readonly mayApprove = may('approver');
  readonly sure = signal(false);
  readonly form = contractForm({ passphrase: issueCrlRequest.shape.passphrase }, { passphrase: '' });
  readonly tones = stateTones;
  readonly open = computed(() =>
    (this.order()?.lines ?? []).filter(({ state }) => state === 'waiting' || state === 'failed'),
  );
  readonly isBegun = computed(() => (this.order()?.lines ?? []).some(({ state }) => state !== 'waiting'));
  readonly signs = computed(() => this.open().some(({ signedHere }) => signedHere));
  readonly renews = computed(() => this.open().some(({ change }) => isTrustChange(change) && givesCertificate(change)));
  readonly openWords = computed(() =>
    byNumber(this.open().length, '# line is carried out', '# lines are carried out in their order'),
  );
  readonly restarts = computed(() => this.open().filter(({ restart }) => restart).length);

  constructor() {
    effect(() => this.store.dispatch(orderActions.open({ id: this.id() })));
    const remove = inject(Keys).add({
      a: {
        does: 'approve the order',
        run: () => this.mayApprove() && this.order()?.state === 'proposed' && this.ask({ does: 'approve' }),
      },
    });
    inject(DestroyRef).onDestroy(remove);
  }

  ask(command: OrderCommand): void {
    this.store.dispatch(orderActions.command({ id: this.id(), command }));
  }

  carryOut(sent: Event): void {
    if (this.signs() && !isComplete(this.form, sent)) return;
    const { passphrase } = this.form.getRawValue();
    this.ask({ does: 'carry out', ...(passphrase === '' ? {} : { passphrase }) });
    this.form.reset();
    this.sure.set(false);
  }
}
