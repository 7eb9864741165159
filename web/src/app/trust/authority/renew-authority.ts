import { ChangeDetectionStrategy, Component, inject, input, output } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { renewAuthority } from '@loyal-hinge/contract';
import type { AuthorityView, CreateAuthority } from '@loyal-hinge/contract';
import { Choose } from '../../forms/choose';
import { contractForm } from '../../forms/contract-form';
import { orEmpty } from '../../forms/fits';
import { keyKinds } from '../../forms/key-kinds';
import { NumberField } from '../../forms/number-field';
import { TextField } from '../../forms/text-field';
import { FormSheet } from '../../shell/form-sheet';
import { isRunning, trustActions } from '../state';

type KeyKind = CreateAuthority['keyKind'];

/** Renews an authority: the same name, with the key that it has or a new one. */
@Component({
  selector: 'hinge-renew-authority',
  imports: [Choose, FormSheet, NumberField, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="'Renew ' + authority().name"
      does="Renew"
      [form]="form"
      [busy]="busy()"
      (sent)="renew()"
      (left)="left.emit()"
    >
      <p class="faint">
        The present one stays trusted wherever it is, and goes on issuing CRLs.
        {{
          newKey() === ''
            ? 'What it has signed stays valid below the new one: only trust lists have to change, and the Plan page changes them.'
            : 'Everything that it has signed must be signed again: the Plan page gives trust to the new one, renews the certificates, and removes the old one when the new certificates are proved.'
        }}
      </p>
      <hinge-choose label="Key" [formControl]="form.controls.newKey" [choices]="keys" />
      <hinge-number label="Valid for" unit="days" [step]="365" [control]="form.controls.validDays" />
      <hinge-text label="Present passphrase" kind="password" [control]="form.controls.passphrase" />
      <hinge-text label="New passphrase" kind="new password" [control]="form.controls.newPassphrase">
        <small class="faint">At least 12 letters. If it is empty, the passphrase stays the same.</small>
      </hinge-text>
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
    ...keyKinds.map(({ key, word }) => ({ key, word: `a new one, ${word}` })),
  ] as const;
  readonly form = contractForm(
    {
      ...renewAuthority.shape,
      newKey: orEmpty(renewAuthority.shape.newKey),
      newPassphrase: orEmpty(renewAuthority.shape.newPassphrase),
    },
    { newKey: '' as KeyKind | '', validDays: 3650, passphrase: '', newPassphrase: '' },
  );
  readonly newKey = toSignal(this.form.controls.newKey.valueChanges, { initialValue: '' });

  renew(): void {
    const { newKey, newPassphrase, ...typed } = this.form.getRawValue();
    const body = { ...typed, newKey: newKey || null, newPassphrase: newPassphrase || null };
    this.form.controls.passphrase.reset();
    this.form.controls.newPassphrase.reset();
    const { thumbprint } = this.authority();
    this.store.dispatch(trustActions.command({ command: { does: 'renew authority', authority: thumbprint, body } }));
  }
}
