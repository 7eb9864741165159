import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { FormBuilder, ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { changePassword } from '@loyal-hinge/contract';
import { counted } from '@loyal-hinge/core';
import { FieldFault } from '../forms/field-fault';
import { fits } from '../forms/fits';
import { onceMore } from '../http/once-more';
import { ProblemNotice } from '../http/problem-notice';
import { SecondFactor } from './second-factor';
import { SessionsTable } from './sessions-table';
import { isRunning, peopleActions, peopleFeature } from './state';
import type { PeopleCommand } from './state';

/** One's own page: password, second factor, sessions. */
@Component({
  selector: 'hinge-account-page',
  imports: [ReactiveFormsModule, FieldFault, ProblemNotice, SecondFactor, SessionsTable],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>{{ headline() }}</h1>
      </header>
      <hinge-problem [problem]="problem()" />
      @if (account(); as own) {
        <div class="two">
          <form [formGroup]="form" (ngSubmit)="change()">
            <h2>Password</h2>
            @if (own.mustChangePassword) {
              <p class="weak">Somebody else gave you this password. Choose your own; everything else opens then.</p>
            }
            <label class="field"
              >Present password<input type="password" formControlName="current" autocomplete="current-password"
            /></label>
            <label class="field"
              >New password<input type="password" formControlName="next" autocomplete="new-password" />
              <hinge-field-fault [of]="form.controls.next" />
              <small class="faint">At least 10 letters. Several words are easy to keep in mind.</small></label
            >
            <label class="field"
              >New password again<input type="password" formControlName="again" autocomplete="new-password" />
              @if (differs()) {
                <small class="fails" role="alert">It differs from the one above.</small>
              }
            </label>
            <button type="submit" class="act main" [disabled]="isChanging() || form.invalid || !isSame()">
              Change password
            </button>
            <p class="faint after">Your other sessions end then.</p>
          </form>
          @if (!own.mustChangePassword) {
            <section>
              <h2>Second factor</h2>
              <hinge-second-factor
                [account]="own"
                [wanted]="wanted()"
                [recoveryCodes]="recoveryCodes()"
                [busy]="isOfSecondFactor()"
                (asked)="carryOut($event)"
                (seen)="forget()"
              />
            </section>
          }
        </div>
        <h2 class="sessions">Where you are signed in</h2>
        <hinge-sessions-table
          [sessions]="own.sessions"
          [mayEnd]="!own.mustChangePassword"
          (ends)="carryOut({ does: 'end own session', id: $event })"
        />
      } @else {
        <div class="waiting" aria-busy="true"></div>
      }
    </div>
  `,
  styles: `
    .two {
      display: grid;
      grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
      gap: 3rem;
      max-width: 60rem;
    }
    h2 {
      margin-bottom: 0.7rem;
    }
    .sessions {
      margin-top: 1.6rem;
    }
    .field input {
      width: 100%;
    }
    .after {
      margin-top: 0.5rem;
    }
  `,
})
export class AccountPage {
  private readonly store = inject(Store);
  readonly account = this.store.selectSignal(peopleFeature.selectAccount);
  readonly wanted = this.store.selectSignal(peopleFeature.selectWanted);
  readonly recoveryCodes = this.store.selectSignal(peopleFeature.selectRecoveryCodes);
  readonly isChanging = this.store.selectSignal(isRunning('change password'));
  readonly isOfSecondFactor = this.store.selectSignal(
    isRunning('begin second factor', 'confirm second factor', 'end second factor', 'renew recovery codes'),
  );
  readonly problem = this.store.selectSignal(peopleFeature.selectProblem);
  readonly form = inject(FormBuilder).nonNullable.group({
    current: ['', fits(changePassword.shape.current)],
    next: ['', fits(changePassword.shape.next)],
    again: '',
  });
  readonly headline = computed(() => {
    const own = this.account();
    if (!own) return 'Your account';
    if (own.mustChangePassword) return `${own.name}: change your first password.`;
    const factor = own.hasSecondFactor ? 'with a second factor' : 'by password alone';
    const who = own.name === own.role ? own.name : `${own.name}, ${own.role}`;
    return `${who}: signed in at ${counted(own.sessions.length, 'place')}, ${factor}.`;
  });

  constructor() {
    this.store.dispatch(peopleActions.showAccount());
    onceMore(this.store.selectSignal(peopleFeature.selectDone), () => this.form.reset());
  }

  isSame(): boolean {
    const { next, again } = this.form.getRawValue();
    return next === again;
  }

  differs(): boolean {
    return this.form.controls.again.touched && !this.isSame();
  }

  change(): void {
    const { current, next } = this.form.getRawValue();
    if (this.form.valid && this.isSame()) this.carryOut({ does: 'change password', current, next });
  }

  carryOut(command: PeopleCommand): void {
    this.store.dispatch(peopleActions.command({ command }));
  }

  forget(): void {
    this.store.dispatch(peopleActions.forgetWhatWasShownOnce());
  }
}
