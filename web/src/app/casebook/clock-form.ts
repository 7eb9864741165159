import { ChangeDetectionStrategy, Component, inject, input, output } from '@angular/core';
import type { OnInit } from '@angular/core';
import { Store } from '@ngrx/store';
import { evidenceClock } from '@loyal-hinge/contract';
import type { EvidenceRow } from '@loyal-hinge/contract';
import { contractForm } from '../forms/contract-form';
import { NumberField } from '../forms/number-field';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';
import { casebookActions, casebookFeature } from './state';

/** How the clock stood of whatever wrote a file. */
@Component({
  selector: 'hinge-clock-form',
  imports: [FormSheet, NumberField, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="'The clock of ' + row().name"
      does="Set, and read again"
      [form]="form"
      [busy]="running().includes('clock')"
      (sent)="save()"
      (left)="left.emit()"
    >
      <hinge-text label="Time zone" [control]="form.controls.zone">
        Where its times say none: UTC, +01:00, or a name such as Europe/Berlin.
      </hinge-text>
      <hinge-number label="Ahead of ours by" unit="s" [control]="form.controls.aheadSeconds">
        Negative: it was behind. Two sources that saw the same attempt show the difference.
      </hinge-number>
    </hinge-form-sheet>
  `,
})
export class ClockForm implements OnInit {
  private readonly store = inject(Store);
  readonly row = input.required<EvidenceRow>();
  readonly left = output();
  readonly running = this.store.selectSignal(casebookFeature.selectRunning);
  readonly form = contractForm(evidenceClock.shape, { zone: 'UTC', aheadSeconds: 0 });

  ngOnInit(): void {
    this.form.reset(this.row().clock);
  }

  save(): void {
    this.store.dispatch(casebookActions.setClock({ evidenceId: this.row().id, clock: this.form.getRawValue() }));
    this.left.emit();
  }
}
