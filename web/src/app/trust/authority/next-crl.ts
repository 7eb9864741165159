import { ChangeDetectionStrategy, Component, inject, input, output } from '@angular/core';
import { Store } from '@ngrx/store';
import { issueCrlRequest } from '@loyal-hinge/contract';
import type { AuthorityView } from '@loyal-hinge/contract';
import { contractForm } from '../../forms/contract-form';
import { TextField } from '../../forms/text-field';
import { FormSheet } from '../../shell/form-sheet';
import { isRunning, trustActions } from '../state';

/** Issues the next CRL of an authority. */
@Component({
  selector: 'hinge-next-crl',
  imports: [FormSheet, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      heading="Issue the next CRL"
      does="Issue"
      [form]="form"
      [busy]="busy()"
      (sent)="issue()"
      (left)="left.emit()"
    >
      <p class="faint">
        It names everything that was revoked, and is in force for 35 days. Applications don’t get it by themselves: the
        Plan page brings it to the lists that lack one.
      </p>
      <hinge-text label="Passphrase" kind="password" [control]="form.controls.passphrase" />
    </hinge-form-sheet>
  `,
})
export class NextCrl {
  private readonly store = inject(Store);
  readonly authority = input.required<AuthorityView>();
  readonly left = output();
  readonly busy = this.store.selectSignal(isRunning('issue CRL'));
  readonly form = contractForm(issueCrlRequest.shape, { passphrase: '' });

  issue(): void {
    const { passphrase } = this.form.getRawValue();
    const authority = this.authority().thumbprint;
    this.store.dispatch(trustActions.command({ command: { does: 'issue CRL', authority, passphrase } }));
  }
}
