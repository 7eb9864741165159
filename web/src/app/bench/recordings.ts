import { sizeWords } from '../files/size-words';
import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import { byNumber, spanOf } from '@loyal-hinge/core';
import type { Recording } from '@loyal-hinge/contract';
import { saveFrom } from '../files/save-from';
import { urlOf } from '../http/server';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Moment } from '../signs/moment';
import { benchActions, benchFeature } from './state';

const stateWords: Readonly<Record<Recording['state'], string>> = {
  running: 'recording …',
  done: 'done',
  stopped: 'stopped',
  failed: 'failed',
};

const columns: readonly Column<Recording>[] = [
  { key: 'begunAt', title: 'Begun', text: ({ begunAt }) => begunAt, short: true },
  { key: 'link', title: 'Link', text: ({ linkName, items }) => `${linkName}, ${byNumber(items, '# item', '# items')}` },
  { key: 'shape', title: 'Rows are', text: ({ shape, everyMs }) => `${shape}, every ${spanOf(everyMs)}` },
  { key: 'rows', title: 'Rows', text: ({ rows }) => String(rows), order: ({ rows }) => rows, short: true },
  { key: 'bytes', title: 'Size', text: ({ bytes }) => sizeWords(bytes), order: ({ bytes }) => bytes, short: true },
  { key: 'state', title: 'State', text: ({ state, says }) => `${stateWords[state]} ${says ?? ''}` },
];

/** The recordings of watched values into CSV files: how far each has come, and how large an hour of it is. */
@Component({
  selector: 'hinge-recordings',
  imports: [Ledger, LedgerCell, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
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
export class Recordings {
  private readonly store = inject(Store);
  readonly recordings = this.store.selectSignal(benchFeature.selectRecordings);
  readonly columns = columns;
  readonly words = stateWords;
  readonly size = sizeWords;
  /** What an hour of it would be, by what it was so far. */
  rateOf({ begunAt, endedAt, bytes, rows }: Recording): string | null {
    const lastedMs = Date.parse(endedAt ?? new Date().toISOString()) - Date.parse(begunAt);
    return rows === 0 || lastedMs < 5000 ? null : `an hour: ${sizeWords(Math.round((bytes / lastedMs) * 3_600_000))}`;
  }

  stop = (id: string): void => this.store.dispatch(benchActions.stopRecording({ id }));
  save = (id: string): void => saveFrom(urlOf('exportRecording', { path: { id } }));
}
