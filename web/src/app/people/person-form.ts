import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output } from '@angular/core';
import { FormBuilder, ReactiveFormsModule } from '@angular/forms';
import { Dialog } from 'primeng/dialog';
import { addPerson, roles } from '@loyal-hinge/contract';
import type { Person, Role } from '@loyal-hinge/contract';
import { FieldFault } from '../forms/field-fault';
import { FirstField } from '../forms/first-field';
import { fits } from '../forms/fits';
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
  imports: [Choose, ReactiveFormsModule, Dialog, FieldFault, FirstField, ProblemNotice],
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
      <form hingeFirstField [formGroup]="form" (ngSubmit)="save()">
        @if (wish().form === 'add') {
          <label class="field"
            >Name<input formControlName="name" autocomplete="off" /><hinge-field-fault [of]="form.controls.name"
          /></label>
        }
        @if (wish().form !== 'reset') {
          <hinge-choose label="Role" formControlName="role" [choices]="roles">
            <small class="faint">Each role may do what those before it may.</small>
          </hinge-choose>
        }
        @if (wish().form === 'change') {
          <label class="tick"
            ><input type="checkbox" formControlName="isDisabled" /> Disabled
            <small class="faint">cannot sign in, and is signed out at once</small></label
          >
        }
        @if (wish().form !== 'change') {
          <label class="field"
            >First password<input type="password" formControlName="password" autocomplete="new-password" />
            <hinge-field-fault [of]="form.controls.password" />
            <small class="faint">It has to be changed at the first sign-in. Tell it in person.</small></label
          >
        }
        @if (hasSecondFactor()) {
          <label class="tick"
            ><input type="checkbox" formControlName="endSecondFactor" /> End the second factor, too
            <small class="faint">where the device is lost</small></label
          >
        }
        <div class="actions">
          <button type="submit" class="act main" [disabled]="busy() || !isComplete()">Save</button>
          <button type="button" class="act" (click)="left.emit()">Cancel</button>
        </div>
      </form>
    </p-dialog>
  `,
  styles: `
    .tick {
      display: block;
      margin-bottom: 1rem;
    }
    .field input,
    .field select {
      width: 100%;
    }
  `,
})
export class PersonForm {
  readonly wish = input.required<PersonWish>();
  readonly busy = input(false);
  readonly problem = input<ShownProblem | null>(null);
  readonly left = output();
  readonly saved = output<PeopleCommand>();
  readonly roles = asChoices(roles);
  readonly form = inject(FormBuilder).nonNullable.group({
    name: ['', fits(addPerson.shape.name)],
    role: 'viewer' as Role,
    isDisabled: false,
    password: ['', fits(addPerson.shape.password)],
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
      this.form.reset(wish.form === 'add' ? {} : { role: wish.person.role, isDisabled: wish.person.isDisabled });
    });
  }

  isComplete(): boolean {
    const { name, password } = this.form.controls;
    const { form } = this.wish();
    return (form !== 'add' || name.valid) && (form === 'change' || password.valid);
  }

  save(): void {
    if (!this.isComplete()) return;
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
