import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { Store } from '@ngrx/store';
import { issueRequest } from '@loyal-hinge/contract';
import type { AuthorityView } from '@loyal-hinge/contract';
import { DroppedFiles } from '../../files/dropped-files';
import { chosenOne } from '../../forms/chosen-one';
import { contractForm } from '../../forms/contract-form';
import { FileField } from '../../forms/file-field';
import { NumberField } from '../../forms/number-field';
import { TextField } from '../../forms/text-field';
import { FormSheet } from '../../shell/form-sheet';
import { isRunning, trustActions, trustFeature } from '../state';
import { WhichApplication } from '../which-application';

/** Signs a certificate request of an application; one that was dropped onto the window is here already. */
@Component({
  selector: 'hinge-sign-request',
  imports: [FileField, FormSheet, NumberField, TextField, WhichApplication],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      heading="Sign a request"
      does="Sign"
      [form]="form"
      [busy]="busy()"
      (sent)="sign()"
      (left)="left.emit()"
    >
      <hinge-which-application [parties]="parties()" [control]="form.controls.applicationId" />
      <hinge-file
        label="Request (PKCS#10, PEM)"
        accept=".csr,.pem,.req"
        [control]="form.controls.requestPem"
        [given]="isDropped ? 'The request that you dropped' : ''"
      />
      <hinge-number label="Valid for" unit="days" [step]="365" [control]="form.controls.validDays" />
      <hinge-text label="Passphrase" kind="password" [control]="form.controls.passphrase" />
    </hinge-form-sheet>
  `,
})
export class SignRequest {
  private readonly store = inject(Store);
  readonly authority = input.required<AuthorityView>();
  readonly left = output();
  readonly busy = this.store.selectSignal(isRunning('issue'));
  private readonly known = this.store.selectSignal(trustFeature.selectParties);
  private readonly dropped = inject(DroppedFiles);
  readonly parties = computed(() => this.known() ?? []);
  readonly form = contractForm(
    { ...issueRequest.shape, applicationId: chosenOne },
    { applicationId: '', requestPem: '', validDays: 730, passphrase: '' },
  );
  readonly isDropped: boolean;

  constructor() {
    const request = this.dropped.request();
    this.dropped.request.set(null);
    this.isDropped = request !== null;
    this.form.patchValue({ requestPem: request?.pem ?? '', applicationId: request?.applicationId ?? '' });
  }

  sign(): void {
    const body = this.form.getRawValue();
    this.form.controls.passphrase.reset();
    const { thumbprint } = this.authority();
    this.store.dispatch(trustActions.command({ command: { does: 'issue', authority: thumbprint, body } }));
  }
}
