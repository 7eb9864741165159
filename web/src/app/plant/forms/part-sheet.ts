import { ChangeDetectionStrategy, Component, ElementRef, effect, inject, input, output } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import type { FormControl, FormGroup } from '@angular/forms';
import { isComplete, tellFaults } from '../../forms/contract-form';
import { FirstField } from '../../forms/first-field';
import { TextField } from '../../forms/text-field';
import type { ShownProblem } from '../../http/problem';
import { ProblemNotice } from '../../http/problem-notice';

/** What every form of the plant has: name and id above its own fields, what is wrong, and the way out. */
@Component({
  selector: 'hinge-part-sheet',
  imports: [FirstField, ProblemNotice, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form hingeFirstField [formGroup]="form()" (ngSubmit)="save()">
      <hinge-problem [problem]="problem()" />
      <hinge-text label="Name" [control]="named().name" />
      <hinge-text label="Id" kind="technical" [control]="named().id" [fixed]="!isNew()">
        <small class="faint">Small letters, digits and hyphens; it is used in addresses and files.</small>
      </hinge-text>
      <ng-content />
      <div class="actions">
        <button type="submit" class="act main" [disabled]="isSaving()">{{ isSaving() ? 'Saving …' : 'Save' }}</button>
        <button type="button" class="act" (click)="left.emit()">Cancel</button>
      </div>
    </form>
  `,
})
export class PartSheet {
  private readonly around = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  readonly form = input.required<FormGroup>();
  /** What every part of the plant has; the controls of the form. */
  readonly named = input.required<{ readonly name: FormControl<string>; readonly id: FormControl<string> }>();
  readonly isNew = input.required<boolean>();
  readonly isSaving = input.required<boolean>();
  /** Why it could not be saved. */
  readonly problem = input.required<ShownProblem | null>();
  readonly left = output();
  /** What stands in the form is complete, and to be saved. */
  readonly saved = output();

  constructor() {
    effect(() => tellFaults(this.form(), this.problem()));
  }

  save(): void {
    if (isComplete(this.form(), this.around)) this.saved.emit();
  }
}
