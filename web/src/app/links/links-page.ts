import { ChangeDetectionStrategy, Component, DestroyRef, computed, inject, input, linkedSignal } from '@angular/core';
import { Router, RouterLink } from '@angular/router';
import { ChoiceField } from '../shell/choice';
import { FilterLine } from '../shell/filter-line';
import { addressWriter, fromAddress } from '../shell/page-address';
import { lookingFor } from '../shell/words';
import { Store } from '@ngrx/store';
import type { LinkRow } from '@loyal-hinge/contract';
import { counted, stepIds, steps, toCsv } from '@loyal-hinge/core';
import { FirstSteps } from '../first-steps/first-steps';
import { ProblemNotice } from '../http/problem-notice';
import { may } from '../session/may';
import { Keys } from '../shell/keys';
import { HingeSign, toneOf } from '../signs/hinge-sign';
import { Moment } from '../signs/moment';
import { VerdictBar, verdictWords } from '../signs/verdict-bar';
import { saveFile } from '../files/save-file';
import { compareByPlace, linkActions, linksFeature } from './state';

const orders = {
  place: { word: 'where it fails', compare: compareByPlace },
  name: { word: 'link', compare: (left: LinkRow, right: LinkRow) => left.name.localeCompare(right.name) },
  server: {
    word: 'server',
    compare: (left: LinkRow, right: LinkRow) =>
      left.server.localeCompare(right.server) || left.name.localeCompare(right.name),
  },
  checked: {
    word: 'last check',
    compare: (left: LinkRow, right: LinkRow) => (right.checkedAt ?? '').localeCompare(left.checkedAt ?? ''),
  },
} as const;
type Order = keyof typeof orders;

/** The step board: a row a link, a column a step, a bar in each cell. */
@Component({
  selector: 'hinge-links-page',
  imports: [RouterLink, HingeSign, VerdictBar, Moment, ProblemNotice, FilterLine, ChoiceField, FirstSteps],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>{{ headline() }}</h1>
        <div class="actions">
          @if (underWay() > 0) {
            <span class="faint" role="status">{{ underWayWords() }}</span>
            <button type="button" class="act" (click)="cancelAll()">Cancel them</button>
          }
          <button type="button" class="act main" [disabled]="!mayCheck() || shown().length === 0" (click)="checkAll()">
            Check {{ filtered() ? 'these ' + shown().length : 'all' }}
          </button>
        </div>
      </header>
      <hinge-problem [problem]="problem()" />
      @if (loaded() && !filtered()) {
        <hinge-first-steps [whole]="shown().length === 0" />
      }
      @if (rows().length > 0 || !loaded()) {
        <hinge-filter-line
          [find]="find()"
          what="any link, machine or cause"
          (findChange)="go({ find: $event })"
          (save)="exportCsv()"
        >
          <hinge-choice
            word="that is"
            label="State"
            [choices]="states"
            [chosen]="state()"
            (chose)="go({ state: $event })"
          />
          <hinge-choice
            word="sorted by"
            label="Sorted by"
            [choices]="orderChoices"
            [chosen]="order()"
            (chose)="go({ by: $event })"
          />
        </hinge-filter-line>
      }
      @if (!loaded()) {
        <div class="waiting" aria-busy="true">
          @for (line of skeleton; track $index) {
            <i></i>
          }
        </div>
      } @else if (shown().length === 0) {
        <p class="empty">
          {{
            filtered()
              ? 'No link fits these words.'
              : 'This page shows the client-server pairs that must be able to talk, and where in the chain they stop.'
          }}
          @if (filtered()) {
            <button type="button" class="act" (click)="go({ find: '', state: '' })">Show all</button>
          }
        </p>
      } @else {
        <table class="ledger board">
          <thead>
            <tr>
              <th scope="col">Link</th>
              <th scope="col">State</th>
              @for (step of steps; track step.id) {
                <th scope="col" class="step">
                  <span [title]="step.asks">{{ step.title }}</span>
                </th>
              }
              <th scope="col">Checked</th>
            </tr>
          </thead>
          <tbody>
            @for (row of shown(); track row.id; let index = $index) {
              <tr [class.at]="index === at()" (click)="toggle(row.id, index)" [attr.data-link]="row.id">
                <th scope="row">
                  <a [routerLink]="['/links', row.id]" (click)="$event.stopPropagation()">{{ row.name }}</a>
                </th>
                <td class="state" [class]="tones[row.state]"><hinge-sign [state]="row.state" /> {{ row.state }}</td>
                @for (verdict of row.verdicts; track $index) {
                  <td class="step">
                    <hinge-bar
                      [verdict]="verdict"
                      [working]="working()[row.id] === stepIds[$index]"
                      [title]="steps[$index]?.title + ': ' + words[verdict]"
                    />
                  </td>
                }
                <td class="when">
                  @if (row.checkId) {
                    <span class="faint">{{ row.waitsFor ? 'waiting' : 'now …' }}</span>
                  } @else if (row.checkedAt) {
                    <hinge-moment [at]="row.checkedAt" show="time" />
                  } @else {
                    <span class="faint">never</span>
                  }
                </td>
              </tr>
              @if (opened() === row.id) {
                <tr class="more">
                  <td [attr.colspan]="steps.length + 3">
                    <p>{{ row.headline }}</p>
                    <p class="faint">
                      {{ row.client }} ({{ row.clientZone }}) to {{ row.server }} ({{ row.serverZone }}),
                      <code>{{ row.endpointUrl }}</code>
                    </p>
                    @if (row.waitsFor) {
                      <p class="faint">
                        The machine is in use by {{ row.waitsFor }}. The check begins when it is free.
                      </p>
                    }
                    <div class="actions">
                      <a class="act" [routerLink]="['/links', row.id]">Open</a>
                      <button
                        type="button"
                        class="act"
                        [disabled]="!mayCheck() || row.checkId !== null"
                        (click)="check(row)"
                      >
                        Check now
                      </button>
                    </div>
                  </td>
                </tr>
              }
            }
          </tbody>
        </table>
        <p class="key faint">
          @for (entry of legend; track entry) {
            <span><hinge-bar [verdict]="entry" aria-hidden="true" /> {{ words[entry] }}</span>
          }
        </p>
      }
    </div>
  `,
  styles: `
    .board {
      table-layout: auto;
    }
    .board th[scope='row'] {
      font-weight: 500;
      font-size: 0.95rem;
    }
    .board th[scope='row'] a {
      color: var(--ink);
      text-decoration: none;
    }
    .board th[scope='row'] a:hover {
      text-decoration: underline;
    }
    .board thead th {
      vertical-align: bottom;
    }
    .board th.step {
      padding: 0.3rem 0.1rem;
      width: 44px;
      font-weight: 500;
    }
    .board th.step span {
      writing-mode: vertical-rl;
      transform: rotate(180deg);
      white-space: nowrap;
    }
    .board td.step {
      padding: 0.2rem 0.25rem;
      text-align: center;
      line-height: 0;
    }
    .board tbody tr {
      cursor: pointer;
    }
    .board tbody tr:hover,
    .board tr.at {
      background: var(--wash);
    }
    .board tr.at th {
      box-shadow: inset 3px 0 var(--lake);
    }
    .state {
      white-space: nowrap;
      font-weight: 600;
    }
    .when {
      font-size: 0.86rem;
      white-space: nowrap;
    }
    .more {
      background: var(--wash);
      cursor: default;
    }
    .more td {
      padding: 0.7rem 1rem 0.9rem;
    }
    .key {
      display: flex;
      gap: 1.4rem;
      margin-top: 0.7rem;
      font-size: 0.88rem;
    }
    .key span {
      display: inline-flex;
      gap: 0.4rem;
      align-items: center;
    }
    .waiting i {
      display: block;
      height: 1.6rem;
      margin-bottom: 0.4rem;
      background: var(--wash);
    }
  `,
})
export class LinksPage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  private readonly router = inject(Router);

  /** From the address. */
  readonly find = input('', { transform: fromAddress });
  readonly state = input('', { transform: fromAddress });
  readonly by = input('', { transform: fromAddress });
  readonly open = input('', { transform: fromAddress });

  readonly steps = steps;
  readonly stepIds = stepIds;
  readonly tones = toneOf;
  readonly words = verdictWords;
  readonly legend = ['holds', 'weak', 'fails', 'unknown', 'not-needed'] as const;
  readonly states = [
    { key: '', word: 'in any state' },
    ...['Parted', 'Strained', 'Untried', 'Sound'].map((state) => ({ key: state, word: state })),
  ];
  readonly orderChoices = Object.entries(orders).map(([key, { word }]) => ({ key, word }));
  readonly skeleton = Array.from({ length: 12 });

  protected readonly rows = this.store.selectSignal(linksFeature.selectRows);
  readonly headline = this.store.selectSignal(linksFeature.selectHeadline);
  readonly loaded = this.store.selectSignal(linksFeature.selectLoaded);
  readonly problem = this.store.selectSignal(linksFeature.selectProblem);
  readonly working = this.store.selectSignal(linksFeature.selectWorking);
  readonly mayCheck = may('engineer');
  readonly underWay = computed(() => this.rows().filter((row) => row.checkId !== null).length);
  readonly underWayWords = computed(() => `${counted(this.underWay(), 'check')} under way`);
  readonly order = computed<Order>(() => (this.by() in orders ? (this.by() as Order) : 'place'));
  readonly filtered = computed(() => this.find() !== '' || this.state() !== '');
  readonly opened = computed(() => this.open());
  readonly shown = computed(() => {
    const fits = lookingFor(this.find());
    const state = this.state();
    return this.rows()
      .filter((row) => (state === '' || row.state === state) && fits(...textsOf(row)))
      .sort(orders[this.order()].compare);
  });
  readonly at = linkedSignal(() =>
    Math.max(
      0,
      this.shown().findIndex((row) => row.id === this.open()),
    ),
  );

  constructor() {
    this.store.dispatch(linkActions.load());
    const remove = inject(Keys).add({
      j: { does: 'move down', run: () => this.move(1) },
      k: { does: 'move up', run: () => this.move(-1) },
      Enter: { does: 'open the link', run: () => this.goTo() },
      x: { does: 'explain', run: () => this.toggle(this.shown()[this.at()]?.id ?? '', this.at()) },
      c: { does: 'check the link now', run: () => this.checkAt() },
    });
    inject(DestroyRef).onDestroy(remove);
  }

  toggle(id: string, index: number): void {
    this.at.set(index);
    this.go({ open: this.open() === id ? '' : id });
  }

  check(row: LinkRow): void {
    this.store.dispatch(linkActions.check({ linkIds: [row.id] }));
  }

  checkAll(): void {
    this.store.dispatch(linkActions.check({ linkIds: this.shown().map((row) => row.id) }));
  }

  cancelAll(): void {
    for (const { checkId } of this.rows()) if (checkId !== null) this.store.dispatch(linkActions.cancel({ checkId }));
  }

  exportCsv(): void {
    const header = [
      'link',
      'state',
      'finding',
      'client',
      'server',
      'endpoint URL',
      ...steps.map((step) => step.title),
      'checked at',
    ];
    const lines = this.shown().map((row) => [
      row.name,
      row.state,
      row.headline,
      row.client,
      row.server,
      row.endpointUrl,
      ...row.verdicts.map((verdict) => verdictWords[verdict]),
      row.checkedAt ?? '',
    ]);
    saveFile('links.csv', 'text/csv', toCsv(header, lines));
  }

  private move(by: number): void {
    this.at.set(Math.min(this.shown().length - 1, Math.max(0, this.at() + by)));
    document.querySelectorAll('tr[data-link]')[this.at()]?.scrollIntoView({ block: 'nearest' });
  }

  private goTo(): void {
    const row = this.shown()[this.at()];
    if (row) void this.router.navigate(['/links', row.id]);
  }

  private checkAt(): void {
    const row = this.shown()[this.at()];
    if (row && this.mayCheck() && row.checkId === null) this.check(row);
  }
}

const textsOf = (row: LinkRow): readonly (string | null)[] => [
  row.name,
  row.state,
  row.headline,
  row.client,
  row.clientZone,
  row.server,
  row.serverZone,
  row.endpointUrl,
  row.leadingCause,
];
