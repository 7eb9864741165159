import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  computed,
  inject,
  input,
  output,
  signal,
  untracked,
} from '@angular/core';
import { Store } from '@ngrx/store';
import { explainedStatusCode, spanOf } from '@loyal-hinge/core';
import { ChoiceField } from '../shell/choice';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Moment } from '../signs/moment';
import type { HeardValue } from './heard';
import { Sparkline } from './sparkline';
import type { Point } from './value-history';
import { ValueHistory } from './value-history';
import { watchFeature } from './watch-state';
import type { LiveValue, Watched } from './watch-state';

const tickMs = 1000;
/** Two lines, with what is around them. */
const rowHeight = 52;
const pointsOfSparkline = 120;

const standings = [
  { key: 'all', word: 'all' },
  { key: 'not-good', word: 'not good' },
  { key: 'waiting', word: 'without a value yet' },
] as const;

const unknown: LiveValue = { newest: null, lastGood: null, intervals: null };

/** The items that are watched, with their newest values and how they went. */
@Component({
  selector: 'hinge-watch-list',
  imports: [ChoiceField, Ledger, LedgerCell, Moment, Sparkline],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-ledger
      [columns]="columns()"
      [rows]="rows()"
      [idOf]="idOf"
      [plain]="watched().length < 2"
      [rowHeight]="rowHeight"
      [total]="watched().length"
      [(find)]="find"
      what="item, server, value, status"
      name="watched"
      fileName="watched"
      [empty]="
        watched().length === 0 ? 'Nothing is watched yet. Choose a variable above, then “Watch”.' : 'None of them.'
      "
    >
      <hinge-choice
        word="that are"
        label="Which items are shown"
        [choices]="standings"
        [chosen]="standing()"
        (chose)="show($event)"
      />
      <ng-template hingeCell="item" [hingeCellOf]="watched()" let-item>
        <span class="line" [title]="item.node.displayName">{{ item.node.displayName }}</span><span
          class="line faint mono"
          [title]="item.node.nodeId"
          >{{ item.node.nodeId }}</span
        >
      </ng-template>
      <ng-template hingeCell="link" [hingeCellOf]="watched()" let-item>
        <span class="line link" [title]="item.linkName">{{ item.linkName }}</span>
      </ng-template>
      <ng-template hingeCell="value" [hingeCellOf]="watched()" let-item>
        <span class="number" [class.old]="isOld(item)"
          >{{ shown(item) ?? 'waiting …' }} <span class="faint">{{ item.unit }}</span></span
        >
      </ng-template>
      <ng-template hingeCell="history" [hingeCellOf]="watched()" let-item>
        <hinge-sparkline [points]="pointsOf(item)" />
      </ng-template>
      <ng-template hingeCell="status" [hingeCellOf]="watched()" let-item>
        @if (isLost(item) && of(item).lastGood) {
          <span class="weak">not live: the last value</span>
        } @else {
          <span class="line" [title]="status(item)">{{ status(item) }}</span>
          @if (isOld(item)) {
            <span class="line faint">The value is the last good one.</span>
          }
        }
      </ng-template>
      <ng-template hingeCell="times" [hingeCellOf]="watched()" let-item>
        @for (at of timesOf(item); track $index) {
          <span class="line">
            @if (at) {
              <hinge-moment [at]="iso(at)" show="time" /><span class="faint age">{{ ageOf(at) }}</span>
            } @else {
              <span class="faint">none</span>
            }
          </span>
        }
      </ng-template>
      <ng-template hingeCell="intervals" [hingeCellOf]="watched()" let-item>
        @if (of(item).intervals; as told) {
          <span [class.weak]="told.revisedSamplingIntervalMs > everyMs()">{{
            spanOf(told.revisedSamplingIntervalMs)
          }}</span>
          @if (!told.isTold) {
            <span
              class="line weak"
              title="The server does not call back, so the product asks it for each value. The step “Watch” of the link’s check says why."
              >asked for: no call back</span
            >
          } @else if (told.revisedPublishingIntervalMs > told.revisedSamplingIntervalMs) {
            <span class="line faint">sent every {{ spanOf(told.revisedPublishingIntervalMs) }}</span>
          }
        }
      </ng-template>
      <ng-template hingeCell="acts" [hingeCellOf]="watched()" let-item>
        <button type="button" class="plain" [disabled]="!hasPoints(item)" (click)="trend.emit(item.key)">Trend</button>
        <button type="button" class="plain" (click)="unwatch.emit(item.key)">Stop</button>
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
      min-width: 6rem;
      max-width: 12rem;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
      font-weight: 600;
      font-family: var(--mono);
      font-variant-numeric: tabular-nums;
    }
    .line {
      display: block;
      max-width: 16rem;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
      line-height: 1.4;
    }
    /* In two lines at most, as all that a row holds. */
    .line.link {
      max-width: 9rem;
      white-space: normal;
      display: -webkit-box;
      -webkit-box-orient: vertical;
      -webkit-line-clamp: 2;
    }
    .age {
      margin-left: 0.5rem;
    }
  `,
})
export class WatchList {
  private readonly live = inject(Store).selectSignal(watchFeature.selectLive);
  private readonly history = inject(ValueHistory);
  readonly watched = input.required<readonly Watched[]>();
  readonly unwatch = output<string>();
  readonly trend = output<string>();
  readonly everyMs = input.required<number>();
  /** Links whose sessions are lost. */
  readonly lostLinks = input<ReadonlySet<string>>(new Set());
  readonly find = signal('');
  readonly standing = signal('all');
  readonly standings = standings;
  readonly rowHeight = rowHeight;
  readonly spanOf = spanOf;
  private readonly now = signal(Date.now());
  private readonly hasSeveral = computed(() => new Set(this.watched().map(({ linkId }) => linkId)).size > 1);
  readonly columns = computed(() => (this.hasSeveral() ? this.all : this.all.filter(({ key }) => key !== 'link')));
  /** Looked at once a second where only some are shown: a row that came and went with each value could not be read. */
  readonly rows = computed(() => {
    const standing = this.standing();
    if (standing === 'all') return this.watched();
    this.now();
    const live = untracked(this.live);
    return this.watched().filter(({ key }) => {
      const { newest } = live[key] ?? unknown;
      return standing === 'waiting' ? newest === null : newest !== null && newest.code !== 'Good';
    });
  });

  readonly idOf = ({ key }: Watched): string => key;
  of = ({ key }: Watched): LiveValue => this.live()[key] ?? unknown;
  /** A value that came with a bad status gives way to the last good one. */
  kept(item: Watched): HeardValue | null {
    const { newest, lastGood } = this.of(item);
    return newest?.value === null ? lastGood : newest;
  }
  readonly shown = (item: Watched): string | null => this.kept(item)?.value ?? null;

  constructor() {
    const timer = setInterval(() => this.now.set(Date.now()), tickMs);
    inject(DestroyRef).onDestroy(() => clearInterval(timer));
  }

  show = (standing: string): void => this.standing.set(standing);
  isLost = ({ linkId }: Watched): boolean => this.lostLinks().has(linkId);
  isOld = (item: Watched): boolean => this.isLost(item) || this.kept(item) !== this.of(item).newest;
  /** By the source and by the server; null: the source does not tell it. */
  timesOf(item: Watched): readonly (number | null)[] {
    const { sourceTime = null, serverTime = null } = this.kept(item) ?? {};
    return [...((sourceTime ?? serverTime) === null ? [] : [sourceTime]), ...(serverTime === null ? [] : [serverTime])];
  }
  iso = (at: number): string => new Date(at).toISOString();

  status(item: Watched): string {
    const { newest } = this.of(item);
    return newest === null ? '' : newest.code === 'Good' ? 'Good' : explainedStatusCode(newest.code);
  }

  pointsOf(item: Watched): Point[] {
    this.live();
    return this.history.newest(item.key, pointsOfSparkline);
  }

  hasPoints = (item: Watched): boolean => this.of(item).newest !== null && this.history.newest(item.key, 1).length > 0;

  /** By this machine’s clock: a server whose clock is ahead sends values of the future. */
  ageOf(at: number): string {
    const ms = this.now() - at;
    const span = spanOf(Math.round(Math.abs(ms) / tickMs) * tickMs);
    return Math.abs(ms) < tickMs ? 'just now' : ms > 0 ? `${span} ago` : `${span} ahead`;
  }

  /** Rows are found, sorted and saved by what they are at that moment: they do not jump about with each value. */
  private readonly timeOf = (at: number | null | undefined): string => (at ? this.iso(at) : '');
  private readonly then =
    <Told>(tell: (item: Watched) => Told): ((item: Watched) => Told) =>
    (item) =>
      untracked(() => tell(item));
  private readonly all: readonly Column<Watched>[] = [
    { key: 'item', title: 'Item', text: ({ node }) => node.displayName },
    { key: 'link', title: 'Link', text: ({ linkName }) => linkName },
    {
      key: 'value',
      title: 'Value',
      text: this.then((item) => this.shown(item) ?? ''),
      order: this.then((item) => this.kept(item)?.number ?? this.shown(item) ?? ''),
    },
    { key: 'history', title: 'How it went', text: () => '', onlyShown: true },
    {
      key: 'intervals',
      title: 'Sampled',
      text: this.then((item) => spanOf(this.of(item).intervals?.revisedSamplingIntervalMs ?? 0)),
      order: this.then((item) => this.of(item).intervals?.revisedSamplingIntervalMs ?? 0),
    },
    { key: 'status', title: 'Status', text: this.then((item) => this.status(item)) },
    {
      key: 'times',
      title: 'Source, server time',
      text: () => '',
      order: this.then((item) => this.kept(item)?.sourceTime ?? 0),
      onlyShown: true,
    },
    {
      key: 'sourceTime',
      title: 'Source time',
      text: this.then((item) => this.timeOf(this.kept(item)?.sourceTime)),
      onlySaved: true,
    },
    {
      key: 'serverTime',
      title: 'Server time',
      text: this.then((item) => this.timeOf(this.kept(item)?.serverTime)),
      onlySaved: true,
    },
  ];
}
