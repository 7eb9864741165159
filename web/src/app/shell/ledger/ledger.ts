import { NgTemplateOutlet } from '@angular/common';
import type { TemplateRef } from '@angular/core';
import {
  ChangeDetectionStrategy,
  Component,
  computed,
  contentChildren,
  input,
  linkedSignal,
  model,
  output,
} from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MultiSelect } from 'primeng/multiselect';
import { TableModule } from 'primeng/table';
import { toCsv, fitsWords } from '@loyal-hinge/core';
import { saveFile } from '../../files/save-file';
import { FilterLine } from '../filter-line';
import { LedgerCell, LedgerHeading } from './cell';
import { RowKeys } from './row-keys';
import { tableView } from './table-view';

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
  /** Is drawn, and has no words to save; without an order of its own nobody sorts by it. */
  readonly onlyShown?: boolean;
}

/** Of more rows some are drawn at a time. */
const pageRows = 200;
/** Where only rows in sight are drawn: so many are in sight. */
const mostInSight = 10;
const headHeight = 40;

/** A table that sorts, filters, resizes and hides columns, and saves what it shows. */
@Component({
  selector: 'hinge-ledger',
  imports: [NgTemplateOutlet, FormsModule, FilterLine, TableModule, MultiSelect, RowKeys],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (!plain()) {
      <hinge-filter-line [(find)]="find" [what]="what()" (save)="save()">
        <ng-content />
        <ng-container ngProjectAs="[end]">
          <span class="faint">{{ shown().length }} of {{ total() ?? rows().length }}</span>
          <p-multiselect
            [options]="choosable()"
            optionLabel="title"
            optionValue="key"
            [ngModel]="visibleKeys()"
            (ngModelChange)="choose($event)"
            [showHeader]="false"
            [maxSelectedLabels]="0"
            selectedItemsLabel="Columns"
            placeholder="Columns"
            ariaLabel="Columns"
            size="small"
            appendTo="body"
          />
        </ng-container>
      </hinge-filter-line>
    }
    <p-table
      [value]="drawn()"
      [columns]="visible()"
      [rowTrackBy]="sameRow"
      [lazy]="true"
      [lazyLoadOnInit]="false"
      [sortField]="sort()?.by"
      [sortOrder]="sort()?.descending ? -1 : 1"
      (onSort)="sorted($event)"
      [paginator]="rowHeight() === null && paged().rows > pageRows"
      [rows]="pageRows"
      [first]="paged().from"
      [totalRecords]="paged().rows"
      (onPage)="turn($event.first)"
      [showCurrentPageReport]="true"
      currentPageReportTemplate="{first} to {last} of {totalRecords}"
      [scrollable]="true"
      [virtualScroll]="isVirtual()"
      [virtualScrollItemSize]="rowHeight() ?? undefined"
      [scrollHeight]="isVirtual() ? scrollHeight() : undefined"
      [resizableColumns]="true"
      columnResizeMode="expand"
      tableStyleClass="ledger"
      hingeRowKeys
    >
      <ng-template #header>
        <tr>
          @for (column of visible(); track column.key) {
            @if (headings().get(column.key); as heading) {
              <th scope="col" pResizableColumn [class]="'of-' + column.key">
                <ng-container [ngTemplateOutlet]="heading" />
              </th>
            } @else if (column.onlyShown && !column.order) {
              <th scope="col" pResizableColumn [class]="'of-' + column.key">{{ column.title }}</th>
            } @else {
              <th scope="col" pResizableColumn [pSortableColumn]="column.key" [class]="'of-' + column.key">
                <span>{{ column.title }}</span><p-sortIcon [field]="column.key" />
              </th>
            }
          }
          @if (cells().has('acts')) {
            <th scope="col"><span class="unseen">Actions</span></th>
          }
        </tr>
      </ng-template>
      <ng-template #body let-row let-place="rowIndex">
        <tr [tabindex]="place === 0 ? 0 : -1" [style.height.px]="rowHeight()">
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
          <tr class="below">
            <td [attr.colspan]="width()">
              <ng-container
                [ngTemplateOutlet]="cells().get('below') ?? null"
                [ngTemplateOutletContext]="{ $implicit: row }"
              />
            </td>
          </tr>
        }
      </ng-template>
      <ng-template #emptymessage>
        <tr>
          <td [attr.colspan]="width()" class="faint">
            @if (rows().length === 0 && !(looksElsewhere() && find() !== '')) {
              <ng-container [ngTemplateOutlet]="emptyWords" />
            } @else {
              Nothing matches these words.
            }
          </td>
        </tr>
      </ng-template>
    </p-table>
    <ng-template #emptyWords
      ><ng-content select="[empty]">{{ empty() }}</ng-content></ng-template
    >
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
  /** The place of the first row that is here, where the rest stays where the rows come from. */
  readonly from = input<number | null>(null);
  /** Rows are looked for and sorted where they come from, and not once more here. */
  readonly looksElsewhere = input(false);
  /** The table alone: where it is short, and one of several. */
  readonly plain = input(false);
  /** The row below which more stands. */
  readonly open = input<string | null>(null);
  /** What the page’s address calls it, where a page has several. */
  readonly name = input('');
  /** In pixels, where all rows are of one height: only those that are in sight are drawn, however many there are. null: pages. */
  readonly rowHeight = input<number | null>(null);
  /** Rows from another place on are wanted. */
  readonly turned = output<number>();
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
  private readonly view = tableView(computed(() => (this.plain() ? null : this.name())));
  readonly sort = this.view.sort;
  readonly choosable = computed(() => this.columns().filter(({ onlySaved }) => !onlySaved));
  readonly visible = computed(() => this.choosable().filter(({ key }) => !this.view.hidden().includes(key)));
  readonly visibleKeys = computed(() => this.visible().map(({ key }) => key));
  readonly width = computed(() => this.visible().length + (this.cells().has('acts') ? 1 : 0));
  readonly shown = computed(() => {
    const fits = fitsWords(this.looksElsewhere() ? '' : this.find());
    const fitting = this.rows().filter((row) => fits(...this.columns().map(({ text }) => text(row))));
    const sort = this.looksElsewhere() ? null : this.sort();
    const column = this.columns().find(({ key }) => key === sort?.by);
    if (!column) return fitting;
    const sign = sort?.descending ? -1 : 1;
    const order = column.order ?? column.text;
    return [...fitting].sort((left, right) => sign * compared(order(left), order(right)));
  });
  /** A row that comes anew stays where it is, with the focus and whatever is being typed below it. */
  readonly sameRow = (_place: number, row: Row): string => this.idOf()(row);
  readonly pageRows = pageRows;
  /** Turning to another page begins anew when other rows are shown. */
  private readonly turnedTo = linkedSignal({ source: this.shown, computation: () => 0 });
  readonly paged = computed(() =>
    this.from() === null
      ? { from: this.turnedTo(), rows: this.shown().length }
      : { from: this.from() ?? 0, rows: this.total() ?? 0 },
  );
  readonly isVirtual = computed(() => this.rowHeight() !== null && this.shown().length > mostInSight);
  readonly scrollHeight = computed(() => `${headHeight + (this.rowHeight() ?? 0) * mostInSight}px`);
  readonly drawn = computed(() => {
    if (this.rowHeight() !== null) return [...this.shown()];
    const from = this.from() === null ? this.turnedTo() : 0;
    return this.shown().slice(from, from + pageRows);
  });

  sorted({ field, order }: { readonly field: string; readonly order: number }): void {
    const sort = this.sort();
    const descending = order < 0;
    // It tells what it was told, too.
    if (sort?.by !== field || sort.descending !== descending) this.view.sortBy({ by: field, descending });
  }

  choose(keys: readonly string[]): void {
    this.view.hide(this.choosable().flatMap(({ key }) => (keys.includes(key) ? [] : [key])));
  }

  turn(first: number): void {
    if (this.from() === null) this.turnedTo.set(first);
    else this.turned.emit(first);
  }

  save(): void {
    const columns = this.columns().filter(({ key, onlyShown }) => !onlyShown && !this.view.hidden().includes(key));
    const rows = this.shown().map((row) => columns.map(({ text }) => text(row)));
    const header = columns.map(({ title }) => title);
    saveFile(`${this.fileName()}.csv`, 'text/csv', toCsv(header, rows));
  }
}

const compared = (left: number | string, right: number | string): number =>
  typeof left === 'number' && typeof right === 'number'
    ? left - right
    : String(left).localeCompare(String(right), 'en', { numeric: true });
