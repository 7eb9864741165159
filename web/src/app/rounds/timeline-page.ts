import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  computed,
  effect,
  inject,
  input,
  signal,
  untracked,
} from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { spanOf } from '@loyal-hinge/core';
import type { LinkState } from '@loyal-hinge/core';
import type { LinkChange, TimelineRow } from '@loyal-hinge/contract';
import { CasebookHead } from '../casebook/casebook-head';
import { ReportForm } from '../hand-outs/report-form';
import { ChoiceField } from '../shell/choice';
import { LedgerCell, LedgerHeading } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { Waiting } from '../shell/waiting';
import { HingeSign } from '../signs/hinge-sign';
import { Moment } from '../signs/moment';
import { MonthBars, nameOfMonth, usableInMonth } from './month-bars';
import { PlantDays } from './plant-days';
import { changeWords, knownWords, shareWords, stateWords, usableWords } from '@loyal-hinge/core/casebook';
import { SpanLine } from './span-line';
import { roundsActions, roundsFeature } from './state';

const periods = [
  { key: '1', word: 'the last day' },
  { key: '7', word: 'the last 7 days' },
  { key: '30', word: 'the last 30 days' },
  { key: '90', word: 'the last 3 months' },
  { key: '366', word: 'the last year' },
] as const;
const usualPeriod = '7';

/** Of longer periods a line shows nothing any more. */
const mostDaysInLine = 100;

const name: Column<TimelineRow> = { key: 'name', title: 'Link', text: (row) => row.name, short: true };
const line: Column<TimelineRow> = { key: 'line', title: 'How it was', text: () => '', onlyShown: true };
const bars: Column<TimelineRow> = { key: 'months', title: 'Months', text: () => '', onlyShown: true };
const figures: readonly Column<TimelineRow>[] = [
  {
    key: 'usable',
    title: 'Usable',
    text: ({ availability: { usable } }) => shareWords(usable) || 'not known',
    order: ({ availability: { usable } }) => usable ?? 2,
    short: true,
  },
  {
    key: 'known',
    title: 'Looked at',
    text: ({ availability: { known } }) => shareWords(known),
    order: ({ availability: { known } }) => known,
    short: true,
  },
  {
    key: 'parted',
    title: 'Parted',
    text: ({ availability: { partedMs } }) => (partedMs === 0 ? '' : spanOf(partedMs)),
    order: ({ availability: { partedMs } }) => partedMs,
    short: true,
  },
  {
    key: 'falls',
    title: 'Falls',
    text: ({ availability: { falls } }) => String(falls),
    order: ({ availability: { falls } }) => falls,
  },
];

const changeColumns: readonly Column<LinkChange>[] = [
  { key: 'at', title: 'When', text: ({ at }) => at, short: true },
  { key: 'link', title: 'Link', text: ({ linkName }) => linkName },
  { key: 'change', title: 'Change', text: changeWords, short: true },
  { key: 'says', title: 'What the check found', text: ({ says }) => says },
];

/** How the links were over time: the plant day by day, each link as a line, and what changed when. */
@Component({
  selector: 'hinge-timeline-page',
  imports: [
    CasebookHead,
    ChoiceField,
    HingeSign,
    Ledger,
    LedgerCell,
    LedgerHeading,
    Moment,
    MonthBars,
    PlantDays,
    ReportForm,
    RouterLink,
    SpanLine,
    Waiting,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-casebook-head [headline]="headline()" [refused]="problem()">
        <button type="button" class="act" (click)="isReporting.set(true)">Report …</button>
      </hinge-casebook-head>
      @if (isReporting()) {
        <hinge-report-form
          about="plant"
          [days]="days() || usual"
          [zones]="view()?.zones ?? []"
          (left)="isReporting.set(false)"
        />
      }
      @if (timeline(); as known) {
        <div class="above">
          <hinge-choice
            word="over"
            label="Which period"
            [choices]="periods"
            [chosen]="days() || usual"
            (chose)="go({ days: $event === usual ? '' : $event })"
          />
          <span class="key" aria-hidden="true">
            @for (state of states; track state) {
              <span><hinge-span-line [stretches]="[{ state, to: 1 }]" [from]="0" [to]="1" />{{ words[state] }}</span>
            }
          </span>
        </div>
        @if (notKnown(); as words) {
          <p class="faint">{{ words }}</p>
        }
        @if (known.links > 0 && known.days.length > 2) {
          <hinge-plant-days [view]="known" />
        }
        <hinge-ledger
          [columns]="columns()"
          [rows]="known.rows"
          [total]="known.links"
          [idOf]="idOf"
          [find]="find()"
          (findChange)="go({ find: $event })"
          what="any link, machine, zone"
          fileName="timeline"
        >
          <span empty>
            No link fits. Links are seen by checks: <a routerLink="/casebook/rounds">let them come round</a>.
          </span>
          <ng-template hingeCell="name" [hingeCellOf]="known.rows" let-row>
            <hinge-sign [state]="row.state" [size]="14" />&ngsp;<a [routerLink]="['/links', row.linkId]">{{
              row.name
            }}</a>
          </ng-template>
          <ng-template hingeHeading="months">
            <hinge-month-bars [months]="months()" [isHeading]="true" />
          </ng-template>
          <ng-template hingeCell="months" [hingeCellOf]="known.rows" let-row>
            <hinge-month-bars [months]="row.months" />
          </ng-template>
          <ng-template hingeCell="line" [hingeCellOf]="known.rows" let-row>
            <hinge-span-line [stretches]="row.stretches" [from]="known.from" [to]="known.to" />
          </ng-template>
        </hinge-ledger>
        @if (known.links > known.rows.length) {
          <p class="faint">
            The {{ known.rows.length }} links that could be used least, of {{ known.links }}: look for one by its words.
          </p>
        }
        @if (changes(); as turned) {
          <h2>What changed</h2>
          <hinge-ledger [columns]="changeColumns" [rows]="turned" [idOf]="changeId" [plain]="true" fileName="changes">
            <span empty>No check has seen a link otherwise than the one before.</span>
            <ng-template hingeCell="at" [hingeCellOf]="turned" let-row><hinge-moment [at]="row.at" /></ng-template>
            <ng-template hingeCell="link" [hingeCellOf]="turned" let-row>
              <a [routerLink]="['/links', row.linkId]">{{ row.linkName }}</a>
            </ng-template>
            <ng-template hingeCell="change" [hingeCellOf]="turned" let-row>
              <hinge-sign [state]="row.to" [size]="14" />&ngsp;{{ changeWords(row) }}
            </ng-template>
          </hinge-ledger>
        }
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    .above {
      display: flex;
      flex-wrap: wrap;
      gap: 0.6rem 1.6rem;
      align-items: center;
      margin-bottom: 0.6rem;
    }
    .key {
      display: inline-flex;
      flex-wrap: wrap;
      gap: 1.2rem;
      font-size: 0.88rem;
    }
    .key > span {
      display: inline-flex;
      align-items: center;
      gap: 0.4rem;
    }
    .key hinge-span-line {
      min-width: 2.4rem;
      width: 2.4rem;
    }
    hinge-plant-days {
      margin-bottom: 0.8rem;
    }
    h2 {
      margin-top: 1.4rem;
    }
  `,
})
export class TimelinePage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  readonly days = input('', { transform: fromAddress });
  readonly find = input('', { transform: fromAddress });
  readonly timeline = this.store.selectSignal(roundsFeature.selectShownTimeline);
  readonly view = this.store.selectSignal(roundsFeature.selectShown);
  readonly problem = this.store.selectSignal(roundsFeature.selectProblem);
  readonly headline = computed(() => {
    const timeline = this.timeline();
    return timeline ? usableWords(timeline.availability) : 'Timeline';
  });
  readonly notKnown = computed(() => {
    const timeline = this.timeline();
    return timeline && timeline.availability.usable !== null ? knownWords(timeline.availability) : '';
  });
  readonly changes = computed(() => {
    const [view, timeline] = [this.view(), this.timeline()];
    return view && timeline ? view.changes.filter(({ at }) => Date.parse(at) >= timeline.from) : null;
  });
  readonly isReporting = signal(false);
  readonly periods = periods;
  readonly usual = usualPeriod;
  readonly states = Object.keys(stateWords) as LinkState[];
  readonly words = stateWords;
  readonly months = computed(() => this.timeline()?.rows[0]?.months ?? []);
  /** Each month’s share is saved, too. */
  readonly columns = computed((): readonly Column<TimelineRow>[] => {
    const months = this.months();
    const saved = months.map((_, index): Column<TimelineRow> => ({
      key: `month-${index}`,
      title: nameOfMonth(months, index),
      text: (row) => usableInMonth(row.months[index]),
      onlySaved: true,
    }));
    return [
      name,
      ...(Number(this.days() || usualPeriod) <= mostDaysInLine ? [line] : []),
      ...(months.length > 0 ? [bars] : []),
      ...figures,
      ...saved,
    ];
  });
  readonly changeColumns = changeColumns;
  readonly changeWords = changeWords;
  readonly idOf = ({ linkId }: TimelineRow): string => linkId;
  readonly changeId = ({ id }: LinkChange): string => String(id);

  constructor() {
    this.store.dispatch(roundsActions.show());
    effect(() => {
      const wish = { days: Number(this.days() || usualPeriod), find: this.find() };
      untracked(() => this.store.dispatch(roundsActions.lookBack({ wish })));
    });
    inject(DestroyRef).onDestroy(() => this.store.dispatch(roundsActions.leave()));
  }
}
