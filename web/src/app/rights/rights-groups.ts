import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { byNumber } from '@loyal-hinge/core';
import type { RightsGroupView, RightsView } from '@loyal-hinge/contract';
import { Telling } from '../shell/telling';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { rightsWords } from './rights-words';

/** Nodes with the same rights, a row a group, a column an identity. */
@Component({
  selector: 'hinge-rights-groups',
  imports: [Ledger, LedgerCell, Telling],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-ledger [columns]="columns()" [rows]="told().groups" [idOf]="idOf" [plain]="true" [empty]="empty()">
      <ng-template hingeCell="pattern" [hingeCellOf]="told().groups" let-group>
        <span class="mono" [hingeTelling]="examplesOf(group)">{{ group.pattern }}</span>
        @if (group.fitsOthers) {
          <span class="faint"> and not all that are called so</span>
        }
      </ng-template>
    </hinge-ledger>
    @if (told().groupCount > told().groups.length) {
      <p class="faint">{{ more() }}</p>
    }
  `,
})
export class RightsGroups {
  readonly told = input.required<RightsView>();
  readonly empty = input.required<string>();
  readonly idOf = ({ pattern, rights }: RightsGroupView): string => `${pattern} ${rights.join(',')}`;
  readonly columns = computed<readonly Column<RightsGroupView>[]>(() => [
    { key: 'pattern', title: 'Nodes', text: ({ pattern }) => pattern },
    { key: 'nodes', title: 'How many', text: ({ nodes }) => String(nodes), order: ({ nodes }) => nodes, short: true },
    ...this.told().identities.map(({ name, snapshots }, at) => ({
      key: `identity-${at}`,
      title: name,
      text: ({ rights }: RightsGroupView) => (snapshots.length > 0 ? rightsWords(rights[at] ?? 0) : 'not known'),
    })),
  ]);
  readonly more = computed(() => {
    const hidden = this.told().groupCount - this.told().groups.length;
    return byNumber(
      hidden,
      '# smaller group is not shown: look for less.',
      '# smaller groups are not shown: look for less.',
    );
  });

  examplesOf({ examples, nodes }: RightsGroupView): string {
    const names = examples.map(({ path }) => path).join(', ');
    return nodes > examples.length ? `${names} …` : names;
  }
}
