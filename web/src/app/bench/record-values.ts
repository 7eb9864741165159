import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { byNumber, spanOf } from '@loyal-hinge/core';
import { recordingWish } from '@loyal-hinge/contract';
import type { Recording, RecordingWish } from '@loyal-hinge/contract';
import { saveFrom } from '../files/save-from';
import { Choose } from '../forms/choose';
import { contractForm } from '../forms/contract-form';
import { NumberField } from '../forms/number-field';
import { urlOf } from '../http/server';
import { FormSheet } from '../shell/form-sheet';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Moment } from '../signs/moment';
import { benchActions, benchFeature } from './state';
import type { Watched } from './state';

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
const stateWords: Readonly<Record<Recording['state'], string>> = {
  running: 'recording …',
  done: 'done',
  stopped: 'stopped',
  failed: 'failed',
};

const sizeWords = (bytes: number): string =>
  bytes < 1000 ? `${bytes} bytes` : bytes < 1e6 ? `${(bytes / 1000).toFixed(1)} kB` : `${(bytes / 1e6).toFixed(1)} MB`;

const columns: readonly Column<Recording>[] = [
  { key: 'begunAt', title: 'Begun', text: ({ begunAt }) => begunAt, short: true },
  { key: 'link', title: 'Link', text: ({ linkName, items }) => `${linkName}, ${byNumber(items, '# item', '# items')}` },
  { key: 'shape', title: 'Rows are', text: ({ shape, everyMs }) => `${shape}, every ${spanOf(everyMs)}` },
  { key: 'rows', title: 'Rows', text: ({ rows }) => String(rows), order: ({ rows }) => rows, short: true },
  { key: 'bytes', title: 'Size', text: ({ bytes }) => sizeWords(bytes), order: ({ bytes }) => bytes, short: true },
  { key: 'state', title: 'State', text: ({ state, says }) => `${stateWords[state]} ${says ?? ''}` },
];

/** Records what is watched into a CSV file, first for a few seconds, and shows how much it becomes. */
@Component({
  selector: 'hinge-record-values',
  imports: [Choose, FormSheet, Ledger, LedgerCell, Moment, NumberField, ReactiveFormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (isOpen()) {
      <hinge-form-sheet heading="Record" does="Record" [form]="form" (sent)="send()" (left)="left.emit()">
        <p class="faint">{{ whatHappens() }}</p>
        <hinge-choose label="Rows" [formControl]="form.controls.shape" [choices]="shapes" />
        <hinge-number label="Every" unit="ms" [step]="100" [control]="form.controls.everyMs" />
        <hinge-choose label="For" [formControl]="form.controls.seconds" [choices]="spans" />
      </hinge-form-sheet>
    }
    @if (recordings().length > 0) {
      <h2>Recordings</h2>
      <hinge-ledger [columns]="columns" [rows]="recordings()" [plain]="true">
        <ng-template hingeCell="begunAt" [hingeCellOf]="recordings()" let-row>
          <hinge-moment [at]="row.begunAt" show="near" />
        </ng-template>
        <ng-template hingeCell="bytes" [hingeCellOf]="recordings()" let-row>
          {{ size(row.bytes) }}
          @if (rateOf(row); as rate) {
            <span class="faint">({{ rate }})</span>
          }
        </ng-template>
        <ng-template hingeCell="state" [hingeCellOf]="recordings()" let-row>
          <span [class]="row.state === 'failed' ? 'fails' : ''">{{ words[row.state] }} {{ row.says ?? '' }}</span>
        </ng-template>
        <ng-template hingeCell="acts" [hingeCellOf]="recordings()" let-row>
          @if (row.state === 'running') {
            <button type="button" class="plain" (click)="stop(row.id)">Stop</button>
          }
          <button type="button" class="plain" (click)="save(row.id)">Save as CSV</button>
        </ng-template>
      </hinge-ledger>
    }
  `,
  styles: `
    :host {
      display: block;
    }
    h2 {
      margin: 1rem 0 0.5rem;
    }
  `,
})
export class RecordValues {
  private readonly store = inject(Store);
  readonly watched = input.required<readonly Watched[]>();
  readonly isOpen = input.required<boolean>();
  readonly left = output();
  readonly recordings = this.store.selectSignal(benchFeature.selectRecordings);
  readonly columns = columns;
  readonly shapes = shapes;
  readonly spans = spans;
  readonly words = stateWords;
  readonly size = sizeWords;
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

  /** What an hour of it would be, by what it was so far. */
  rateOf({ begunAt, endedAt, bytes, rows }: Recording): string | null {
    const lastedMs = Date.parse(endedAt ?? new Date().toISOString()) - Date.parse(begunAt);
    return rows === 0 || lastedMs < 5000 ? null : `an hour: ${sizeWords(Math.round((bytes / lastedMs) * 3_600_000))}`;
  }

  send(): void {
    const { shape, everyMs, seconds } = this.form.getRawValue();
    const items = this.watched().map(({ node }) => ({ nodeId: node.nodeId, name: node.displayName }));
    this.store.dispatch(benchActions.record({ wish: { items, shape, everyMs, seconds: Number(seconds) } }));
    this.left.emit();
  }

  stop = (id: string): void => this.store.dispatch(benchActions.stopRecording({ id }));
  save = (id: string): void => saveFrom(urlOf('exportRecording', { path: { id } }));
}
