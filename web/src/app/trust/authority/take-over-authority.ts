import { ChangeDetectionStrategy, Component, inject, output } from '@angular/core';
import { Store } from '@ngrx/store';
import { importAuthority } from '@loyal-hinge/contract';
import { contractForm } from '../../forms/contract-form';
import { FileField } from '../../forms/file-field';
import { orEmpty } from '../../forms/fits';
import { TextField } from '../../forms/text-field';
import { FormSheet } from '../../shell/form-sheet';
import { isRunning, trustActions } from '../state';

const { certificatePem, encryptedKeyPem, passphrase } = importAuthority.shape;

/** Imports an authority that the plant has already, with its key or without. */
@Component({
  selector: 'hinge-take-over-authority',
  imports: [FileField, FormSheet, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      heading="Import an authority"
      does="Import"
      [form]="form"
      [busy]="busy()"
      (sent)="takeOver()"
      (left)="left.emit()"
    >
      <hinge-file label="Certificate (PEM)" accept=".pem,.crt,.cer" [control]="form.controls.certificatePem" />
      <hinge-file label="Its key, encrypted (PEM)" accept=".pem,.key" [control]="form.controls.encryptedKeyPem">
        <small class="faint">Not needed if the key is kept elsewhere: requests are then signed there.</small>
      </hinge-file>
      <hinge-text label="Passphrase of the key" kind="password" [control]="form.controls.passphrase" />
    </hinge-form-sheet>
  `,
})
export class TakeOverAuthority {
  private readonly store = inject(Store);
  readonly left = output();
  readonly busy = this.store.selectSignal(isRunning('import authority'));
  readonly form = contractForm(
    { certificatePem, encryptedKeyPem: orEmpty(encryptedKeyPem), passphrase: orEmpty(passphrase) },
    { certificatePem: '', encryptedKeyPem: '', passphrase: '' },
  );

  takeOver(): void {
    const typed = this.form.getRawValue();
    const body = { ...typed, encryptedKeyPem: typed.encryptedKeyPem || null, passphrase: typed.passphrase || null };
    this.form.controls.passphrase.reset();
    this.store.dispatch(trustActions.command({ command: { does: 'import authority', body } }));
  }
}
