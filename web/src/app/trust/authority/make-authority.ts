import { ChangeDetectionStrategy, Component, inject, output } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { createAuthority } from '@loyal-hinge/contract';
import type { CreateAuthority } from '@loyal-hinge/contract';
import { Choose } from '../../forms/choose';
import { contractForm } from '../../forms/contract-form';
import { keyKinds } from '../../forms/key-kinds';
import { NumberField } from '../../forms/number-field';
import { TextField } from '../../forms/text-field';
import { FormSheet } from '../../shell/form-sheet';
import { isRunning, trustActions } from '../state';

/** Makes an authority of the plant’s own. */
@Component({
  selector: 'hinge-make-authority',
  imports: [Choose, FormSheet, NumberField, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      heading="Create an authority"
      does="Create"
      [form]="form"
      [busy]="busy()"
      (sent)="make()"
      (left)="left.emit()"
    >
      <hinge-text label="Name" [control]="form.controls.commonName" />
      <hinge-text label="Organisation" [control]="form.controls.organization" />
      <hinge-choose label="Key" [formControl]="form.controls.keyKind" [choices]="keyKinds" />
      <hinge-number label="Valid for" unit="days" [step]="365" [control]="form.controls.validDays" />
      <hinge-number label="Levels of authorities below it" [control]="form.controls.pathLength" />
      <hinge-text label="Passphrase" kind="new password" [control]="form.controls.passphrase">
        <small class="faint">It encrypts the key and is asked for at each signing. It is never stored.</small>
      </hinge-text>
    </hinge-form-sheet>
  `,
})
export class MakeAuthority {
  private readonly store = inject(Store);
  readonly left = output();
  readonly busy = this.store.selectSignal(isRunning('create authority'));
  readonly keyKinds = keyKinds;
  readonly form = contractForm(createAuthority.shape, {
    commonName: '',
    organization: '',
    keyKind: 'RSA 3072' as CreateAuthority['keyKind'],
    validDays: 3650,
    pathLength: 0,
    passphrase: '',
  });

  make(): void {
    const body = this.form.getRawValue();
    this.form.controls.passphrase.reset();
    this.store.dispatch(trustActions.command({ command: { does: 'create authority', body } }));
  }
}
