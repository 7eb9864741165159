import { ChangeDetectionStrategy, Component, computed, input, output, signal } from '@angular/core';
import { saveFile, toCsv } from '../files/csv';
import { valueOf } from '../shell/page-address';
import { lookingFor } from '../shell/words';

export interface Column<Row> {
  readonly key: string;
  readonly title: string;
  readonly text: (row: Row) => string;
  readonly mono?: boolean;
}

/** A table that sorts, filters, hides columns, and saves what it shows. */
@Component({
  selector: 'hinge-ledger',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="tools">
      <input
        type="search"
        placeholder="Filter"
        aria-label="Filter"
        [value]="find()"
        (input)="findChange.emit(valueOf($event))"
      />
      <span class="faint">{{ shown().length }} of {{ rows().length }}</span>
      <span class="gap"></span>
      <details class="columns">
        <summary>Columns</summary>
        <div>
          @for (column of columns(); track column.key) {
            <label
              ><input type="checkbox" [checked]="!hidden().includes(column.key)" (change)="toggle(column.key)" />
              {{ column.title }}</label
            >
          }
        </div>
      </details>
      <button type="button" class="plain" (click)="save()">Save as CSV</button>
    </div>
    <table class="ledger">
      <thead>
        <tr>
          @for (column of visible(); track column.key) {
            <th scope="col" [attr.aria-sort]="by() === column.key ? (down() ? 'descending' : 'ascending') : null">
              <button type="button" class="plain" (click)="sort(column.key)">
                {{ column.title }}{{ by() === column.key ? (down() ? ' ↓' : ' ↑') : '' }}
              </button>
            </th>
          }
          <th scope="col"><span class="unseen">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        @for (row of shown(); track row.id) {
          <tr>
            @for (column of visible(); track column.key) {
              <td [class.mono]="column.mono">{{ column.text(row) }}</td>
            }
            <td class="acts">
              <button type="button" class="plain" [disabled]="!mayChange()" (click)="edit.emit(row.id)">Change</button>
              <button type="button" class="plain" [disabled]="!mayChange()" (click)="remove.emit(row.id)">
                Remove
              </button>
            </td>
          </tr>
        } @empty {
          <tr>
            <td [attr.colspan]="visible().length + 1" class="faint">
              {{ rows().length === 0 ? empty() : 'Nothing fits these words.' }}
            </td>
          </tr>
        }
      </tbody>
    </table>
  `,
  styles: `
    .tools {
      display: flex;
      gap: 0.9rem;
      align-items: center;
      margin-bottom: 0.6rem;
    }
    .gap {
      flex: 1;
    }
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
    .acts {
      white-space: nowrap;
      text-align: right;
    }
    .acts button {
      margin-left: 0.8rem;
    }
    .acts button:disabled {
      color: var(--faint);
    }
    th button {
      color: inherit;
      font-weight: inherit;
    }
    td {
      font-size: 0.93rem;
    }
  `,
})
export class LedgerTable<Row extends { readonly id: string }> {
  readonly columns = input.required<readonly Column<Row>[]>();
  readonly rows = input.required<readonly Row[]>();
  readonly find = input('');
  readonly empty = input('Nothing yet.');
  readonly fileName = input('table');
  readonly mayChange = input(true);
  readonly findChange = output<string>();
  readonly edit = output<string>();
  readonly remove = output<string>();
  readonly by = signal<string | null>(null);
  readonly down = signal(false);
  readonly hidden = signal<readonly string[]>([]);
  readonly visible = computed(() => this.columns().filter((column) => !this.hidden().includes(column.key)));
  readonly shown = computed(() => {
    const fits = lookingFor(this.find());
    const fitting = this.rows().filter((row) => fits(...this.columns().map((column) => column.text(row))));
    const column = this.columns().find(({ key }) => key === this.by());
    if (!column) return fitting;
    const sign = this.down() ? -1 : 1;
    return [...fitting].sort(
      (left, right) => sign * column.text(left).localeCompare(column.text(right), 'en', { numeric: true }),
    );
  });

  readonly valueOf = valueOf;

  sort(key: string): void {
    this.down.set(this.by() === key && !this.down());
    this.by.set(key);
  }

  toggle(key: string): void {
    this.hidden.update((hidden) => (hidden.includes(key) ? hidden.filter((other) => other !== key) : [...hidden, key]));
  }

  save(): void {
    const columns = this.visible();
    const rows = this.shown().map((row) => columns.map((column) => column.text(row)));
    saveFile(
      `${this.fileName()}.csv`,
      'text/csv',
      toCsv(
        columns.map((column) => column.title),
        rows,
      ),
    );
  }
}
