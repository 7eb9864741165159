import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { byNumber } from '@loyal-hinge/core';
import type { BenchDescribed } from '@loyal-hinge/contract';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';

type Reference = BenchDescribed['references'][number];

const columns: readonly Column<Reference>[] = [
  { key: 'type', title: 'Reference', text: ({ type, isForward }) => (isForward ? type : `inverse of ${type}`) },
  { key: 'name', title: 'Leads to', text: ({ name }) => name },
  { key: 'nodeClass', title: 'Class', text: ({ nodeClass }) => nodeClass, short: true },
  { key: 'nodeId', title: 'Node id', text: ({ nodeId }) => nodeId, mono: true },
];

/** Attributes and references of a node. */
@Component({
  selector: 'hinge-node-details',
  imports: [Ledger],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header class="sheet-head">
      <h2>{{ isClassic() ? 'Properties' : 'Attributes and references' }} of {{ name() }}</h2>
      <span class="rest"></span>
      <button type="button" class="plain" (click)="left.emit()">Close</button>
    </header>
    <div class="two" [class.one]="isClassic()">
      <dl class="facts">
        @for (attribute of node().attributes; track attribute.name) {
          <dt>{{ attribute.name }}</dt>
          <dd>{{ attribute.value }}</dd>
        } @empty {
          <dd>The server tells nothing of it beside its value.</dd>
        }
      </dl>
      @if (!isClassic()) {
        <div>
          <hinge-ledger
            [columns]="columns"
            [rows]="node().references"
            [idOf]="idOf"
            [plain]="true"
            empty="It has no reference."
          />
          @if (more() > 0) {
            <p class="faint">{{ moreWords() }}</p>
          }
        </div>
      }
    </div>
  `,
  styles: `
    :host {
      display: block;
      border: 1px solid var(--line);
      background: var(--panel);
      padding: 0.6rem 0.9rem;
      margin-bottom: 1rem;
    }
    h2 {
      font-size: 1rem;
    }
    .two {
      display: grid;
      grid-template-columns: minmax(0, 2fr) minmax(0, 3fr);
      gap: 1.4rem;
      align-items: start;
    }
    .two.one {
      grid-template-columns: minmax(0, 1fr);
    }
    dd {
      overflow-wrap: anywhere;
    }
  `,
})
export class NodeDetails {
  readonly node = input.required<BenchDescribed>();
  readonly name = input.required<string>();
  /** Of classic Data Access: an item has properties, and no references. */
  readonly isClassic = input(false);
  readonly left = output();
  readonly columns = columns;
  readonly idOf = ({ type, isForward, nodeId }: Reference): string => `${type} ${isForward} ${nodeId}`;
  readonly more = computed(() => this.node().referenceCount - this.node().references.length);
  readonly moreWords = computed(() =>
    byNumber(this.more(), '# more reference is not shown.', '# more references are not shown.'),
  );
}
