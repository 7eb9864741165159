import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import type { OnInit } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { evidenceReading } from '@loyal-hinge/contract';
import type { EvidenceRow } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { contractForm } from '../forms/contract-form';
import { NumberField } from '../forms/number-field';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';
import { casebookActions, casebookFeature } from './state';

/** How a file is read: how the clock stood of whatever wrote it, and the rule for its lines. */
@Component({
  selector: 'hinge-reading-form',
  imports: [Choose, FormSheet, NumberField, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="'How ' + row().name + ' is read'"
      does="Set, and read again"
      [form]="form"
      [busy]="running().includes('reading')"
      (sent)="save()"
      (left)="left.emit()"
    >
      <hinge-text label="Time zone" [control]="form.controls.zone">
        Where its times say none: UTC, +01:00, or a name such as Europe/Berlin.
      </hinge-text>
      <hinge-number label="Ahead of ours by" unit="s" [control]="form.controls.aheadSeconds">
        Negative: it was behind. Two sources that saw the same attempt show the difference.
      </hinge-number>
      @if (row().form === 'log') {
        <hinge-choose label="Reading rule" [formControl]="form.controls.ruleId" [choices]="choices()" />
      }
    </hinge-form-sheet>
  `,
})
export class ReadingForm implements OnInit {
  private readonly store = inject(Store);
  readonly row = input.required<EvidenceRow>();
  readonly left = output();
  readonly running = this.store.selectSignal(casebookFeature.selectRunning);
  private readonly rules = this.store.selectSignal(casebookFeature.selectShownRules);
  readonly choices = computed(() => [
    { key: '', word: 'none' },
    ...(this.rules() ?? []).map(({ id, name }) => ({ key: id, word: name })),
  ]);
  readonly form = contractForm(evidenceReading.shape, { zone: 'UTC', aheadSeconds: 0, ruleId: '' });

  ngOnInit(): void {
    const { clock, ruleId } = this.row();
    this.form.reset({ ...clock, ruleId: ruleId ?? '' });
  }

  save(): void {
    const { ruleId, ...clock } = this.form.getRawValue();
    const reading = { ...clock, ruleId: ruleId || null };
    this.store.dispatch(casebookActions.setReading({ evidenceId: this.row().id, reading }));
    this.left.emit();
  }
}
