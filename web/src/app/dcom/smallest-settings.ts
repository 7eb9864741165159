import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import { listed, registryFileBytes } from '@loyal-hinge/core';
import type { SmallestView } from '@loyal-hinge/contract';
import { saveBlob } from '../files/save-blob';
import { ProblemNotice } from '../http/problem-notice';
import { orderActions, ordersFeature } from '../orders/state';
import { may } from '../session/may';

const longestWhy = 1000;

/** The least that lets every link of a machine work: the change in words, before and after, and the files for it. */
@Component({
  selector: 'hinge-smallest-settings',
  imports: [ProblemNotice],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section>
      <h2>The smallest settings</h2>
      @for (note of smallest().notes; track note) {
        <p class="weak">{{ note }}</p>
      }
      @if (smallest().changes.length === 0) {
        <p class="faint">
          {{
            smallest().notes.length === 0
              ? 'Nothing has to be changed: what links need is given, and no more.'
              : 'Nothing else has to be changed.'
          }}
        </p>
      } @else {
        @for (change of smallest().changes; track change.what) {
          <article>
            <h3>{{ change.what }}</h3>
            <ul>
              @for (says of change.says; track says) {
                <li>{{ says }}</li>
              }
            </ul>
            <dl>
              <div>
                <dt>Before</dt>
                <dd class="mono">{{ change.before ?? 'none of its own' }}</dd>
              </div>
              <div>
                <dt>After</dt>
                <dd class="mono">{{ change.after }}</dd>
              </div>
            </dl>
          </article>
        }
        <p>{{ turns() }}</p>
        @if (smallest().restarts.length > 0) {
          <p>Counts once these were started anew: {{ smallest().restarts.join(', ') }}.</p>
        }
        <hinge-problem [problem]="problem()" />
        <p class="actions">
          <button type="button" class="act main" [disabled]="!mayAct()" (click)="propose()">
            Propose a work order
          </button>
          <button type="button" class="act" (click)="save('apply')">Save the file that changes it</button>
          <button type="button" class="act" (click)="save('undo')">Save the file that takes it back</button>
        </p>
        <p class="faint">
          A work order keeps before and after, who approved it and who did it, and asks for checks of the links. On the
          machine, an administrator puts a file in force with <code>reg import</code>; new exports prove it.
        </p>
      }
    </section>
  `,
  styles: `
    article {
      margin: 0.8rem 0;
    }
    ul {
      margin: 0.2rem 0;
      padding-inline-start: 1.2rem;
    }
    dl {
      margin: 0.2rem 0;
    }
    dl div {
      display: grid;
      grid-template-columns: 5rem 1fr;
    }
    dd {
      margin: 0;
      overflow-wrap: anywhere;
    }
    .weak {
      color: var(--weak);
      font-weight: 600;
    }
    .actions {
      display: flex;
      gap: 0.6rem;
    }
  `,
})
export class SmallestSettings {
  readonly smallest = input.required<SmallestView>();
  /** The machine whose settings they are. */
  readonly machineId = input.required<string>();
  readonly machine = input.required<string>();
  private readonly store = inject(Store);
  readonly mayAct = may('engineer');
  /** Why a work order could not be proposed; null: it was, or nobody did. */
  readonly problem = this.store.selectSignal(ordersFeature.selectProblem);

  constructor() {
    this.store.dispatch(orderActions.begin());
  }

  /** Which links turn by it, in a sentence. */
  readonly turns = computed(() => {
    const of = (isGained: boolean): readonly string[] =>
      this.smallest().turns.flatMap((turn) => (turn.isGained === isGained ? turn.link : []));
    const [gained, lost] = [of(true), of(false)];
    const gains = gained.length === 0 ? 'No link gains a right' : `Afterwards ${listed(gained)} can do what is needed`;
    return `${gains}; ${lost.length === 0 ? 'no link loses one' : `${listed(lost)} can’t any more`}.`;
  });

  propose(): void {
    this.store.dispatch(
      orderActions.propose({
        order: {
          title: `Smallest DCOM settings of ${this.machine()}`,
          lines: this.smallest().changes.map(({ change, linkIds, says }) => ({
            change,
            why: says.join(' ').slice(0, longestWhy),
            linkIds,
          })),
        },
      }),
    );
  }

  save(which: 'apply' | 'undo'): void {
    const bytes = registryFileBytes(this.smallest()[which]);
    saveBlob(`${this.machineId()}-${which === 'apply' ? 'change' : 'back'}.reg`, new Blob([Uint8Array.from(bytes)]));
  }
}
