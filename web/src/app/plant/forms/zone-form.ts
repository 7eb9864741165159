import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import type { OnInit } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { zone } from '@loyal-hinge/contract';
import type { Zone } from '@loyal-hinge/core';
import { contractForm } from '../../forms/contract-form';
import { Choose } from '../../forms/choose';
import { NumberField } from '../../forms/number-field';
import { levelChoices, levelKey, levelOf } from '../../forms/security-level';
import type { LevelKey } from '../../forms/security-level';
import { PartSheet } from './part-sheet';
import { RowForm } from './row-form';
import { followName } from './typed';

@Component({
  selector: 'hinge-zone-form',
  imports: [Choose, NumberField, PartSheet, ReactiveFormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-part-sheet [of]="this" (complete)="saved.emit(typed())">
      <hinge-number label="Position" [control]="form.controls.order">
        <small class="faint">From the process outwards: 1, 2, 3 …</small>
      </hinge-number>
      <hinge-choose label="Target security level" [formControl]="form.controls.targetLevel" [choices]="levelChoices" />
    </hinge-part-sheet>
  `,
})
export class ZoneForm extends RowForm<Zone> implements OnInit {
  /** Where a new zone stands: behind the others. */
  readonly nextOrder = input.required<number>();
  readonly levelChoices = levelChoices;
  override readonly form = contractForm(
    { id: zone.shape.id, name: zone.shape.name, order: zone.shape.order },
    { id: '', name: '', order: 1, targetLevel: 'none' as LevelKey },
  );

  ngOnInit(): void {
    const row = this.row();
    this.form.reset(row ? { ...row, targetLevel: levelKey(row.targetLevel ?? null) } : { order: this.nextOrder() });
    if (!row) followName(this.form.controls.name, this.form.controls.id);
  }

  typed(): Zone {
    const { targetLevel, ...typed } = this.form.getRawValue();
    return { ...typed, targetLevel: levelOf(targetLevel) };
  }
}
