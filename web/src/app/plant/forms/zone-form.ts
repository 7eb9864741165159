import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import type { OnInit } from '@angular/core';
import { zone } from '@loyal-hinge/contract';
import type { Zone } from '@loyal-hinge/core';
import { contractForm } from '../../forms/contract-form';
import { NumberField } from '../../forms/number-field';
import { PartSheet } from './part-sheet';
import { RowForm } from './row-form';
import { followName } from './typed';

@Component({
  selector: 'hinge-zone-form',
  imports: [NumberField, PartSheet],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-part-sheet [of]="this" (complete)="saved.emit(form.getRawValue())">
      <hinge-number label="Position" [control]="form.controls.order">
        <small class="faint">From the process outwards: 1, 2, 3 …</small>
      </hinge-number>
    </hinge-part-sheet>
  `,
})
export class ZoneForm extends RowForm<Zone> implements OnInit {
  /** Where a new zone stands: behind the others. */
  readonly nextOrder = input.required<number>();
  override readonly form = contractForm(zone.shape, { id: '', name: '', order: 1 });

  ngOnInit(): void {
    const row = this.row();
    this.form.reset(row ?? { order: this.nextOrder() });
    if (!row) followName(this.form.controls.name, this.form.controls.id);
  }
}
