import { ChangeDetectionStrategy, Component, DestroyRef, inject, input, output, signal } from '@angular/core';
import { spanOf } from '@loyal-hinge/core';
import type { BenchValue } from '@loyal-hinge/contract';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Moment } from '../signs/moment';
import { Sparkline } from './sparkline';
import type { Watched } from './state';

const tickMs = 1000;

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
        <span class="number" [class.old]="isOld(item)"
          >{{ shown(item) ?? 'waiting …' }} <span class="faint">{{ item.unit }}</span></span
        >
      </ng-template>
      <ng-template hingeCell="history" [hingeCellOf]="watched()" let-item>
        <hinge-sparkline [points]="item.history.slice(-120)" />
      </ng-template>
      <ng-template hingeCell="status" [hingeCellOf]="watched()" let-item>
        @if (isLost() && item.lastGood) {
          <span class="weak">not live: the last value</span>
        } @else {
          {{ item.value?.status ?? '' }}
          @if (isOld(item)) {
            <span class="faint">The value is the last good one.</span>
          }
        }
      </ng-template>
      <ng-template hingeCell="sourceTimestamp" [hingeCellOf]="watched()" let-item>
        @if (kept(item)?.sourceTimestamp; as at) {
          <hinge-moment [at]="at" show="time" /><br /><span class="faint">{{ ageOf(at) }}</span>
        }
      </ng-template>
      <ng-template hingeCell="serverTimestamp" [hingeCellOf]="watched()" let-item>
        @if (kept(item)?.serverTimestamp; as at) {
          <hinge-moment [at]="at" show="time" /><br /><span class="faint">{{ ageOf(at) }}</span>
        }
      </ng-template>
      <ng-template hingeCell="intervals" [hingeCellOf]="watched()" let-item>
        @if (item.intervals; as told) {
          <span [class.weak]="told.revisedSamplingIntervalMs > everyMs()">{{
            spanOf(told.revisedSamplingIntervalMs)
          }}</span>
          @if (told.revisedPublishingIntervalMs > told.revisedSamplingIntervalMs) {
            <br /><span class="faint">sent every {{ spanOf(told.revisedPublishingIntervalMs) }}</span>
          }
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
    .number.old {
      color: var(--faint);
      font-weight: 400;
    }
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
  readonly everyMs = input.required<number>();
  readonly isLost = input(false);
  readonly columns = columns;
  readonly spanOf = spanOf;
  private readonly now = signal(Date.now());

  readonly idOf = ({ node }: Watched): string => node.nodeId;
  /** A value that came with a bad status gives way to the last good one. */
  readonly kept = ({ value, lastGood }: Watched): BenchValue | null => (value?.value === null ? lastGood : value);
  readonly shown = (item: Watched): string | null => this.kept(item)?.value ?? null;

  constructor() {
    const timer = setInterval(() => this.now.set(Date.now()), tickMs);
    inject(DestroyRef).onDestroy(() => clearInterval(timer));
  }

  isOld = (item: Watched): boolean => this.isLost() || this.kept(item) !== item.value;

  /** By this machine’s clock: a server whose clock is ahead sends values of the future. */
  ageOf(at: string): string {
    const ms = this.now() - Date.parse(at);
    const span = spanOf(Math.round(Math.abs(ms) / tickMs) * tickMs);
    return Math.abs(ms) < tickMs ? 'just now' : ms > 0 ? `${span} ago` : `${span} ahead`;
  }
}

const columns: readonly Column<Watched>[] = [
  { key: 'item', title: 'Item', text: ({ node }) => node.displayName },
  { key: 'value', title: 'Value', text: ({ value }) => String(value?.value ?? '') },
  { key: 'history', title: 'Last minute', text: () => '' },
  {
    key: 'intervals',
    title: 'Sampled every',
    text: ({ intervals }) => (intervals ? spanOf(intervals.revisedSamplingIntervalMs) : ''),
  },
  { key: 'status', title: 'Status', text: ({ value }) => value?.status ?? '' },
  { key: 'sourceTimestamp', title: 'Source time', text: ({ value }) => value?.sourceTimestamp ?? '' },
  { key: 'serverTimestamp', title: 'Server time', text: ({ value }) => value?.serverTimestamp ?? '' },
];
