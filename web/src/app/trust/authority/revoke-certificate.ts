import { ChangeDetectionStrategy, Component, inject, input, output } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { revocationReasons, revokeRequest } from '@loyal-hinge/contract';
import type { AuthorityView } from '@loyal-hinge/contract';
import { Choose } from '../../forms/choose';
import { contractForm } from '../../forms/contract-form';
import { TextField } from '../../forms/text-field';
import { FormSheet } from '../../shell/form-sheet';
import { reasonWords } from '../reasons';
import { isRunning, trustActions } from '../state';

type Reason = (typeof revocationReasons)[number];

/** Revokes a certificate that an authority has signed. */
@Component({
  selector: 'hinge-revoke-certificate',
  imports: [Choose, FormSheet, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="'Revoke ' + serialNumber()"
      does="Revoke"
      [form]="form"
      [busy]="busy()"
      (sent)="revoke()"
      (left)="left.emit()"
    >
      <p class="faint">This can’t be undone. A CRL that names the certificate is issued at once.</p>
      <hinge-choose label="Reason" [formControl]="form.controls.reason" [choices]="reasons" />
      <hinge-text label="Passphrase" kind="password" [control]="form.controls.passphrase" />
    </hinge-form-sheet>
  `,
})
export class RevokeCertificate {
  private readonly store = inject(Store);
  readonly authority = input.required<AuthorityView>();
  readonly serialNumber = input.required<string>();
  readonly left = output();
  readonly busy = this.store.selectSignal(isRunning('revoke'));
  readonly reasons = revocationReasons.map((key) => ({ key, word: reasonWords[key] ?? key }));
  readonly form = contractForm(revokeRequest.shape, { reason: 'unspecified' as Reason, passphrase: '' });

  revoke(): void {
    const body = { serialNumber: this.serialNumber(), ...this.form.getRawValue() };
    const { thumbprint } = this.authority();
    this.store.dispatch(trustActions.command({ command: { does: 'revoke', authority: thumbprint, body } }));
  }
}
