import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { byNumber, counted } from '@loyal-hinge/core';
import type { WorkOrderRow } from '@loyal-hinge/contract';
import { ChoiceField } from '../shell/choice';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { FirstSteps } from '../first-steps/first-steps';
import { ProblemNotice } from '../http/problem-notice';
import { Moment } from '../signs/moment';
import { Proposals } from './proposals';
import { orderActions, ordersFeature } from './state';

/** All work orders, the newest first. */
@Component({
  selector: 'hinge-orders-page',
  imports: [RouterLink, ProblemNotice, Ledger, LedgerCell, ChoiceField, Moment, FirstSteps, Proposals],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>{{ headline() }}</h1>
      </header>
      <hinge-problem [problem]="problem()" />
      <hinge-proposals />
      <hinge-ledger
        [columns]="columns"
        [rows]="shown()"
        [find]="find()"
        what="any title or person"
        fileName="work-orders"
        (findChange)="go({ find: $event })"
      >
        <hinge-choice
          word="that is"
          label="State"
          [choices]="states"
          [chosen]="state()"
          (chose)="go({ state: $event })"
        />
        <ng-template hingeCell="title" [hingeCellOf]="shown()" let-order>
          <a [routerLink]="['/orders', order.id]">{{ order.title }}</a>
        </ng-template>
        <ng-template hingeCell="state" [hingeCellOf]="shown()" let-order>
          <strong [class]="tones[order.state]">{{ order.state }}</strong>
        </ng-template>
        <ng-template hingeCell="lines" [hingeCellOf]="shown()" let-order>
          {{ order.done }} of {{ order.lines }} done{{ order.failed > 0 ? ',' : '' }}
          @if (order.failed > 0) {
            <span class="fails">{{ order.failed }} failed</span>
          }
        </ng-template>
        <ng-template hingeCell="proposed" [hingeCellOf]="shown()" let-order>
          {{ order.proposedBy }}, <hinge-moment [at]="order.proposedAt" />
        </ng-template>
        <ng-template hingeCell="decided" [hingeCellOf]="shown()" let-order>
          @if (order.decidedAt) {
            {{ order.decidedBy }}, <hinge-moment [at]="order.decidedAt" />
          }
        </ng-template>
        <ng-container ngProjectAs="[empty]">
          @if (rows().length > 0) {
            No work order is {{ state() }}.
          } @else {
            <hinge-first-steps />
            A work order lists what is to be changed, line by line, and how to undo it. Create one from the
            <a routerLink="/trust/plan">Plan</a> or from a cell of the <a routerLink="/trust">trust grid</a>.
          }
        </ng-container>
      </hinge-ledger>
    </div>
  `,
})
export class OrdersPage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  readonly state = input('', { transform: fromAddress });
  readonly rows = this.store.selectSignal(ordersFeature.selectRows);
  private readonly proposals = this.store.selectSignal(ordersFeature.selectProposals);
  readonly problem = this.store.selectSignal(ordersFeature.selectProblem);
  readonly states = [
    { key: '', word: 'in any state' },
    ...['proposed', 'approved', 'running', 'done', 'proved', 'withdrawn'].map((state) => ({ key: state, word: state })),
  ];
  readonly tones = stateTones;
  readonly columns = columns;
  readonly shown = computed(() => this.rows().filter(({ state }) => this.state() === '' || state === this.state()));
  readonly headline = computed(() => {
    const count = (state: string): number => this.rows().filter((row) => row.state === state).length;
    const open = [
      [count('proposed'), '# waits for approval', '# wait for approval'],
      [count('approved'), '# can be carried out', '# can be carried out'],
      [count('done'), '# waits for its proof', '# wait for their proof'],
    ] as const;
    const proposed = this.proposals().filter(({ state }) => state === 'waiting').length;
    const second =
      proposed === 0
        ? ''
        : byNumber(proposed, ' # proposal waits for a second person.', ' # proposals wait for a second person.');
    const parts = open.filter(([many]) => many > 0).map(([many, one, more]) => byNumber(many, one, more));
    return this.rows().length === 0
      ? second.trim() || 'Work orders'
      : parts.length === 0
        ? `${counted(this.rows().length, 'work order')}; none is open.${second}`
        : `${counted(this.rows().length, 'work order')}: ${parts.join(', ')}.${second}`;
  });

  constructor() {
    this.store.dispatch(orderActions.load());
  }
}

const columns: readonly Column<WorkOrderRow>[] = [
  { key: 'title', title: 'Work order', text: ({ title }) => title },
  { key: 'state', title: 'State', text: ({ state }) => state },
  {
    key: 'lines',
    title: 'Lines',
    text: ({ done, lines, failed }) => `${done} of ${lines} done${failed > 0 ? `, ${failed} failed` : ''}`,
    order: ({ lines }) => lines,
  },
  {
    key: 'proposed',
    title: 'Proposed',
    text: ({ proposedBy, proposedAt }) => `${proposedBy}, ${proposedAt}`,
    order: ({ proposedAt }) => proposedAt,
  },
  {
    key: 'decided',
    title: 'Decided',
    text: ({ decidedBy, decidedAt }) => (decidedAt === null ? '' : `${decidedBy ?? ''}, ${decidedAt}`),
    order: ({ decidedAt }) => decidedAt ?? '',
  },
];

export const stateTones = {
  proposed: 'weak',
  approved: 'weak',
  running: 'weak',
  done: 'holds',
  proved: 'holds',
  withdrawn: 'unknown',
} as const;
