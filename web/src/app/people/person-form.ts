import { ChangeDetectionStrategy, Component, computed, effect, input, output } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Dialog } from 'primeng/dialog';
import { addPerson, roles } from '@loyal-hinge/contract';
import type { Person, Role } from '@loyal-hinge/contract';
import { contractForm, isComplete, tellFaults } from '../forms/contract-form';
import { FirstField } from '../forms/first-field';
import { SwitchField } from '../forms/switch-field';
import { TextField } from '../forms/text-field';
import { ProblemNotice } from '../http/problem-notice';
import type { ShownProblem } from '../http/problem';
import type { PeopleCommand } from './state';
import { Choose, asChoices } from '../forms/choose';

/** Which form is open, and about whom. */
export type PersonWish = { readonly form: 'add' } | { readonly form: 'change' | 'reset'; readonly person: Person };

const headings = { add: 'Add a person', change: 'Change', reset: 'New first password' } as const;

/** Adds a person, changes one, or gives one a first password anew. */
@Component({
  selector: 'hinge-person-form',
  imports: [Choose, Dialog, FirstField, ProblemNotice, ReactiveFormsModule, SwitchField, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="heading()"
      [visible]="true"
      (visibleChange)="left.emit()"
      [modal]="true"
      [focusOnShow]="false"
      [style]="{ width: '30rem' }"
    >
      <hinge-problem [problem]="problem()" />
      <form hingeFirstField [formGroup]="form" (ngSubmit)="save($event)">
        @if (wish().form === 'add') {
          <hinge-text label="Name" [control]="form.controls.name" />
        }
        @if (wish().form !== 'reset') {
          <hinge-choose label="Role" formControlName="role" [choices]="roles">
            <small class="faint">Each role may also do what the roles before it may do.</small>
          </hinge-choose>
        }
        @if (wish().form === 'change') {
          <hinge-switch label="Disabled" [control]="form.controls.isDisabled">
            <small class="faint">cannot sign in, and is signed out at once</small>
          </hinge-switch>
        }
        @if (wish().form !== 'change') {
          <hinge-text label="First password" kind="new password" [control]="form.controls.password">
            <small class="faint">It has to be changed at the first sign-in. Pass it on in person.</small>
          </hinge-text>
        }
        @if (hasSecondFactor()) {
          <hinge-switch label="End the second factor as well" [control]="form.controls.endSecondFactor">
            <small class="faint">if the device is lost</small>
          </hinge-switch>
        }
        <div class="actions">
          <button type="submit" class="act main" [disabled]="busy()">Save</button>
          <button type="button" class="act" (click)="left.emit()">Cancel</button>
        </div>
      </form>
    </p-dialog>
  `,
})
export class PersonForm {
  readonly wish = input.required<PersonWish>();
  readonly busy = input(false);
  readonly problem = input<ShownProblem | null>(null);
  readonly left = output();
  readonly saved = output<PeopleCommand>();
  readonly roles = asChoices(roles);
  readonly form = contractForm(addPerson.shape, {
    name: '',
    role: 'viewer' as Role,
    isDisabled: false,
    password: '',
    endSecondFactor: false,
  });
  readonly heading = computed(() => {
    const wish = this.wish();
    return wish.form === 'add' ? headings.add : `${headings[wish.form]}: ${wish.person.name}`;
  });
  readonly hasSecondFactor = computed(() => {
    const wish = this.wish();
    return wish.form === 'reset' && wish.person.hasSecondFactor;
  });

  constructor() {
    effect(() => {
      const wish = this.wish();
      const { name, password } = this.form.controls;
      this.form.reset(wish.form === 'add' ? {} : { role: wish.person.role, isDisabled: wish.person.isDisabled });
      // What is not asked for is not judged.
      if (wish.form !== 'add') name.disable();
      if (wish.form === 'change') password.disable();
    });
    effect(() => tellFaults(this.form, this.problem()));
  }

  save(sent: Event): void {
    if (!isComplete(this.form, sent)) return;
    const { name, role, isDisabled, password, endSecondFactor } = this.form.getRawValue();
    const wish = this.wish();
    this.saved.emit(
      wish.form === 'add'
        ? { does: 'add', body: { name: name.trim(), role, password } }
        : wish.form === 'change'
          ? { does: 'change', name: wish.person.name, body: { role, isDisabled } }
          : { does: 'reset', name: wish.person.name, body: { password, endSecondFactor } },
    );
  }
}
