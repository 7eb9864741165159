import { NgTemplateOutlet } from '@angular/common';
import type { TemplateRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, computed, contentChildren, input, model, signal } from '@angular/core';
import { toCsv } from '@loyal-hinge/core';
import { saveFile } from '../../files/save-file';
import { FilterLine } from '../filter-line';
import { lookingFor } from '../words';
import { LedgerCell, LedgerHeading } from './cell';

export interface Column<Row> {
  readonly key: string;
  readonly title: string;
  /** What is filtered by, saved, and shown where the page has no other way of showing it. */
  readonly text: (row: Row) => string;
  /** What is sorted by, where that is not the text. */
  readonly order?: (row: Row) => number | string;
  readonly mono?: boolean;
  /** It is never broken into lines. */
  readonly short?: boolean;
  /** Stands only in the saved file. */
  readonly onlySaved?: boolean;
  /** Is drawn, and has no words to save. */
  readonly onlyShown?: boolean;
}

/** A table that sorts, filters, hides columns, and saves what it shows. */
@Component({
  selector: 'hinge-ledger',
  imports: [NgTemplateOutlet, FilterLine],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (!plain()) {
      <hinge-filter-line [(find)]="find" [what]="what()" (save)="save()">
        <ng-content />
        <ng-container ngProjectAs="[end]">
          <span class="faint">{{ shown().length }} of {{ total() ?? rows().length }}</span>
          <details class="columns">
            <summary>Columns</summary>
            <div>
              @for (column of shownColumns(); track column.key) {
                <label
                  ><input type="checkbox" [checked]="!hidden().includes(column.key)" (change)="toggle(column.key)" />
                  {{ column.title }}</label
                >
              }
            </div>
          </details>
        </ng-container>
      </hinge-filter-line>
    }
    <table class="ledger">
      <thead>
        <tr>
          @for (column of visible(); track column.key) {
            <th
              scope="col"
              [class]="'of-' + column.key"
              [attr.aria-sort]="by() === column.key ? (down() ? 'descending' : 'ascending') : null"
            >
              @if (headings().get(column.key); as heading) {
                <ng-container [ngTemplateOutlet]="heading" />
              } @else {
                <button type="button" class="plain" (click)="sort(column.key)">
                  {{ column.title }}{{ by() === column.key ? (down() ? ' ↓' : ' ↑') : '' }}
                </button>
              }
            </th>
          }
          @if (cells().has('acts')) {
            <th scope="col"><span class="unseen">Actions</span></th>
          }
        </tr>
      </thead>
      <tbody>
        @for (row of shown(); track idOf()(row)) {
          <tr>
            @for (column of visible(); track column.key) {
              <td [class]="'of-' + column.key" [class.mono]="column.mono" [class.short]="column.short">
                @if (cells().get(column.key); as cell) {
                  <ng-container [ngTemplateOutlet]="cell" [ngTemplateOutletContext]="{ $implicit: row }" />
                } @else {
                  {{ column.text(row) }}
                }
              </td>
            }
            @if (cells().get('acts'); as acts) {
              <td class="acts">
                <ng-container [ngTemplateOutlet]="acts" [ngTemplateOutletContext]="{ $implicit: row }" />
              </td>
            }
          </tr>
          @if (open() === idOf()(row)) {
            <tr>
              <td [attr.colspan]="width()">
                <ng-container
                  [ngTemplateOutlet]="cells().get('below') ?? null"
                  [ngTemplateOutletContext]="{ $implicit: row }"
                />
              </td>
            </tr>
          }
        } @empty {
          <tr>
            <td [attr.colspan]="width()" class="faint">
              @if (rows().length === 0 && !(looksElsewhere() && find() !== '')) {
                <ng-content select="[empty]">{{ empty() }}</ng-content>
              } @else {
                Nothing fits these words.
              }
            </td>
          </tr>
        }
      </tbody>
    </table>
  `,
  styles: `
    .columns {
      position: relative;
    }
    .columns summary {
      cursor: pointer;
      color: var(--lake);
    }
    .columns div {
      position: absolute;
      right: 0;
      z-index: 2;
      background: var(--panel);
      border: 1px solid var(--line);
      padding: 0.5rem 0.8rem;
      display: grid;
      gap: 0.2rem;
      white-space: nowrap;
    }
    th button {
      color: inherit;
      font-weight: inherit;
      text-align: left;
    }
    td {
      font-size: 0.93rem;
    }
  `,
})
export class Ledger<Row> {
  readonly columns = input.required<readonly Column<Row>[]>();
  readonly rows = input.required<readonly Row[]>();
  readonly idOf = input<(row: Row) => string>((row) => (row as { readonly id: string }).id);
  readonly find = model('');
  /** What the words are looked for in. */
  readonly what = input('any column');
  readonly empty = input('Nothing yet.');
  readonly fileName = input('table');
  /** How many rows fit, where not all of them are here. */
  readonly total = input<number | null>(null);
  /** The words are looked for where the rows come from, and not once more here. */
  readonly looksElsewhere = input(false);
  /** The table alone: where it is short, and one of several. */
  readonly plain = input(false);
  /** The row below which more stands. */
  readonly open = input<string | null>(null);
  private readonly cellTemplates = contentChildren<LedgerCell<Row>>(LedgerCell);
  private readonly headingTemplates = contentChildren(LedgerHeading);
  readonly cells = computed(
    () =>
      new Map<string, TemplateRef<unknown>>(
        this.cellTemplates().map(({ hingeCell, template }) => [hingeCell(), template]),
      ),
  );
  readonly headings = computed(
    () => new Map(this.headingTemplates().map(({ hingeHeading, template }) => [hingeHeading(), template])),
  );
  readonly by = signal<string | null>(null);
  readonly down = signal(false);
  readonly hidden = signal<readonly string[]>([]);
  readonly shownColumns = computed(() => this.columns().filter(({ onlySaved }) => !onlySaved));
  readonly visible = computed(() => this.shownColumns().filter(({ key }) => !this.hidden().includes(key)));
  readonly width = computed(() => this.visible().length + (this.cells().has('acts') ? 1 : 0));
  readonly shown = computed(() => {
    const fits = lookingFor(this.looksElsewhere() ? '' : this.find());
    const fitting = this.rows().filter((row) => fits(...this.columns().map(({ text }) => text(row))));
    const column = this.columns().find(({ key }) => key === this.by());
    if (!column) return fitting;
    const sign = this.down() ? -1 : 1;
    const order = column.order ?? column.text;
    return [...fitting].sort((left, right) => sign * compared(order(left), order(right)));
  });

  sort(key: string): void {
    this.down.set(this.by() === key && !this.down());
    this.by.set(key);
  }

  toggle(key: string): void {
    this.hidden.update((hidden) => (hidden.includes(key) ? hidden.filter((other) => other !== key) : [...hidden, key]));
  }

  save(): void {
    const columns = this.columns().filter(({ key, onlyShown }) => !onlyShown && !this.hidden().includes(key));
    const rows = this.shown().map((row) => columns.map(({ text }) => text(row)));
    const header = columns.map(({ title }) => title);
    saveFile(`${this.fileName()}.csv`, 'text/csv', toCsv(header, rows));
  }
}

const compared = (left: number | string, right: number | string): number =>
  typeof left === 'number' && typeof right === 'number'
    ? left - right
    : String(left).localeCompare(String(right), 'en', { numeric: true });
