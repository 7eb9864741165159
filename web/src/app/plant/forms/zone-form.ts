import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import type { OnInit } from '@angular/core';
import { zone } from '@loyal-hinge/contract';
import type { Zone } from '@loyal-hinge/core';
import { contractForm } from '../../forms/contract-form';
import { NumberField } from '../../forms/number-field';
import type { ShownProblem } from '../../http/problem';
import { PartSheet } from './part-sheet';
import { followName } from './typed';

@Component({
  selector: 'hinge-zone-form',
  imports: [NumberField, PartSheet],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-part-sheet
      [form]="form"
      [named]="form.controls"
      [isNew]="row() === null"
      [isSaving]="isSaving()"
      [problem]="problem()"
      (left)="left.emit()"
      (saved)="saved.emit(form.getRawValue())"
    >
      <hinge-number label="Position" [control]="form.controls.order">
        <small class="faint">From the process outwards: 1, 2, 3 …</small>
      </hinge-number>
    </hinge-part-sheet>
  `,
})
export class ZoneForm implements OnInit {
  /** null: a new one. */
  readonly row = input.required<Zone | null>();
  /** Where a new zone stands: behind the others. */
  readonly nextOrder = input.required<number>();
  readonly isSaving = input.required<boolean>();
  readonly problem = input.required<ShownProblem | null>();
  readonly left = output();
  readonly saved = output<Zone>();
  readonly form = contractForm(zone.shape, { id: '', name: '', order: 1 });

  ngOnInit(): void {
    const row = this.row();
    this.form.reset(row ?? { order: this.nextOrder() });
    if (!row) followName(this.form.controls.name, this.form.controls.id);
  }
}
