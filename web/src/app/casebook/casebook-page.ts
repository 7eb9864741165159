import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import type { CaseRow } from '@loyal-hinge/contract';
import { ChoiceField } from '../shell/choice';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { Waiting } from '../shell/waiting';
import { Moment } from '../signs/moment';
import { CaseStrip } from './case-strip';
import { CasebookHead } from './casebook-head';
import { caseKindWords, headlineOf, statusWords, stepWords, timesWords } from './casebook-words';
import { casebookActions, casebookFeature } from './state';

const columns: readonly Column<CaseRow>[] = [
  { key: 'says', title: 'What happened', text: ({ title, says }) => `${title}: ${says}` },
  { key: 'link', title: 'Link', text: ({ linkName, kind }) => linkName ?? caseKindWords[kind] },
  { key: 'step', title: 'Ended at', text: stepWords, short: true },
  { key: 'count', title: 'Tried', text: timesWords, order: ({ count }) => count },
  { key: 'status', title: 'Stands', text: ({ status }) => statusWords[status.state], short: true },
  { key: 'with', title: 'With', text: ({ assignedTo }) => assignedTo ?? '' },
  { key: 'first', title: 'First', text: ({ first }) => first, onlySaved: true },
  { key: 'last', title: 'Last', text: ({ last }) => last, short: true },
];
const choices = [
  { key: 'all', word: 'anything' },
  { key: 'link', word: 'links of the plant' },
  { key: 'other', word: 'what is of no link' },
] as const;
const states = [
  { key: 'left', word: 'not closed' },
  { key: 'open', word: 'open' },
  { key: 'over', word: 'over' },
  { key: 'all', word: 'anything' },
] as const;

const standsSo: Readonly<Record<string, (state: CaseRow['status']['state']) => boolean>> = {
  open: (state) => state === 'open',
  over: (state) => state !== 'open',
  all: () => true,
};

/** What failed, in checks and in what machines and wires recorded: a case a row, the weightiest first. */
@Component({
  selector: 'hinge-casebook-page',
  imports: [CasebookHead, CaseStrip, ChoiceField, Ledger, LedgerCell, Moment, RouterLink, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-casebook-head [headline]="headline()" />
      @if (view(); as known) {
        @if (shown().length > 0) {
          <hinge-case-strip [cases]="shown()" [happened]="known.happened" />
        }
        <hinge-ledger
          [columns]="columns"
          [rows]="shown()"
          [idOf]="idOf"
          [find]="find()"
          (findChange)="go({ find: $event })"
          what="any machine, link, user, words"
          fileName="cases"
        >
          <hinge-choice
            word="about"
            label="Which cases"
            [choices]="choices"
            [chosen]="only() || 'all'"
            (chose)="go({ only: $event === 'all' ? '' : $event })"
          />
          <hinge-choice
            word="that are"
            label="Cases that nobody closed, or how they stand"
            [choices]="states"
            [chosen]="stand() || 'left'"
            (chose)="go({ stand: $event === 'left' ? '' : $event })"
          />
          <span empty>
            @if (known.cases.length > 0) {
              There is no such case.
            } @else if (known.evidence.length > 0) {
              Nothing has failed in what was brought. <a routerLink="/casebook/evidence">See what was read</a>.
            } @else {
              This page shows why connections failed: it fills as soon as
              <a routerLink="/casebook/rounds">a round</a> sees a link fail, or somebody
              <a routerLink="/casebook/evidence">brings a capture or a log</a> of machines that nobody may touch.
            }
          </span>
          <ng-template hingeCell="says" [hingeCellOf]="shown()" let-row>
            <a [routerLink]="['/casebook/cases', row.id]">{{ row.title }}</a>
            <div class="words">{{ row.says }}</div>
            @for (remark of row.remarks; track remark) {
              <div class="remark">{{ remark }}</div>
            }
          </ng-template>
          <ng-template hingeCell="link" [hingeCellOf]="shown()" let-row>
            @if (row.linkId) {
              <a [routerLink]="['/links', row.linkId]">{{ row.linkName }}</a>
            } @else {
              <span class="faint">{{ kindWords[row.kind] }}</span>
            }
          </ng-template>
          <ng-template hingeCell="last" [hingeCellOf]="shown()" let-row>
            <hinge-moment [at]="row.last" show="near" />
          </ng-template>
        </hinge-ledger>
        @if (known.since) {
          <p class="faint">
            More was recorded than is looked at: cases are made of what was tried since
            <hinge-moment [at]="known.since" />.
          </p>
        }
      } @else {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    hinge-case-strip {
      display: block;
      margin-bottom: 1rem;
    }
    .words {
      font-size: 0.9rem;
    }
    .remark {
      color: var(--weak);
      font-size: 0.88rem;
    }
  `,
})
export class CasebookPage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  readonly stand = input('', { transform: fromAddress });
  readonly only = input('', { transform: fromAddress });
  readonly view = this.store.selectSignal(casebookFeature.selectShown);
  readonly shown = computed(() => {
    const [only, stand] = [this.only(), this.stand()];
    return (this.view()?.cases ?? []).filter(({ kind, status }) => {
      const isWanted = standsSo[stand]?.(status.state) ?? status.state !== 'closed';
      return isWanted && (only === '' || (only === 'link') === (kind === 'link'));
    });
  });
  readonly headline = computed(() => {
    const view = this.view();
    return view ? headlineOf(view.cases, view.evidence) : 'Casebook';
  });
  readonly columns = columns;
  readonly choices = choices;
  readonly states = states;
  readonly kindWords = caseKindWords;
  readonly idOf = ({ id }: CaseRow): string => id;

  constructor() {
    this.store.dispatch(casebookActions.show());
  }
}
