import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { RightsGapView } from '@loyal-hinge/contract';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { VerdictBar } from '../signs/verdict-bar';
import { gapWords, gradeTones } from './rights-words';

const columns: readonly Column<RightsGapView>[] = [
  { key: 'grade', title: 'Grade', text: ({ grade }) => grade, short: true },
  { key: 'identity', title: 'Who', text: ({ identity }) => identity },
  { key: 'gap', title: 'What', text: gapWords },
  { key: 'pattern', title: 'Nodes', text: ({ pattern }) => pattern, mono: true },
  { key: 'nodes', title: 'How many', text: ({ nodes }) => String(nodes), order: ({ nodes }) => nodes, short: true },
  { key: 'why', title: 'Why', text: ({ why }) => why ?? '' },
];

/** What links need and may not, and what may be done though no link needs it; the gravest first. */
@Component({
  selector: 'hinge-rights-gaps',
  imports: [Ledger, LedgerCell, VerdictBar],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-ledger [columns]="columns()" [rows]="gaps()" [idOf]="idOf" [plain]="true" empty="Nothing stands out here.">
      <ng-template hingeCell="grade" [hingeCellOf]="gaps()" let-gap>
        <hinge-bar [verdict]="tones[gap.grade]" /> <span [class]="tones[gap.grade]">{{ gap.grade }}</span>
      </ng-template>
    </hinge-ledger>
  `,
  styles: `
    hinge-bar {
      vertical-align: -0.1rem;
      margin-right: 0.3rem;
    }
  `,
})
export class RightsGaps {
  readonly gaps = input.required<readonly RightsGapView[]>();
  readonly tones = gradeTones;
  /** Reasons are there only for what is missing. */
  readonly columns = computed(() =>
    this.gaps().some(({ why }) => why !== null) ? columns : columns.filter(({ key }) => key !== 'why'),
  );
  readonly idOf = ({ pattern, identity, right, gap }: RightsGapView): string =>
    `${pattern} ${identity} ${right} ${gap}`;
}
