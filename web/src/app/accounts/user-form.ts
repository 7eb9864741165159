import { ChangeDetectionStrategy, Component, effect, inject, input, output } from '@angular/core';
import { Store } from '@ngrx/store';
import * as z from 'zod';
import { newPassword } from '@loyal-hinge/contract';
import { contractForm, tellFaults } from '../forms/contract-form';
import { SwitchField } from '../forms/switch-field';
import { TextField } from '../forms/text-field';
import { onceMore } from '../http/once-more';
import { FormSheet } from '../shell/form-sheet';
import { accountsActions, accountsFeature, isRunning } from './state';

/** Adds a user to a server: to the changes that are tried out. The password is sealed at once. */
@Component({
  selector: 'hinge-user-form',
  imports: [FormSheet, SwitchField, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      heading="Add a user"
      does="Try it out"
      [form]="form"
      [busy]="busy()"
      (sent)="send()"
      (left)="left.emit()"
    >
      <p class="faint">Nothing is changed at the server yet. The password is stored encrypted at once.</p>
      <hinge-text label="User name" kind="technical" [control]="form.controls.userName" />
      <hinge-text label="Password" kind="new password" [control]="form.controls.password" />
      <hinge-text label="Description" [control]="form.controls.description" />
      <hinge-switch label="Must change the password when first signing in" [control]="form.controls.mustChange" />
    </hinge-form-sheet>
  `,
})
export class UserForm {
  private readonly store = inject(Store);
  readonly serverId = input.required<string>();
  readonly left = output();
  readonly busy = this.store.selectSignal(isRunning('seal'));
  private readonly problem = this.store.selectSignal(accountsFeature.selectCommandProblem);
  readonly form = contractForm(
    { ...newPassword.shape, description: z.string().max(500) },
    { userName: '', password: '', description: '', mustChange: false },
  );

  constructor() {
    effect(() => tellFaults(this.form, this.problem()));
    onceMore(this.store.selectSignal(accountsFeature.selectDone), () => this.left.emit());
  }

  send(): void {
    const { userName, password, description, mustChange } = this.form.getRawValue();
    const settings = { flags: mustChange ? (['MustChangePassword'] as const) : [], description };
    this.store.dispatch(accountsActions.addUser({ serverId: this.serverId(), userName, password, settings }));
  }
}
