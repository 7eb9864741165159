import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { confirmSecondFactor, confirmed } from '@loyal-hinge/contract';
import type { Account, WantedSecondFactor } from '@loyal-hinge/contract';
import { counted } from '@loyal-hinge/core';
import { saveFile } from '../files/save-file';
import { contractForm, isComplete } from '../forms/contract-form';
import { TextField } from '../forms/text-field';
import { CopyText } from '../signs/copy-text';
import { QrCode } from './qr-code';
import type { PeopleCommand } from './state';

/** Setting up, using and ending one-time codes as a second factor of one's own. */
@Component({
  selector: 'hinge-second-factor',
  imports: [CopyText, QrCode, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (recoveryCodes().length > 0) {
      <p>
        Recovery codes: each signs you in once, in place of a code. <strong>They are shown only now.</strong> Store them
        where you can find them without your device.
      </p>
      <ul class="codes mono">
        @for (code of recoveryCodes(); track code) {
          <li>{{ code }}</li>
        }
      </ul>
      <div class="actions">
        <button type="button" class="act" (click)="saveCodes()">Save as a file</button>
        <button type="button" class="act main" (click)="seen.emit()">I have saved them</button>
      </div>
    } @else if (wanted(); as secret) {
      <p>Scan this code with your authenticator application, or type the letters into it.</p>
      <hinge-qr-code [text]="secret.uri" says="The secret of your second factor, for an authenticator application" />
      <p class="letters"><hinge-copy [text]="secret.letters" /></p>
      <form [formGroup]="codeForm" (ngSubmit)="confirm($event)">
        <hinge-text label="The code that it shows now" kind="code" [control]="codeForm.controls.code" />
        <div class="actions">
          <button type="submit" class="act main" [disabled]="busy()">Confirm</button>
          <button type="button" class="act" (click)="seen.emit()">Cancel</button>
        </div>
      </form>
    } @else {
      <p>
        @if (account().hasSecondFactor) {
          You sign in with a code in addition to your password.
          {{ codesLeft() }}
        } @else {
          You sign in by password only. With a second factor, a stolen password opens nothing: an authenticator
          application on your phone shows a code that is asked for as well.
        }
      </p>
      <form [formGroup]="passwordForm" (ngSubmit)="begin($event)">
        <hinge-text
          label="Your password"
          kind="password"
          fill="current-password"
          [control]="passwordForm.controls.current"
        />
        <div class="actions">
          @if (account().hasSecondFactor) {
            <button type="button" class="act" [disabled]="busy()" (click)="ask('renew recovery codes', $event)">
              New recovery codes
            </button>
            <button type="button" class="act" [disabled]="busy()" (click)="ask('end second factor', $event)">
              End the second factor
            </button>
          } @else {
            <button type="submit" class="act main" [disabled]="busy()">Set up a second factor</button>
          }
        </div>
      </form>
    }
  `,
  styles: `
    .codes {
      columns: 2;
      max-width: 26rem;
      padding-left: 1.2rem;
    }
    .letters {
      margin: 0.6rem 0;
    }
  `,
})
export class SecondFactor {
  readonly account = input.required<Account>();
  readonly wanted = input.required<WantedSecondFactor | null>();
  readonly recoveryCodes = input.required<readonly string[]>();
  readonly busy = input(false);
  readonly asked = output<PeopleCommand>();
  /** What was shown once may be forgotten. */
  readonly seen = output();
  readonly passwordForm = contractForm(confirmed.shape, { current: '' });
  readonly codeForm = contractForm(confirmSecondFactor.shape, { code: '' });

  codesLeft(): string {
    const left = this.account().recoveryCodesLeft;
    return left === 0 ? 'No recovery code is left: create new ones.' : `${counted(left, 'recovery code')} left.`;
  }

  begin(sent: Event): void {
    if (!this.account().hasSecondFactor) this.ask('begin second factor', sent);
  }

  confirm(sent: Event): void {
    if (!isComplete(this.codeForm, sent)) return;
    this.asked.emit({ does: 'confirm second factor', code: this.codeForm.getRawValue().code });
    this.codeForm.reset();
  }

  saveCodes(): void {
    saveFile('recovery-codes.txt', 'text/plain', `${this.recoveryCodes().join('\n')}\n`);
  }

  ask(does: 'begin second factor' | 'renew recovery codes' | 'end second factor', sent: Event): void {
    if (!isComplete(this.passwordForm, sent)) return;
    this.asked.emit({ does, current: this.passwordForm.getRawValue().current });
    this.passwordForm.reset();
  }
}
