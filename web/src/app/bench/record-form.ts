import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import { recordingWish } from '@loyal-hinge/contract';
import type { RecordingWish } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { contractForm } from '../forms/contract-form';
import { NumberField } from '../forms/number-field';
import { FormSheet } from '../shell/form-sheet';
import { benchActions } from './state';
import type { Watched } from './watch-state';

const testSeconds = 10;
const shapes = [
  { key: 'changes', word: 'one row a change' },
  { key: 'samples', word: 'one row a sample, items in columns' },
] as const;
const spans = [
  { key: '10', word: '10 seconds, as a test' },
  { key: '60', word: '1 minute' },
  { key: '600', word: '10 minutes' },
  { key: '3600', word: '1 hour' },
  { key: '28800', word: '8 hours' },
  { key: '86400', word: '24 hours' },
] as const;

/** Asks how what is watched is recorded into a CSV file: first for a few seconds, as a test. */
@Component({
  selector: 'hinge-record-form',
  imports: [Choose, FormSheet, NumberField, ReactiveFormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet heading="Record" does="Record" [form]="form" (sent)="send()" (left)="left.emit()">
      <p class="faint">{{ whatHappens() }}</p>
      <hinge-choose label="Rows" [formControl]="form.controls.shape" [choices]="shapes" />
      <hinge-number label="Every" unit="ms" [step]="100" [control]="form.controls.everyMs" />
      <hinge-choose label="For" [formControl]="form.controls.seconds" [choices]="spans" />
    </hinge-form-sheet>
  `,
})
export class RecordForm {
  private readonly store = inject(Store);
  readonly watched = input.required<readonly Watched[]>();
  readonly left = output();
  readonly shapes = shapes;
  readonly spans = spans;
  readonly form = contractForm(
    { everyMs: recordingWish.shape.everyMs },
    { shape: 'changes' as RecordingWish['shape'], everyMs: 500, seconds: String(testSeconds) },
  );
  readonly whatHappens = computed(() =>
    byNumber(
      this.watched().length,
      'The watched item is recorded into a file on the server, as long as this session lasts. Begin with a test of 10 seconds: it shows how large the file becomes.',
      'All # watched items are recorded into a file on the server, as long as this session lasts. Begin with a test of 10 seconds: it shows how large the file becomes.',
    ),
  );

  send(): void {
    const { shape, everyMs, seconds } = this.form.getRawValue();
    const items = this.watched().map(({ node }) => ({ nodeId: node.nodeId, name: node.displayName }));
    this.store.dispatch(benchActions.record({ wish: { items, shape, everyMs, seconds: Number(seconds) } }));
    this.left.emit();
  }
}
