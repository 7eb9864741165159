import { ChangeDetectionStrategy, Component, DestroyRef, computed, inject, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { byNumber, spanOf } from '@loyal-hinge/core';
import { ChoiceField } from '../shell/choice';
import { RecordForm } from './record-form';
import { benchFeature } from './state';
import { Trend } from './trend';
import { ValueHistory } from './value-history';
import { WatchList } from './watch-list';
import { watchActions, watchFeature } from './watch-state';

const rates = [
  { key: '100', word: '100 ms' },
  { key: '250', word: '250 ms' },
  { key: '500', word: '500 ms' },
  { key: '1000', word: '1 s' },
  { key: '5000', word: '5 s' },
  { key: '30000', word: '30 s' },
] as const;

const countedOverMs = 2000;

/** What is watched over all sessions of the page: how often, how much of it comes, drawn large, recorded. */
@Component({
  selector: 'hinge-watched-values',
  imports: [ChoiceField, RecordForm, Trend, WatchList],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="sheet-head watched-head">
      <h2>Watched</h2>
      <hinge-choice
        word="asked for every"
        label="How often values are asked for"
        [choices]="rates"
        [chosen]="rate()"
        (chose)="watchEvery($event)"
      />
      <span class="rest faint" [class.weak]="isIncomplete()" [title]="inAll()">{{ words() }}</span>
      @if (recordable().length > 0 && !isRecording()) {
        <button type="button" class="act" (click)="isRecording.set(true)">Record …</button>
      }
      @if (watched().length > 1) {
        <button type="button" class="plain" (click)="unwatchAll()">Stop all</button>
      }
    </div>
    @if (isRecording()) {
      <hinge-record-form [watched]="recordable()" (left)="isRecording.set(false)" />
    }
    @if (drawn(); as item) {
      <hinge-trend [name]="item.node.displayName" [unit]="item.unit" [points]="points()" (closed)="showTrend(null)" />
    }
    <hinge-watch-list
      [watched]="watched()"
      [everyMs]="everyMs()"
      [lostLinks]="lostLinks()"
      (unwatch)="unwatch($event)"
      (trend)="showTrend($event)"
    />
  `,
  styles: `
    .watched-head {
      min-height: 2.3rem;
    }
  `,
})
export class WatchedValues {
  private readonly store = inject(Store);
  private readonly history = inject(ValueHistory);
  readonly watched = this.store.selectSignal(watchFeature.selectWatched);
  readonly everyMs = this.store.selectSignal(watchFeature.selectEveryMs);
  readonly drawn = this.store.selectSignal(watchFeature.selectDrawn);
  private readonly live = this.store.selectSignal(watchFeature.selectLive);
  private readonly tally = this.store.selectSignal(watchFeature.selectTally);
  private readonly sessions = this.store.selectSignal(benchFeature.selectSessions);
  private readonly front = this.store.selectSignal(benchFeature.selectFront);
  readonly rates = rates;
  readonly rate = computed(() => String(this.everyMs()));
  readonly isRecording = signal(false);
  /** A recording is of one session. */
  readonly recordable = computed(() => this.watched().filter(({ linkId }) => linkId === this.front()));
  readonly lostLinks = computed(
    () => new Set(this.sessions().flatMap(({ bench, state }) => (state?.isLost ? bench.linkId : []))),
  );
  readonly points = computed(() => {
    this.live();
    const item = this.drawn();
    return item ? this.history.newest(item.key) : [];
  });
  /** Changes of the last moment; null: nothing was counted yet. */
  private readonly aSecond = signal<number | null>(null);
  readonly isIncomplete = computed(() => {
    const { thinned, overflown, missing } = this.tally();
    return thinned + overflown + missing > 0;
  });
  readonly inAll = computed(() => byNumber(this.tally().changes, '# change in all', '# changes in all'));
  readonly words = computed(() => {
    const count = this.watched().length;
    if (count === 0) return '';
    const { thinned, overflown, missing } = this.tally();
    const rate = this.aSecond();
    const lost = [
      thinned > 0
        ? byNumber(
            thinned,
            '# change was left out, because this page was too slow',
            '# changes were left out, because this page was too slow',
          )
        : '',
      missing > 0 ? byNumber(missing, '# change was lost on its way', '# changes were lost on their way') : '',
      overflown > 0
        ? byNumber(
            overflown,
            'a server’s queue was too short # time: ask more often',
            'servers’ queues were too short # times: ask more often',
          )
        : '',
    ].filter((part) => part !== '');
    return [
      byNumber(count, '# item', '# items'),
      ...(rate === null ? [] : [byNumber(rate, '# change a second', '# changes a second')]),
      ...(lost.length > 0 ? lost : rate === null ? [] : ['none lost']),
      ...(rate !== null && rate > count * drawnASecond ? [`drawn every ${spanOf(1000 / drawnASecond)}`] : []),
    ].join(', ');
  });

  constructor() {
    let before = { changes: this.tally().changes, at: performance.now() };
    const timer = setInterval(() => {
      const now = { changes: this.tally().changes, at: performance.now() };
      // The count begins anew where all was let go.
      const came = Math.max(0, now.changes - before.changes);
      this.aSecond.set(Math.round((came * 1000) / (now.at - before.at)));
      before = now;
    }, countedOverMs);
    inject(DestroyRef).onDestroy(() => clearInterval(timer));
  }

  watchEvery = (rate: string): void => this.store.dispatch(watchActions.watchEvery({ everyMs: Number(rate) }));
  showTrend = (key: string | null): void => this.store.dispatch(watchActions.showTrend({ key }));
  unwatch = (key: string): void => this.store.dispatch(watchActions.unwatch({ key }));
  unwatchAll = (): void => this.store.dispatch(watchActions.unwatchAll());
}

/** The server sends what came four times a second, and so often it is drawn. */
const drawnASecond = 4;
