import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, untracked } from '@angular/core';
import { Store } from '@ngrx/store';
import type { RightsSnapshot } from '@loyal-hinge/contract';
import { Waiting } from '../shell/waiting';
import { may } from '../session/may';
import { Ask } from '../shell/ask';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Tick } from '../shell/tick';
import { withPicked } from '../shell/two-picked';
import { Moment } from '../signs/moment';
import { rightsWords, snapshotWords, whoWords } from './rights-words';
import { rightsActions, rightsFeature } from './state';

const columns: readonly Column<RightsSnapshot>[] = [
  { key: 'askedAt', title: 'When', text: ({ askedAt }) => askedAt, short: true },
  { key: 'who', title: 'As', text: ({ userName }) => whoWords(userName) },
  { key: 'part', title: 'Of', text: ({ part }) => part ?? 'all nodes' },
  { key: 'nodes', title: 'Nodes', text: ({ nodes }) => String(nodes), order: ({ nodes }) => nodes, short: true },
  { key: 'state', title: 'State', text: ({ state }) => snapshotWords[state] },
  { key: 'compare', title: 'Compare', text: () => '', onlyShown: true },
];

/** The snapshots of a server; two of the same identity are compared. */
@Component({
  selector: 'hinge-rights-snapshots',
  imports: [Ledger, LedgerCell, Moment, Tick, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-ledger [columns]="columns" [rows]="snapshots()" [plain]="true" empty="No snapshot was taken yet.">
      <ng-template hingeCell="askedAt" [hingeCellOf]="snapshots()" let-row>
        <hinge-moment [at]="row.askedAt" />
      </ng-template>
      <ng-template hingeCell="part" [hingeCellOf]="snapshots()" let-row>
        @if (row.part) {
          <span class="mono">{{ row.part }}</span>
        } @else {
          all nodes
        }
      </ng-template>
      <ng-template hingeCell="state" [hingeCellOf]="snapshots()" let-row>
        {{ words[row.state] }}{{ counting().has(row.id) ? ', shown above' : '' }}
        @if (row.says) {
          <span class="faint why">{{ row.says }}</span>
        }
      </ng-template>
      <ng-template hingeCell="compare" [hingeCellOf]="snapshots()" let-row>
        <hinge-tick
          [words]="'Compare the snapshot of ' + row.askedAt + ' as ' + whoOf(row)"
          [quiet]="true"
          [on]="picked().includes(row.id)"
          [disabled]="!mayPick(row)"
          (turned)="pick(row.id)"
        />
      </ng-template>
      <ng-template hingeCell="acts" [hingeCellOf]="snapshots()" let-row>
        @if (row.endedAt) {
          <button type="button" class="plain" [disabled]="!mayAct()" (click)="remove(row)">Remove …</button>
        }
      </ng-template>
    </hinge-ledger>
    @if (pair()) {
      <h3>What has changed between them</h3>
      @if (compared().shown; as known) {
        <ul>
          @for (change of known.changes; track change.nodeId + change.change) {
            <li>
              <span class="mono">{{ change.path }}</span>
              <strong [class]="tones[change.change]"> {{ changeWords[change.change] }}</strong>
              {{ say(change.rights) }}
            </li>
          } @empty {
            <li>Nothing: every node that both looked at has the same rights.</li>
          }
          @if (known.total > known.changes.length) {
            <li class="faint">and {{ known.total - known.changes.length }} more</li>
          }
        </ul>
      } @else if (!compared().problem) {
        <hinge-waiting [rows]="2" />
      }
    } @else if (snapshots().length > 1) {
      <p class="faint">Tick two snapshots of the same user to see what has changed between them.</p>
    }
  `,
  styles: `
    .why {
      display: block;
      font-size: 0.86rem;
    }
    h3 {
      margin: 0.8rem 0 0.3rem;
    }
    p {
      margin-top: 0.5rem;
      font-size: 0.9rem;
    }
    ul {
      margin: 0;
      padding-left: 1.1rem;
    }
  `,
})
export class RightsSnapshotsView {
  private readonly store = inject(Store);
  private readonly asks = inject(Ask);
  readonly snapshots = input.required<readonly RightsSnapshot[]>();
  /** Those of which what is shown above is made. */
  readonly counting = input<ReadonlySet<string>>(new Set());
  readonly compared = this.store.selectSignal(rightsFeature.selectCompared);
  readonly mayAct = may('engineer');
  readonly columns = columns;
  readonly words = snapshotWords;
  readonly say = rightsWords;
  readonly changeWords = {
    given: 'now also:',
    taken: 'no more:',
    'new node': 'is new:',
    'node is gone': 'is gone; had:',
  };
  readonly tones = { given: 'weak', taken: 'holds', 'new node': 'weak', 'node is gone': 'unknown' } as const;
  readonly picked = signal<readonly string[]>([]);
  /** The older one first. */
  readonly pair = computed(() => {
    const picked = this.snapshots().filter(({ id }) => this.picked().includes(id));
    const [after, before] = picked;
    return before && after ? { before: before.id, after: after.id } : null;
  });

  constructor() {
    effect(() => {
      const pair = this.pair();
      untracked(() => this.store.dispatch(pair ? rightsActions.compare(pair) : rightsActions.compareNoMore()));
    });
  }

  whoOf = ({ userName }: RightsSnapshot): string => whoWords(userName);

  /** Only what was seen is compared, and only with what the same user saw. */
  mayPick({ id, nodes, userName }: RightsSnapshot): boolean {
    const first = this.snapshots().find((row) => this.picked().includes(row.id));
    return nodes > 0 && (!first || first.userName === userName || this.picked().includes(id));
  }

  pick(id: string): void {
    this.picked.set(withPicked(this.picked(), id));
  }

  remove({ id, userName, nodes }: RightsSnapshot): void {
    this.asks.first({
      title: 'Remove this snapshot?',
      says: `What ${whoWords(userName)} could do with ${nodes} nodes then is forgotten. It can’t be undone.`,
      does: 'Remove',
      run: () => {
        this.picked.set(this.picked().filter((other) => other !== id));
        this.store.dispatch(rightsActions.removeSnapshot({ id }));
      },
    });
  }
}
