import { ChangeDetectionStrategy, Component, computed, effect, input, output, signal } from '@angular/core';
import { linkKinds } from '@loyal-hinge/core';
import type { LinkKindId } from '@loyal-hinge/core';
import type { Check, CheckDetail } from '@loyal-hinge/contract';
import { HingeSign } from '../signs/hinge-sign';
import { Moment } from '../signs/moment';
import { verdictWords } from '../signs/verdict-bar';

const stateWords: Readonly<Record<Check['state'], string>> = {
  queued: 'waiting',
  running: 'under way',
  done: 'done',
  cancelled: 'cancelled',
  failed: 'not finished',
};

/** Earlier checks of a link; two of them can be laid side by side. */
@Component({
  selector: 'hinge-history',
  imports: [HingeSign, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section>
      <h2>Checks</h2>
      <table class="ledger">
        <thead>
          <tr>
            <th scope="col">When</th>
            <th scope="col">Found</th>
            <th scope="col">Asked by</th>
            <th scope="col">Compare</th>
          </tr>
        </thead>
        <tbody>
          @for (check of shown(); track check.id) {
            <tr>
              <td><hinge-moment [at]="check.askedAt" /></td>
              <td class="found" [title]="check.reason ?? ''">
                @if (check.found) {
                  <hinge-sign [state]="check.found" [size]="16" /> {{ check.found }}
                } @else {
                  {{ words[check.state] }}
                }
              </td>
              <td>{{ check.askedBy }}</td>
              <td>
                <input
                  type="checkbox"
                  [checked]="picked().includes(check.id)"
                  [disabled]="check.state !== 'done'"
                  (change)="pick(check.id)"
                  [attr.aria-label]="'Compare the check of ' + check.askedAt"
                />
              </td>
            </tr>
          } @empty {
            <tr>
              <td colspan="4" class="faint">No check yet.</td>
            </tr>
          }
        </tbody>
      </table>
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
    const picked = this.picked();
    this.picked.set(picked.includes(id) ? picked.filter((other) => other !== id) : [...picked.slice(-1), id]);
  }
}
