import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Moment } from '../signs/moment';
import { Sparkline } from './sparkline';
import type { Watched } from './state';

/** The items that are watched, with their newest values and how they went. */
@Component({
  selector: 'hinge-watch-list',
  imports: [Ledger, LedgerCell, Moment, Sparkline],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-ledger
      [columns]="columns"
      [rows]="watched()"
      [idOf]="idOf"
      [plain]="true"
      empty="Nothing is watched yet. Choose a variable above, then “Watch”."
    >
      <ng-template hingeCell="item" [hingeCellOf]="watched()" let-item>
        {{ item.node.displayName }}<br /><span class="faint mono">{{ item.node.nodeId }}</span>
      </ng-template>
      <ng-template hingeCell="value" [hingeCellOf]="watched()" let-item>
        <span class="number"
          >{{ item.value?.value ?? 'waiting …' }} <span class="faint">{{ item.unit }}</span></span
        >
      </ng-template>
      <ng-template hingeCell="history" [hingeCellOf]="watched()" let-item>
        <hinge-sparkline [points]="item.history.slice(-120)" />
      </ng-template>
      <ng-template hingeCell="status" [hingeCellOf]="watched()" let-item>
        {{ item.value?.status ?? '' }}
      </ng-template>
      <ng-template hingeCell="sourceTimestamp" [hingeCellOf]="watched()" let-item>
        @if (item.value?.sourceTimestamp; as at) {
          <hinge-moment [at]="at" show="time" />
        }
      </ng-template>
      <ng-template hingeCell="serverTimestamp" [hingeCellOf]="watched()" let-item>
        @if (item.value?.serverTimestamp; as at) {
          <hinge-moment [at]="at" show="time" />
        }
      </ng-template>
      <ng-template hingeCell="acts" [hingeCellOf]="watched()" let-item>
        <button
          type="button"
          class="plain"
          [disabled]="item.history.length === 0"
          (click)="trend.emit(item.node.nodeId)"
        >
          Trend
        </button>
        <button type="button" class="plain" (click)="unwatch.emit(item.node.nodeId)">Stop</button>
      </ng-template>
    </hinge-ledger>
  `,
  styles: `
    .number {
      display: inline-block;
      min-width: 7rem;
      font-weight: 600;
      font-family: var(--mono);
      font-variant-numeric: tabular-nums;
    }
  `,
})
export class WatchList {
  readonly watched = input.required<readonly Watched[]>();
  readonly unwatch = output<string>();
  readonly trend = output<string>();
  readonly columns = columns;
  readonly idOf = ({ node }: Watched): string => node.nodeId;
}

const columns: readonly Column<Watched>[] = [
  { key: 'item', title: 'Item', text: ({ node }) => node.displayName },
  { key: 'value', title: 'Value', text: ({ value }) => String(value?.value ?? '') },
  { key: 'history', title: 'Last minute', text: () => '' },
  { key: 'status', title: 'Status', text: ({ value }) => value?.status ?? '' },
  { key: 'sourceTimestamp', title: 'Source time', text: ({ value }) => value?.sourceTimestamp ?? '' },
  { key: 'serverTimestamp', title: 'Server time', text: ({ value }) => value?.serverTimestamp ?? '' },
];
