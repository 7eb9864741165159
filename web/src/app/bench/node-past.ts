import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { byNumber } from '@loyal-hinge/core';
import type { BenchHistory } from '@loyal-hinge/contract';
import { ChoiceField } from '../shell/choice';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Waiting } from '../shell/waiting';
import { Moment } from '../signs/moment';
import { Trend } from './trend';

type Value = BenchHistory['values'][number];

const spans = [
  { key: '10', word: '10 minutes' },
  { key: '60', word: 'hour' },
  { key: '480', word: '8 hours' },
  { key: '1440', word: 'day' },
  { key: '10080', word: '7 days' },
] as const;

const columns: readonly Column<Value>[] = [
  { key: 'at', title: 'Source time', text: ({ at }) => at ?? 'none' },
  { key: 'value', title: 'Value', text: ({ value }) => value ?? 'none', mono: true },
  { key: 'code', title: 'Status', text: ({ code }) => code },
];

/** Values of a node that its server has recorded, drawn and listed. */
@Component({
  selector: 'hinge-node-past',
  imports: [ChoiceField, Ledger, LedgerCell, Moment, Trend, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section class="sheet">
      <header class="sheet-head">
        <h2>Recorded values of {{ name() }}</h2>
        <hinge-choice
          word="of the last"
          label="Of which span"
          [choices]="spans"
          [chosen]="chosen()"
          (chose)="span.emit(+$event)"
        />
        <span class="rest"></span>
        <button type="button" class="plain" (click)="left.emit()">Close</button>
      </header>
      @if (history(); as known) {
        <p [class.fails]="known.code.startsWith('Bad')">{{ words() }}</p>
        @if (points().length > 1) {
          <hinge-trend [name]="name()" [unit]="unit()" [points]="points()" [canClose]="false" />
        }
        @if (known.values.length > 0) {
          <hinge-ledger
            class="bounded"
            [columns]="columns"
            [rows]="newest()"
            [idOf]="idOf"
            fileName="recorded-values"
            what="any time, value, status"
            empty="No value fits."
          >
            <ng-template hingeCell="at" [hingeCellOf]="newest()" let-row>
              @if (row.at) {
                <hinge-moment [at]="row.at" />
              }
            </ng-template>
          </hinge-ledger>
        }
      } @else {
        <hinge-waiting [rows]="3" />
      }
    </section>
  `,
  styles: `
    .sheet {
      margin-bottom: 1.2rem;
    }
  `,
})
export class NodePast {
  readonly name = input.required<string>();
  readonly unit = input('');
  readonly minutes = input.required<number>();
  readonly history = input.required<BenchHistory | null>();
  readonly span = output<number>();
  readonly left = output();
  readonly spans = spans;
  readonly columns = columns;
  readonly chosen = computed(() => String(this.minutes()));
  readonly points = computed(() =>
    (this.history()?.values ?? []).flatMap(({ at, number }) =>
      at !== null && number !== null ? [{ at: Date.parse(at), value: number }] : [],
    ),
  );
  readonly newest = computed(() => [...(this.history()?.values ?? [])].reverse());
  readonly idOf = (row: Value): string => `${row.at ?? ''} ${row.value ?? ''}`;
  readonly words = computed(() => {
    const known = this.history();
    if (!known) return '';
    if (known.code.startsWith('Bad')) return known.status;
    if (known.values.length === 0) return 'The server has recorded nothing in this span.';
    const odd = known.values.filter(({ code }) => code !== 'Good').length;
    return [
      byNumber(known.values.length, '# value.', '# values.'),
      ...(odd === 0 ? [] : [byNumber(odd, '# of them is not good.', '# of them are not good.')]),
      ...(known.hasMore ? ['There are more in this span: choose a shorter one to see the newest.'] : []),
    ].join(' ');
  });
}
