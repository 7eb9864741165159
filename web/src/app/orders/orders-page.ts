import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { counted } from '@loyal-hinge/core';
import { saveFile, toCsv } from '../files/csv';
import { ChoiceField } from '../shell/choice';
import { FilterLine } from '../shell/filter-line';
import { addressWriter, fromAddress } from '../shell/page-address';
import { lookingFor } from '../shell/words';
import { ProblemNotice } from '../http/problem-notice';
import { Moment } from '../signs/moment';
import { orderActions, ordersFeature } from './state';

/** All work orders, the newest first. */
@Component({
  selector: 'hinge-orders-page',
  imports: [RouterLink, ProblemNotice, FilterLine, ChoiceField, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>{{ headline() }}</h1>
      </header>
      <hinge-problem [problem]="problem()" />
      <hinge-filter-line [find]="find()" what="any title or person" (findChange)="go({ find: $event })" (save)="save()">
        <hinge-choice
          word="that is"
          label="State"
          [choices]="states"
          [chosen]="state()"
          (chose)="go({ state: $event })"
        />
      </hinge-filter-line>
      <table class="ledger">
        <thead>
          <tr>
            <th scope="col">Work order</th>
            <th scope="col">State</th>
            <th scope="col">Lines</th>
            <th scope="col">Proposed</th>
            <th scope="col">Decided</th>
          </tr>
        </thead>
        <tbody>
          @for (order of shown(); track order.id) {
            <tr>
              <td>
                <a [routerLink]="['/orders', order.id]">{{ order.title }}</a>
              </td>
              <td>
                <strong [class]="tones[order.state]">{{ order.state }}</strong>
              </td>
              <td>
                {{ order.done }} of {{ order.lines }} done
                @if (order.failed > 0) {
                  <span class="fails">, {{ order.failed }} failed</span>
                }
              </td>
              <td>{{ order.proposedBy }}, <hinge-moment [at]="order.proposedAt" /></td>
              <td>
                @if (order.decidedAt) {
                  {{ order.decidedBy }}, <hinge-moment [at]="order.decidedAt" />
                }
              </td>
            </tr>
          } @empty {
            <tr>
              <td colspan="5" class="faint">
                @if (rows().length > 0) {
                  Nothing fits.
                } @else {
                  Here stands what is to be changed, line by line, with its way back. Make one from the
                  <a routerLink="/trust/plan">Plan</a> or from a cell of the <a routerLink="/trust">trust grid</a>.
                }
              </td>
            </tr>
          }
        </tbody>
      </table>
    </div>
  `,
  styles: `
    td {
      font-size: 0.93rem;
    }
  `,
})
export class OrdersPage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  readonly state = input('', { transform: fromAddress });
  readonly rows = this.store.selectSignal(ordersFeature.selectRows);
  readonly problem = this.store.selectSignal(ordersFeature.selectProblem);
  readonly states = [
    { key: '', word: 'in any state' },
    ...['proposed', 'approved', 'running', 'done', 'proved', 'withdrawn'].map((state) => ({ key: state, word: state })),
  ];
  readonly tones = stateTones;
  readonly shown = computed(() => {
    const fits = lookingFor(this.find());
    return this.rows().filter(
      ({ title, proposedBy, decidedBy, state }) =>
        (this.state() === '' || state === this.state()) && fits(title, proposedBy, decidedBy),
    );
  });
  readonly headline = computed(() => {
    const count = (state: string): number => this.rows().filter((row) => row.state === state).length;
    const open = [
      [count('proposed'), 'waits for approval', 'wait for approval'],
      [count('approved'), 'can be carried out', 'can be carried out'],
      [count('done'), 'waits for its proof', 'wait for their proof'],
    ] as const;
    const parts = open.filter(([many]) => many > 0).map(([many, one, more]) => `${many} ${many === 1 ? one : more}`);
    return this.rows().length === 0
      ? 'Work orders'
      : parts.length === 0
        ? `${counted(this.rows().length, 'work order')}; none is open.`
        : `${counted(this.rows().length, 'work order')}: ${parts.join(', ')}.`;
  });

  constructor() {
    this.store.dispatch(orderActions.load());
  }

  save(): void {
    const header = [
      'title',
      'state',
      'lines',
      'done',
      'failed',
      'proposed by',
      'proposed at',
      'decided by',
      'decided at',
    ];
    const rows = this.shown().map((row) => [
      row.title,
      row.state,
      String(row.lines),
      String(row.done),
      String(row.failed),
      row.proposedBy,
      row.proposedAt,
      row.decidedBy ?? '',
      row.decidedAt ?? '',
    ]);
    saveFile('work-orders.csv', 'text/csv', toCsv(header, rows));
  }
}

export const stateTones = {
  proposed: 'weak',
  approved: 'weak',
  running: 'weak',
  done: 'holds',
  proved: 'holds',
  withdrawn: 'unknown',
} as const;
