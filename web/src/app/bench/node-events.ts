import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { byNumber } from '@loyal-hinge/core';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Moment } from '../signs/moment';
import type { HeardEvent } from './state';

const columns: readonly Column<HeardEvent>[] = [
  { key: 'at', title: 'Time', text: ({ at }) => at ?? 'none' },
  { key: 'severity', title: 'Severity', text: ({ severity }) => String(severity), order: ({ severity }) => severity },
  { key: 'sourceName', title: 'Source', text: ({ sourceName }) => sourceName },
  { key: 'message', title: 'Message', text: ({ message }) => message },
];

/** Alarms and events of a node, as they come. */
@Component({
  selector: 'hinge-node-events',
  imports: [Ledger, LedgerCell, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section class="sheet">
      <header class="sheet-head">
        <h2>Alarms and events of {{ name() }}</h2>
        <span class="faint rest" role="status">{{ says() }} {{ leftOut() }}</span>
        <button type="button" class="plain" (click)="left.emit()">Stop listening</button>
      </header>
      <hinge-ledger
        class="bounded"
        [columns]="columns"
        [rows]="events()"
        [idOf]="idOf"
        fileName="events"
        what="any source, message"
        empty="No event has come yet."
      >
        <ng-template hingeCell="at" [hingeCellOf]="events()" let-row>
          @if (row.at) {
            <hinge-moment [at]="row.at" />
          }
        </ng-template>
      </hinge-ledger>
    </section>
  `,
  styles: `
    .sheet {
      margin-bottom: 1.2rem;
    }
  `,
})
export class NodeEvents {
  readonly name = input.required<string>();
  readonly says = input.required<string>();
  /** So many are left out. */
  readonly skipped = input(0);
  readonly leftOut = computed(() =>
    this.skipped() === 0
      ? ''
      : byNumber(
          this.skipped(),
          '# event is left out: more came than can be shown.',
          '# events are left out: more came than can be shown.',
        ),
  );
  readonly events = input.required<readonly HeardEvent[]>();
  readonly left = output();
  readonly columns = columns;
  readonly idOf = ({ number }: HeardEvent): string => String(number);
}
