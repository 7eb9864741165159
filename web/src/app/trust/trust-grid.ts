import type { ElementRef } from '@angular/core';
import {
  ChangeDetectionStrategy,
  ChangeDetectorRef,
  Component,
  computed,
  inject,
  input,
  linkedSignal,
  output,
  signal,
  viewChild,
} from '@angular/core';
import { DOCUMENT } from '@angular/common';
import { RouterLink } from '@angular/router';
import type { GridCellView } from '@loyal-hinge/contract';
import type { ShownGrid, ShownRow } from './grid-view';
import { TrustMark } from './trust-mark';
import { Telling } from '../shell/telling';

/** Who (rows) trusts whom (columns). One cell at a time takes the keyboard; the arrows move it. */
@Component({
  selector: 'hinge-trust-grid',
  imports: [Telling, RouterLink, TrustMark],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="frame" #frame (scroll)="look()">
      <table
        role="grid"
        tabindex="-1"
        aria-label="Who trusts whom"
        (keydown)="move($event)"
        (click)="chooseAt($event)"
        (focusin)="take($event)"
      >
        <thead>
          <tr>
            <th scope="col" class="corner"><span class="unseen">Application</span></th>
            @if (range().from > 0) {
              <th class="room" aria-hidden="true" [style.min-width.px]="range().from * columnWidth"></th>
            }
            @for (column of drawn(); track column.thumbprint) {
              <th
                scope="col"
                [class.authority]="column.isAuthority"
                [class.stranger]="column.shownBy.length === 0 && !column.isUser"
                [class.user]="column.isUser"
              >
                <a
                  [routerLink]="
                    column.isUser ? ['/entry/user-certificates'] : ['/trust/certificates', column.thumbprint]
                  "
                  [hingeTelling]="column.subject + (column.revoked ? ' (revoked)' : '')"
                  [class.revoked]="column.revoked"
                  >{{ column.name }}</a
                >
              </th>
            }
            @if (range().after > 0) {
              <th class="room" aria-hidden="true" [style.min-width.px]="range().after * columnWidth"></th>
            }
          </tr>
        </thead>
        @for (group of grid().zones; track group.zone) {
          <tbody>
            <tr class="zone">
              <th scope="rowgroup" [attr.colspan]="drawn().length + 3">
                <button
                  type="button"
                  class="plain"
                  [attr.aria-expanded]="!folded().includes(group.zone)"
                  (click)="fold.emit(group.zone)"
                >
                  {{ folded().includes(group.zone) ? '+' : '−' }} {{ group.zone }}
                  <span class="faint">{{ group.rows.length }}</span>
                </button>
              </th>
            </tr>
            @for (row of folded().includes(group.zone) ? [] : group.rows; track row.party.applicationId) {
              <tr>
                <th scope="row">
                  <a [routerLink]="['/trust/lists', row.party.applicationId]">{{ row.party.name }}</a>
                  @if (row.party.reading) {
                    <span class="faint"> reading …</span>
                  } @else if (row.party.fault) {
                    <span class="weak" [hingeTelling]="row.party.fault"> not reached</span>
                  } @else if (row.party.way === 'unknown') {
                    <span class="faint"> way not known</span>
                  }
                </th>
                @if (range().from > 0) {
                  <td class="room" aria-hidden="true"></td>
                }
                @for (column of drawn(); track column.thumbprint) {
                  <td
                    role="gridcell"
                    [id]="idOf(row, column.thumbprint)"
                    [attr.tabindex]="idOf(row, column.thumbprint) === at() ? 0 : -1"
                    [attr.aria-label]="labelOf(row, column.thumbprint, column.name)"
                    [class.chosen]="isChosen(row, column.thumbprint)"
                  >
                    @if (row.cells.get(column.thumbprint); as cell) {
                      <hinge-trust-mark [cell]="cell" />
                    }
                  </td>
                }
                @if (range().after > 0) {
                  <td class="room" aria-hidden="true"></td>
                }
              </tr>
            }
          </tbody>
        }
      </table>
    </div>
  `,
  styles: `
    .frame {
      overflow: auto;
      max-height: calc(100vh - 13rem);
      background: var(--panel);
      border: 1px solid var(--line);
    }
    table {
      border-collapse: separate;
      border-spacing: 0;
      width: 100%;
    }
    thead th {
      position: sticky;
      top: 0;
      z-index: 1;
      background: var(--panel);
      border-bottom: 1px solid var(--line);
      height: 12.9rem;
      padding: 0;
      vertical-align: bottom;
      min-width: 24px;
    }
    thead a {
      writing-mode: vertical-rl;
      transform: rotate(180deg);
      display: inline-block;
      vertical-align: bottom;
      max-height: 12.6rem;
      overflow: hidden;
      line-height: 1.15;
      text-wrap: balance;
      text-align: start;
      font-size: 0.82rem;
      font-weight: 400;
      color: var(--ink);
      text-decoration: none;
      padding: 0.3rem 0.12rem;
    }
    thead a:hover {
      text-decoration: underline;
    }
    .authority a {
      font-weight: 650;
    }
    .stranger a {
      color: var(--faint);
    }
    .user a {
      color: var(--lake);
    }
    thead th a.revoked {
      text-decoration: line-through;
      color: var(--fails);
    }
    th[scope='row'],
    .corner {
      position: sticky;
      left: 0;
      background: var(--panel);
      text-align: left;
      font-weight: 500;
      font-size: 0.88rem;
      white-space: nowrap;
      padding: 0 0.7rem;
      width: 1%;
      border-right: 1px solid var(--line);
    }
    .corner {
      z-index: 2;
    }
    th[scope='row'] a {
      color: var(--ink);
      text-decoration: none;
    }
    th[scope='row'] a:hover {
      text-decoration: underline;
    }
    th[scope='row'] span {
      font-size: 0.8rem;
      font-weight: 400;
    }
    .zone th {
      text-align: left;
      font-size: 0.8rem;
      color: var(--faint);
      padding: 0.35rem 0.7rem 0.1rem;
      background: var(--wash);
      font-weight: 600;
    }
    .zone button {
      color: inherit;
      font-weight: inherit;
      position: sticky;
      left: 0.7rem;
    }
    .zone .faint {
      font-weight: 400;
      margin-left: 0.3rem;
    }
    td {
      width: 24px;
      height: 23px;
      text-align: center;
      padding: 0;
      cursor: pointer;
      line-height: 0;
      border-right: 1px solid color-mix(in srgb, var(--line) 45%, transparent);
      border-bottom: 1px solid color-mix(in srgb, var(--line) 45%, transparent);
    }
    td.room {
      cursor: default;
      border: 0;
      background: none;
    }
    td:hover:not(.room),
    td.chosen {
      background: var(--wash);
    }
    td:focus-visible {
      outline-offset: -2px;
    }
  `,
})
export class TrustGridView {
  private readonly document = inject(DOCUMENT);
  private readonly changes = inject(ChangeDetectorRef);
  readonly grid = input.required<ShownGrid>();
  readonly chosen = input<string>('');
  /** Zones of which only the name is shown. */
  readonly folded = input<readonly string[]>([]);
  readonly fold = output<string>();
  readonly pick = output<{ holderId: string; thumbprint: string }>();
  readonly columnWidth = columnWidth;
  private readonly frame = viewChild<ElementRef<HTMLElement>>('frame');
  /** The first column in sight, and how many fit beside it. */
  private readonly sight = signal({ from: 0, count: firstColumns });
  /** Which columns are drawn, and how many stand behind them: a grid of hundreds is drawn where it is looked at. */
  readonly range = computed(() => {
    const { length } = this.grid().columns;
    const { from, count } = this.sight();
    if (length <= firstColumns) return { from: 0, to: length, after: 0 };
    const first = Math.max(0, Math.min(from - spareColumns, length - count));
    const to = Math.min(length, from + count + spareColumns);
    return { from: first, to, after: length - to };
  });
  readonly drawn = computed(() => this.grid().columns.slice(this.range().from, this.range().to));
  private readonly rows = computed(() =>
    this.grid().zones.flatMap(({ zone, rows }) => (this.folded().includes(zone) ? [] : rows)),
  );
  /** The cell that takes the keyboard. */
  readonly at = linkedSignal(() => {
    const [row, column] = [this.rows()[0], this.grid().columns[0]];
    return row && column ? this.idOf(row, column.thumbprint) : '';
  });

  idOf = ({ party }: ShownRow, thumbprint: string): string => `cell-${party.applicationId}-${thumbprint}`;

  isChosen = ({ party }: ShownRow, thumbprint: string): boolean =>
    this.chosen() === `${party.applicationId} ${thumbprint}`;

  labelOf({ party, cells }: ShownRow, thumbprint: string, name: string): string {
    const cell = cells.get(thumbprint);
    return `${party.name}, ${name}: ${cell ? wordsOf(cell) : 'not at all'}`;
  }

  /** One listener for thousands of cells. */
  chooseAt({ target }: Event): void {
    const cell = target instanceof Element ? target.closest('td[role=gridcell]') : null;
    if (!cell) return;
    for (const row of this.rows())
      for (const { thumbprint } of this.drawn())
        if (this.idOf(row, thumbprint) === cell.id) {
          this.choose(row, thumbprint);
          return;
        }
  }

  take({ target }: Event): void {
    if (target instanceof HTMLTableCellElement && target.getAttribute('role') === 'gridcell') this.at.set(target.id);
  }

  choose({ party }: ShownRow, thumbprint: string): void {
    this.pick.emit({ holderId: party.applicationId, thumbprint });
  }

  move(event: KeyboardEvent): void {
    const [down, right] = steps[event.key] ?? [0, 0];
    const { columns } = this.grid();
    const rows = this.rows();
    const row = rows.findIndex((one) => columns.some(({ thumbprint }) => this.idOf(one, thumbprint) === this.at()));
    const column = columns.findIndex(({ thumbprint }) => rows[row] && this.idOf(rows[row], thumbprint) === this.at());
    const [atRow, atColumn] = [rows[row], columns[column]];
    if (event.key === 'Enter' && atRow && atColumn && event.target instanceof HTMLTableCellElement) {
      event.preventDefault();
      event.stopPropagation();
      this.choose(atRow, atColumn.thumbprint);
    }
    if (down === 0 && right === 0) return;
    event.preventDefault();
    const [nextRow, nextColumn] = [rows[row + down], columns[column + right]];
    if (!nextRow || !nextColumn) return;
    this.at.set(this.idOf(nextRow, nextColumn.thumbprint));
    this.bringIntoSight(column + right);
    this.document.getElementById(this.at())?.focus();
  }

  /** Draws the columns that were scrolled to. */
  look(): void {
    const frame = this.frame()?.nativeElement;
    if (!frame) return;
    const from = Math.floor(frame.scrollLeft / columnWidth / spareColumns) * spareColumns;
    const count = Math.ceil(frame.clientWidth / columnWidth);
    const { from: before, count: had } = this.sight();
    if (from !== before || count > had) this.sight.set({ from, count: Math.max(count, firstColumns) });
  }

  private bringIntoSight(column: number): void {
    const { from, to } = this.range();
    if (column >= from && column < to) return;
    const frame = this.frame()?.nativeElement;
    if (frame) frame.scrollLeft = Math.max(0, column - spareColumns) * columnWidth;
    this.sight.update(({ count }) => ({ from: Math.max(0, column - spareColumns), count }));
    this.changes.detectChanges();
  }
}

/** Of one column with its line, in pixels. */
const columnWidth = 25;
/** Grids of so many columns are drawn as a whole. */
const firstColumns = 48;
const spareColumns = 8;

const steps: Readonly<Record<string, readonly [number, number]>> = {
  ArrowDown: [1, 0],
  ArrowUp: [-1, 0],
  ArrowRight: [0, 1],
  ArrowLeft: [0, -1],
};

/** What a cell shows, in words. */
export const wordsOf = ({ standing, status, linkIds }: GridCellView): string =>
  [
    standingWords[standing],
    ...(status !== 'Good' && standing !== 'not at all' && status !== '' ? ['refused'] : []),
    ...(linkIds.length > 0 ? ['needed'] : []),
  ].join(', ');

const standingWords: Readonly<Record<GridCellView['standing'], string>> = {
  directly: 'trusted directly',
  'through an issuer': 'trusted through an issuer',
  'set aside': 'set aside',
  'not at all': 'not trusted',
  'not known': 'not known',
};
