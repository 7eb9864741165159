import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import { newPassword } from '@loyal-hinge/contract';
import type { AccountView } from '@loyal-hinge/contract';
import { contractForm, tellFaults } from '../forms/contract-form';
import { TextField } from '../forms/text-field';
import { may } from '../session/may';
import { FormSheet } from '../shell/form-sheet';
import { Moment } from '../signs/moment';
import { flagWords } from './account-words';
import { accountsActions, accountsFeature, isRunning } from './state';

/** One account: what the server keeps of it, when it was let in, and a new password for it. */
@Component({
  selector: 'hinge-account-sheet',
  imports: [FormSheet, Moment, RouterLink, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <dl>
      <dt>At the server</dt>
      <dd>
        @if (account().user; as user) {
          {{ flagsOf(user.flags) }}{{ user.description === '' ? '' : '; “' + user.description + '”' }}
        } @else if (account().certificate) {
          users who come with a certificate are not listed by servers
        } @else if (account().userName === null) {
          nobody is asked for a name
        } @else {
          its users are not known, or it is not among them
        }
      </dd>
      <dt>Last let in</dt>
      <dd>
        @if (account().signedInAt; as at) {
          <hinge-moment [at]="at" />, by {{ account().signedInBy }}
        } @else {
          never from here
        }
      </dd>
      @if (account().refusedAt; as at) {
        <dt>Refused</dt>
        <dd>
          <hinge-moment [at]="at" />
          @if (account().pausedUntil; as until) {
            ; not tried before <hinge-moment [at]="until" />, so that the account does not get locked
          }
        </dd>
      }
      @if (account().certificate; as certificate) {
        <dt>User certificate</dt>
        <dd>
          <a routerLink="/entry/user-certificates" [queryParams]="{ open: certificate.name }">{{ certificate.name }}</a>
          @if (certificate.notAfter; as until) {
            valid until <hinge-moment [at]="until" show="day" />
          } @else {
            not stored here
          }
        </dd>
      } @else if (account().userName !== null) {
        <dt>Password</dt>
        <dd>{{ account().password === 'stored' ? 'stored here, encrypted' : 'not stored here' }}</dd>
      }
    </dl>
    @if (isChanging()) {
      <hinge-form-sheet
        heading="Change the password"
        does="Propose a work order"
        [form]="form"
        [busy]="busy()"
        (sent)="send()"
        (left)="isChanging.set(false)"
      >
        <p class="faint">{{ whatHappens() }}</p>
        <hinge-text label="New password" kind="new password" [control]="form.controls.password" />
        <hinge-text label="New password again" kind="new password" [control]="form.controls.again">
          @if (differs()) {
            <span class="fails" role="alert">The two are not the same.</span>
          }
        </hinge-text>
      </hinge-form-sheet>
    } @else {
      <div class="actions">
        @if (account().userName !== null && !account().certificate) {
          <button type="button" class="act" [disabled]="!mayAct()" (click)="isChanging.set(true)">
            Change the password …
          </button>
        }
        <a class="act" [routerLink]="['/entry/identities', account().serverId]"
          >Roles and users of {{ account().server }}</a
        >
      </div>
    }
  `,
  styles: `
    dl {
      display: grid;
      grid-template-columns: max-content 1fr;
      gap: 0.2rem 1.2rem;
      margin: 0.3rem 0 0.7rem;
    }
    dt {
      color: var(--faint);
    }
    dd {
      margin: 0;
    }
  `,
})
export class AccountSheet {
  private readonly store = inject(Store);
  readonly account = input.required<AccountView>();
  readonly left = output();
  readonly mayAct = may('engineer');
  readonly busy = this.store.selectSignal(isRunning('seal'));
  private readonly problem = this.store.selectSignal(accountsFeature.selectCommandProblem);
  readonly isChanging = signal(false);
  readonly differs = signal(false);
  readonly form = contractForm(
    { password: newPassword.shape.password, again: newPassword.shape.password },
    { password: '', again: '' },
  );
  readonly whatHappens = computed(() => {
    const { links, server } = this.account();
    if (links.length === 0)
      return `One line of a work order sets it on ${server}. Nothing is changed before the order is approved and carried out.`;
    return byNumber(
      links.length,
      `One line of a work order sets it on ${server} and in the link that uses the account. Nothing is changed before the order is approved and carried out.`,
      `One line of a work order sets it on ${server} and in all # links that use the account. Nothing is changed before the order is approved and carried out.`,
    );
  });

  constructor() {
    effect(() => tellFaults(this.form, this.problem()));
    this.form.valueChanges.subscribe(() => this.differs.set(false));
  }

  flagsOf = (flags: NonNullable<AccountView['user']>['flags']): string =>
    flags.length === 0 ? 'enabled' : flags.map((flag) => flagWords[flag]).join(', ');

  send(): void {
    const { password, again } = this.form.getRawValue();
    this.differs.set(password !== again);
    if (password === again) this.store.dispatch(accountsActions.changePassword({ account: this.account(), password }));
  }
}
