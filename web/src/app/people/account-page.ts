import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { changePassword } from '@loyal-hinge/contract';
import { counted } from '@loyal-hinge/core';
import { contractForm, isComplete } from '../forms/contract-form';
import { TextField } from '../forms/text-field';
import { onceMore } from '../http/once-more';
import { ProblemNotice } from '../http/problem-notice';
import { SecondFactor } from './second-factor';
import { SessionsTable } from './sessions-table';
import { isRunning, peopleActions, peopleFeature } from './state';
import type { PeopleCommand } from './state';
import { Waiting } from '../shell/waiting';

/** One's own page: password, second factor, sessions. */
@Component({
  selector: 'hinge-account-page',
  imports: [Waiting, ProblemNotice, ReactiveFormsModule, SecondFactor, SessionsTable, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>{{ headline() }}</h1>
      </header>
      <hinge-problem [problem]="problem()" />
      @if (account(); as own) {
        <div class="two">
          <form [formGroup]="form" (ngSubmit)="change($event)">
            <h2>Password</h2>
            @if (own.mustChangePassword) {
              <p class="weak">
                Somebody else gave you this password. Choose your own; then everything else is available.
              </p>
            }
            <hinge-text
              label="Present password"
              kind="password"
              fill="current-password"
              [control]="form.controls.current"
            />
            <hinge-text label="New password" kind="new password" [control]="form.controls.next">
              <small class="faint">At least 10 letters. Several words are easy to remember.</small>
            </hinge-text>
            <hinge-text label="New password again" kind="new password" [control]="form.controls.again" />
            <button type="submit" class="act main" [disabled]="isChanging()">Change password</button>
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
        <hinge-waiting />
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
  readonly form = contractForm(changePassword.shape, { current: '', next: '', again: '' });
  readonly headline = computed(() => {
    const own = this.account();
    if (!own) return 'Your account';
    if (own.mustChangePassword) return `${own.name}: change your first password.`;
    const factor = own.hasSecondFactor ? 'with a second factor' : 'by password only';
    const who = own.name === own.role ? own.name : `${own.name}, ${own.role}`;
    return `${who}: signed in at ${counted(own.sessions.length, 'place')}, ${factor}.`;
  });

  constructor() {
    this.store.dispatch(peopleActions.showAccount());
    this.form.controls.again.addValidators(({ value }) =>
      value === this.form.controls.next.value ? null : { same: 'It differs from the one above.' },
    );
    this.form.controls.next.valueChanges.subscribe(() => this.form.controls.again.updateValueAndValidity());
    onceMore(this.store.selectSignal(peopleFeature.selectDone), () => this.form.reset());
  }

  change(sent: Event): void {
    const { current, next } = this.form.getRawValue();
    if (isComplete(this.form, sent)) this.carryOut({ does: 'change password', current, next });
  }

  carryOut(command: PeopleCommand): void {
    this.store.dispatch(peopleActions.command({ command }));
  }

  forget(): void {
    this.store.dispatch(peopleActions.forgetWhatWasShownOnce());
  }
}
