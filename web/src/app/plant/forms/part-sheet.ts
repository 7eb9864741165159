import { ChangeDetectionStrategy, Component, effect, input, output } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { isComplete, tellFaults } from '../../forms/contract-form';
import { FirstField } from '../../forms/first-field';
import { TextField } from '../../forms/text-field';
import { ProblemNotice } from '../../http/problem-notice';
import type { SomeRowForm } from './row-form';

/** What every form of the plant has: name and id above its own fields, what is wrong, and the way out. */
@Component({
  selector: 'hinge-part-sheet',
  imports: [FirstField, ProblemNotice, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let part = of();
    <form hingeFirstField [formGroup]="part.form" (ngSubmit)="save($event)">
      <hinge-problem [problem]="part.problem()" />
      <hinge-text label="Name" [control]="part.form.controls.name" />
      <hinge-text label="Id" kind="technical" [control]="part.form.controls.id" [fixed]="part.row() !== null">
        <small class="faint">Small letters, digits and hyphens; it is used in addresses and files.</small>
      </hinge-text>
      <ng-content />
      <div class="actions">
        <button type="submit" class="act main" [disabled]="part.isSaving()">
          {{ part.isSaving() ? 'Saving …' : 'Save' }}
        </button>
        <button type="button" class="act" (click)="part.left.emit()">Cancel</button>
      </div>
    </form>
  `,
})
export class PartSheet {
  readonly of = input.required<SomeRowForm>();
  /** What stands in the form is complete, and to be saved. */
  readonly complete = output();

  constructor() {
    effect(() => tellFaults(this.of().form, this.of().problem()));
  }

  save(sent: Event): void {
    if (isComplete(this.of().form, sent)) this.complete.emit();
  }
}
