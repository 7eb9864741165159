import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import type { AuthorityView, CreateAuthority } from '@loyal-hinge/contract';
import { FormSheet } from '../../shell/form-sheet';
import { isRunning, trustActions } from '../state';
import { Choose } from '../../forms/choose';

type KeyKind = CreateAuthority['keyKind'];

/** Renews an authority: the same name, with the key that it has or a new one. */
@Component({
  selector: 'hinge-renew-authority',
  imports: [Choose, FormsModule, FormSheet],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="'Renew ' + authority().name"
      [does]="busy() ? 'Renewing …' : 'Renew it'"
      [ready]="ready()"
      (kept)="renew()"
      (left)="left.emit()"
    >
      <p class="faint">
        The one of today stays trusted wherever it is, and goes on to issue CRLs.
        {{
          newKey() === ''
            ? 'What it has signed stays valid below the new one: only trust lists have to move, and the Plan page moves them.'
            : 'All that it has signed must be signed anew: the Plan page gives trust to the new one, renews, and takes the old one away when the new certificates are proved.'
        }}
      </p>
      <hinge-choose label="Key" name="newKey" [(ngModel)]="newKey" [choices]="keys" />
      <label class="field"
        >Valid for (days)<input type="number" name="days" min="30" max="7300" [(ngModel)]="validDays"
      /></label>
      <label class="field"
        >Passphrase of today<input type="password" autocomplete="off" name="passphrase" [(ngModel)]="passphrase"
      /></label>
      <label class="field"
        >New passphrase<input
          type="password"
          autocomplete="new-password"
          name="newPassphrase"
          [(ngModel)]="newPassphrase"
        />
        <small class="faint">At least 12 letters. Leave it empty to keep the one of today.</small></label
      >
    </hinge-form-sheet>
  `,
})
export class RenewAuthority {
  private readonly store = inject(Store);
  readonly authority = input.required<AuthorityView>();
  readonly left = output();
  readonly busy = this.store.selectSignal(isRunning('renew authority'));
  readonly keys = [
    { key: '', word: 'the key that it has' },
    ...(['RSA 2048', 'RSA 3072', 'RSA 4096', 'P-256'] as const).map((key) => ({ key, word: `a new one, ${key}` })),
  ] as const;
  readonly newKey = signal<KeyKind | ''>('');
  readonly validDays = signal(3650);
  readonly passphrase = signal('');
  readonly newPassphrase = signal('');
  private readonly isLongEnough = computed(() => this.newPassphrase() === '' || this.newPassphrase().length >= 12);
  readonly ready = computed(() => !this.busy() && this.passphrase() !== '' && this.isLongEnough());

  renew(): void {
    const body = {
      newKey: this.newKey() || null,
      validDays: this.validDays(),
      passphrase: this.passphrase(),
      newPassphrase: this.newPassphrase() === '' ? null : this.newPassphrase(),
    };
    this.passphrase.set('');
    this.newPassphrase.set('');
    const { thumbprint } = this.authority();
    this.store.dispatch(trustActions.command({ command: { does: 'renew authority', authority: thumbprint, body } }));
  }
}
