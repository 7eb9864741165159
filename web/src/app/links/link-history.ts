import { ChangeDetectionStrategy, Component, computed, effect, input, output, signal } from '@angular/core';
import { linkKinds } from '@loyal-hinge/core';
import type { LinkKindId } from '@loyal-hinge/core';
import type { Check, CheckDetail } from '@loyal-hinge/contract';
import { HingeSign } from '../signs/hinge-sign';
import { Moment } from '../signs/moment';
import { verdictWords } from '../signs/verdict-bar';
import { Telling } from '../shell/telling';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Tick } from '../shell/tick';
import { withPicked } from '../shell/two-picked';

const stateWords: Readonly<Record<Check['state'], string>> = {
  queued: 'waiting',
  running: 'under way',
  done: 'done',
  cancelled: 'cancelled',
  failed: 'not finished',
};

const columns: readonly Column<Check>[] = [
  { key: 'askedAt', title: 'When', text: ({ askedAt }) => askedAt },
  { key: 'found', title: 'Found', text: ({ found, state }) => found ?? stateWords[state] },
  { key: 'askedBy', title: 'Asked by', text: ({ askedBy }) => askedBy },
  { key: 'compare', title: 'Compare', text: () => '', onlyShown: true },
];

/** Earlier checks of a link; two of them can be laid side by side. */
@Component({
  selector: 'hinge-history',
  imports: [HingeSign, Ledger, LedgerCell, Moment, Telling, Tick],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section>
      <h2>Checks</h2>
      <hinge-ledger [columns]="columns" [rows]="shown()" [plain]="true" empty="No check yet.">
        <ng-template hingeCell="askedAt" [hingeCellOf]="shown()" let-check>
          <hinge-moment [at]="check.askedAt" />
        </ng-template>
        <ng-template hingeCell="found" [hingeCellOf]="shown()" let-check>
          <span class="found" [hingeTelling]="check.reason ?? ''">
            @if (check.found) {
              <hinge-sign [state]="check.found" [size]="16" /> {{ check.found }}
            } @else {
              {{ words[check.state] }}
            }
          </span>
        </ng-template>
        <ng-template hingeCell="compare" [hingeCellOf]="shown()" let-check>
          <hinge-tick
            [words]="'Compare the check of ' + check.askedAt"
            [quiet]="true"
            [on]="picked().includes(check.id)"
            [disabled]="check.state !== 'done'"
            (turned)="pick(check.id)"
          />
        </ng-template>
      </hinge-ledger>
      @if (checks().length > most()) {
        <button type="button" class="plain" (click)="most.set(100)">Show all {{ checks().length }}</button>
      }
      @if (pair(); as two) {
        <h3>What changed between them</h3>
        <ul>
          @for (line of differences(); track line) {
            <li>{{ line }}</li>
          } @empty {
            <li>Nothing: every step has the same verdict.</li>
          }
        </ul>
      } @else {
        <p class="faint">Tick two checks to see what changed between them.</p>
      }
    </section>
  `,
  styles: `
    .found {
      white-space: nowrap;
    }
    h2 {
      margin-bottom: 0.5rem;
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
export class LinkHistory {
  readonly kind = input.required<LinkKindId>();
  readonly checks = input.required<readonly Check[]>();
  readonly details = input.required<Readonly<Record<string, CheckDetail>>>();
  readonly read = output<string>();
  readonly words = stateWords;
  readonly columns = columns;
  readonly most = signal(6);
  readonly picked = signal<readonly string[]>([]);
  readonly shown = computed(() => this.checks().slice(0, this.most()));
  readonly pair = computed(() => {
    const [one, other] = this.picked().map((id) => this.details()[id]);
    if (!one || !other) return null;
    return one.check.askedAt < other.check.askedAt ? ([one, other] as const) : ([other, one] as const);
  });
  readonly differences = computed(() => {
    const two = this.pair();
    if (!two) return [];
    const [before, after] = two;
    return linkKinds[this.kind()].steps.flatMap(({ title }, index) => {
      const was = before.assessment.steps[index];
      const is = after.assessment.steps[index];
      if (!was || !is || (was.verdict === is.verdict && was.summary === is.summary && was.verdict === 'holds'))
        return [];
      if (was.verdict === is.verdict && was.findings[0]?.causeId === is.findings[0]?.causeId) return [];
      return [`${title}: ${verdictWords[was.verdict]} before, ${verdictWords[is.verdict]} after. ${is.summary}`];
    });
  });

  constructor() {
    effect(() => {
      for (const id of this.picked()) if (!this.details()[id]) this.read.emit(id);
    });
  }

  pick(id: string): void {
    this.picked.set(withPicked(this.picked(), id));
  }
}
