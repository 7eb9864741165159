import { ChangeDetectionStrategy, Component, input, signal } from '@angular/core';
import { comRights, listed } from '@loyal-hinge/core';
import type { DcomRow } from '@loyal-hinge/contract';
import { Telling } from '../shell/telling';

type Cell = DcomRow['cells'][number];

const words: Readonly<Record<Cell['standing'], string>> = {
  needed: 'needed',
  missing: 'missing',
  given: 'given',
  excess: 'not needed',
  wide: 'too wide',
  none: '–',
  unknown: '?',
};
const tones: Readonly<Record<Cell['standing'], string>> = {
  needed: 'holds',
  missing: 'fails',
  given: '',
  excess: 'weak',
  wide: 'weak',
  none: 'faint',
  unknown: 'faint',
};
const titles = ['near', 'far'] as const;

/** Who may do what with one application: a row a person or group, and why, down to the entry. */
@Component({
  selector: 'hinge-rights-grid',
  imports: [Telling],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <table class="ledger">
      <thead>
        <tr>
          <th scope="col" rowspan="2">Who</th>
          <th scope="colgroup" colspan="2">Launch</th>
          <th scope="colgroup" colspan="2">Activate</th>
          <th scope="colgroup" colspan="2">Access</th>
        </tr>
        <tr>
          @for (right of rights; track right; let index = $index) {
            <th scope="col">
              <span tabindex="0" [hingeTelling]="tellings[index % 2] ?? ''">{{ titles[index % 2] }}</span>
            </th>
          }
        </tr>
      </thead>
      <tbody>
        @for (row of rows(); track row.sid ?? row.name) {
          <tr>
            <th scope="row">
              {{ row.name }}
              @if (row.links.length > 0) {
                <small class="faint">for {{ linksOf(row) }}</small>
              }
            </th>
            @for (cell of row.cells; track cell.right) {
              <td>
                <button
                  type="button"
                  class="plain"
                  [class]="tones[cell.standing]"
                  [attr.aria-expanded]="isOpen(row, cell)"
                  [attr.aria-label]="row.name + ', ' + cell.right + ': ' + words[cell.standing]"
                  (click)="turn(row, cell)"
                >
                  {{ words[cell.standing] }}
                </button>
              </td>
            }
          </tr>
          @if (openCell(row); as cell) {
            <tr class="why">
              <td colspan="7">
                <strong>{{ row.name }}, {{ cell.right }}:</strong> {{ cell.says }}
              </td>
            </tr>
          }
          @if (row.sid === null) {
            <tr class="why">
              <td colspan="7" class="faint">
                In which groups {{ row.name }} is, nobody knows yet: bring what the machine prints of the account.
              </td>
            </tr>
          }
        }
      </tbody>
    </table>
  `,
  styles: `
    table {
      width: 100%;
    }
    th[scope='row'] {
      color: var(--ink);
      font-weight: 500;
      text-align: start;
    }
    th small {
      display: block;
      font-weight: 400;
    }
    td,
    thead th:not(:first-child) {
      width: 11%;
      text-align: start;
    }
    tr.why td {
      background: var(--wash);
      width: auto;
    }
    .holds {
      color: var(--holds);
      font-weight: 600;
    }
    .fails {
      color: var(--fails);
      font-weight: 600;
    }
    .weak {
      color: var(--weak);
      font-weight: 600;
    }
  `,
})
export class RightsGrid {
  readonly rows = input.required<readonly DcomRow[]>();
  readonly rights = comRights;
  readonly titles = titles;
  readonly tellings = ['From the same machine', 'From another machine'] as const;
  readonly words = words;
  readonly tones = tones;
  private readonly open = signal<string | null>(null);
  readonly openCell = (row: DcomRow): Cell | null => row.cells.find((cell) => this.isOpen(row, cell)) ?? null;
  readonly linksOf = ({ links }: DcomRow): string => listed([...links]);

  isOpen(row: DcomRow, cell: Cell): boolean {
    return this.open() === keyOf(row, cell);
  }

  turn(row: DcomRow, cell: Cell): void {
    this.open.update((before) => (before === keyOf(row, cell) ? null : keyOf(row, cell)));
  }
}

const keyOf = ({ sid, name }: DcomRow, { right }: Cell): string => `${sid ?? name} ${right}`;
