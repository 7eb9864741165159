import {
  ChangeDetectionStrategy,
  Component,
  ElementRef,
  afterRenderEffect,
  computed,
  effect,
  inject,
  input,
  output,
  untracked,
} from '@angular/core';
import { RouterLink } from '@angular/router';
import { isFieldStep, linkKinds, stepColumns, verdictsOnBoard } from '@loyal-hinge/core';
import type { LinkKindId, StepId } from '@loyal-hinge/core';
import type { LinkRow } from '@loyal-hinge/contract';
import { stateWords } from '../shell/glossary';
import { placeAfter } from '../shell/ledger/row-keys';
import { RowWindow } from '../shell/row-window';
import type { RowRange } from '../shell/row-window';
import { BarStrip, barWidth } from '../signs/bar-strip';
import { HingeSign, toneOf } from '../signs/hinge-sign';
import { Moment } from '../signs/moment';
import { VerdictBar, verdictWords } from '../signs/verdict-bar';
import { Telling } from '../shell/telling';

const rowHeight = 37;

/** The step board: a row a link, a column a step, a bar in each. Only rows in sight are drawn, and asked for. */
@Component({
  selector: 'hinge-board-table',
  imports: [Telling, RouterLink, HingeSign, VerdictBar, BarStrip, Moment],
  providers: [RowWindow],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <table class="ledger board" [attr.aria-rowcount]="count() + 1">
      <colgroup>
        <col />
        <col class="of-state" />
        @for (column of columns(); track column.step.id) {
          <col class="of-step" [class.tight]="isMixed()" />
        }
        <col class="of-time" />
      </colgroup>
      <thead [class.mixed]="isMixed()">
        @if (isMixed()) {
          <tr class="kinds">
            <td colspan="2"></td>
            @for (run of runs(); track run.from) {
              <th scope="colgroup" [attr.colspan]="run.count">
                <span [class.own]="run.title !== ''">{{ run.title }}</span>
              </th>
            }
            <td></td>
          </tr>
        }
        <tr>
          <th scope="col">Link</th>
          <th scope="col"><span tabindex="0" [hingeTelling]="stateWords">State</span></th>
          @for (column of columns(); track column.step.id) {
            <th scope="col" class="step">
              <span tabindex="0" [hingeTelling]="column.step.asks">{{ column.step.title }}</span>
            </th>
          }
          <th scope="col">Checked</th>
        </tr>
      </thead>
      <tbody>
        <tr class="room" aria-hidden="true" [style.height.px]="above()"></tr>
        @for (place of places(); track place.index) {
          @if (place.row; as row) {
            <tr
              [class.at]="place.index === at()"
              [attr.aria-rowindex]="place.index + 2"
              [attr.data-link]="row.id"
              [attr.data-place]="place.index"
              [tabindex]="place.index === reachable() ? 0 : -1"
              (click)="chose.emit(place.index)"
              (focus)="moved.emit(place.index)"
              (keydown)="hear($event, place.index)"
            >
              <th scope="row">
                <a
                  [routerLink]="['/links', row.id]"
                  tabindex="-1"
                  [hingeTelling]="row.name"
                  (click)="$event.stopPropagation()"
                  >{{ row.name }}</a
                >
              </th>
              <td class="state" [class]="tones[row.state]"><hinge-sign [state]="row.state" /> {{ row.state }}</td>
              <td class="bars" [attr.colspan]="columns().length">
                <hinge-bar-strip
                  [steps]="linkKinds[row.kind].steps"
                  [columns]="columnIds()"
                  [verdicts]="verdictsOnBoard(row.kind, row.verdicts)"
                  [working]="working()[row.id] ?? null"
                />
              </td>
              <td class="when">
                @if (row.checkId) {
                  <span class="faint">{{ row.waitsFor ? 'waiting' : 'now …' }}</span>
                } @else if (row.checkedAt) {
                  <hinge-moment [at]="row.checkedAt" show="near" />
                } @else {
                  <span class="faint">never</span>
                }
              </td>
            </tr>
            @if (opened() === row.id) {
              <tr class="more">
                <td [attr.colspan]="columns().length + 3">
                  <p>{{ row.headline }}</p>
                  <p class="faint">
                    {{ row.client }} ({{ row.clientZone }}) to {{ row.server }} ({{ row.serverZone }}),
                    <code>{{ row.endpointUrl }}</code>
                  </p>
                  @if (row.waitsFor) {
                    <p class="faint">The machine is in use by {{ row.waitsFor }}. The check begins when it is free.</p>
                  }
                  <div class="actions">
                    <a class="act" [routerLink]="['/links', row.id]">Open</a>
                    <button
                      type="button"
                      class="act"
                      [disabled]="!mayCheck() || row.checkId !== null"
                      (click)="check.emit(row)"
                    >
                      Check now
                    </button>
                  </div>
                </td>
              </tr>
            }
          } @else {
            <tr aria-busy="true" [attr.aria-rowindex]="place.index + 2">
              <td class="coming" [attr.colspan]="columns().length + 3"><i></i></td>
            </tr>
          }
        }
        <tr class="room" aria-hidden="true" [style.height.px]="below()"></tr>
      </tbody>
    </table>
    <p class="key faint">
      @for (entry of legend; track entry) {
        <span><hinge-bar [verdict]="entry" aria-hidden="true" /> {{ words[entry] }}</span>
      }
    </p>
  `,
  styles: `
    .board {
      table-layout: fixed;
    }
    .of-state {
      width: 7.2rem;
    }
    .of-step {
      width: ${barWidth}px;
    }
    /* Names of links, which begin alike, are to be read whole beside them. */
    .of-step.tight {
      width: 25px;
    }
    .of-time {
      width: 7rem;
    }
    .kinds th {
      padding: 0.25rem 0.1rem;
      font-size: 0.78rem;
      font-weight: 600;
      white-space: nowrap;
      text-align: start;
    }
    .kinds span {
      display: block;
      margin-inline-end: 2px;
      padding-bottom: 0.2rem;
    }
    .kinds .own {
      box-shadow: inset 0 -2px var(--faint);
    }
    @media (max-width: 1150px) {
      .of-state {
        width: 6.4rem;
      }
      .of-step {
        width: 30px;
      }
      .of-step.tight {
        width: 20px;
      }
      .of-time {
        width: 5.6rem;
      }
    }
    .board tbody tr:not(.more, .room) {
      height: ${rowHeight}px;
      cursor: pointer;
    }
    .board th[scope='row'] {
      font-weight: 500;
      font-size: 0.95rem;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .board th[scope='row'] a {
      color: var(--ink);
      text-decoration: none;
    }
    .board th[scope='row'] a:hover {
      text-decoration: underline;
    }
    .board thead {
      position: sticky;
      top: 0;
      z-index: 1;
    }
    .board thead th,
    .board thead td {
      background: var(--paper);
      vertical-align: bottom;
    }
    .board th.step {
      padding: 0.3rem 0.1rem;
      font-weight: 500;
    }
    .board th.step span {
      writing-mode: vertical-rl;
      transform: rotate(180deg);
      white-space: nowrap;
    }
    .board td.bars {
      padding: 0;
    }
    .board tbody tr:not(.room):hover,
    .board tr.at {
      background: var(--wash);
    }
    .board tbody tr:focus-visible {
      outline: 2px solid var(--lake);
      outline-offset: -2px;
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
    .coming i {
      display: block;
      height: 1.1rem;
      background: var(--wash);
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
  `,
})
export class BoardTable {
  /** How many rows there are. */
  readonly count = input.required<number>();
  /** The kinds of links among all rows. */
  readonly kinds = input<readonly LinkKindId[]>([]);
  /** Rows that are there, by their places. */
  readonly rows = input.required<Readonly<Record<number, LinkRow>>>();
  readonly working = input.required<Readonly<Record<string, StepId>>>();
  /** The id of the link whose row is open; empty: none. */
  readonly opened = input('');
  readonly at = input(0);
  readonly mayCheck = input(false);
  /** Rows came into sight, or are about to. */
  readonly reached = output<RowRange>();
  /** The place of a row that was clicked. */
  readonly chose = output<number>();
  readonly check = output<LinkRow>();
  /** The focus came to a row, by its place. */
  readonly moved = output<number>();

  readonly tones = toneOf;
  readonly words = verdictWords;
  readonly stateWords = stateWords;
  readonly linkKinds = linkKinds;
  readonly verdictsOnBoard = verdictsOnBoard;
  readonly legend = ['holds', 'weak', 'fails', 'unknown', 'not-needed'] as const;
  private readonly inSight = inject(RowWindow);
  readonly range = this.inSight.range(this.count, rowHeight);
  readonly above = computed(() => this.range().from * rowHeight);
  readonly below = computed(() => Math.max(0, this.count() - this.range().to) * rowHeight);
  readonly places = computed(() => {
    const [{ from, to }, rows] = [this.range(), this.rows()];
    return Array.from({ length: Math.max(0, to - from) }, (_, offset) => ({
      index: from + offset,
      row: rows[from + offset] ?? null,
    }));
  });
  /** Steps behind servers have columns where a link goes there. */
  private readonly isBehind = computed(() =>
    Object.values(this.rows()).some((row) => {
      const first = linkKinds[row.kind].steps.findIndex(({ id }) => isFieldStep(id));
      return row.verdicts.slice(first).some((verdict) => verdict !== 'not-needed');
    }),
  );
  readonly columns = computed(() => stepColumns(this.kinds().length > 0 ? this.kinds() : ['ua'], this.isBehind()));
  readonly columnIds = computed(() => this.columns().map(({ step }) => step.id));
  readonly isMixed = computed(() => this.kinds().length > 1);
  /** Columns side by side that belong to the same kind, or to all. */
  readonly runs = computed(() => {
    const runs: { readonly from: number; readonly title: string; count: number }[] = [];
    this.columns().forEach(({ kinds }, from) => {
      const [kind] = kinds;
      const title = kinds.length === 1 && kind ? linkKinds[kind].title : '';
      const last = runs.at(-1);
      if (last?.title === title) last.count += 1;
      else runs.push({ from, title, count: 1 });
    });
    return runs;
  });

  /** The row that Tab leads to: the one where one was last, or the first that is drawn. */
  readonly reachable = computed(() => {
    const [{ from, to }, at] = [this.range(), this.at()];
    return at >= from && at < to ? at : from;
  });
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  /** The row that is to have the focus once it is drawn; -1: none. */
  private wanted = -1;

  constructor() {
    effect(() => {
      const range = this.range();
      untracked(() => this.reached.emit(range));
    });
    afterRenderEffect(() => {
      this.places();
      if (this.wanted >= 0) untracked(() => this.focusWanted());
    });
  }

  /** Arrows, Home and End lead to other rows, Space opens one in place, Enter leads to its link. */
  hear(event: KeyboardEvent, place: number): void {
    if (!(event.target instanceof HTMLTableRowElement)) return;
    const next = placeAfter(event.key, place, this.count());
    if (next !== null) this.focus(next);
    else if (event.key === ' ') this.chose.emit(place);
    else if (event.key === 'Enter') event.target.querySelector<HTMLElement>('a')?.click();
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  /** Brings a row into sight, and the focus to it, as soon as it is drawn. */
  focus(index: number): void {
    this.inSight.show(index);
    this.wanted = index;
    this.focusWanted();
  }

  private focusWanted(): void {
    const row = this.host.querySelector<HTMLElement>(`tr[data-place="${this.wanted}"]`);
    if (!row) return;
    this.wanted = -1;
    row.focus({ preventScroll: true });
  }
}
