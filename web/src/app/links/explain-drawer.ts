import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { linkKinds, stepOf } from '@loyal-hinge/core';
import type { Role } from '@loyal-hinge/contract';
import type { FactSource, LinkKindId, Remedy, StepVerdict } from '@loyal-hinge/core';
import { SideSheet } from '../shell/side-sheet';
import { Moment } from '../signs/moment';
import { VerdictBar, verdictWords } from '../signs/verdict-bar';
import { FindingView } from './finding-view';

/** Slides in from the right wherever a verdict is shown: what it means here, how we know, what to do. */
@Component({
  selector: 'hinge-explain',
  imports: [SideSheet, Moment, VerdictBar, FindingView],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-side-sheet [open]="verdict() !== null" [heading]="heading()" (closed)="closed.emit()">
      @if (verdict(); as told) {
        <p class="asks faint">
          {{ step().asks }} <span class="mono">{{ step().clause }}</span>
        </p>
        <p class="lead">
          <hinge-bar [verdict]="told.verdict" /> <strong [class]="told.verdict">{{ word() }}</strong>
        </p>
        @if (told.findings.length === 0) {
          <p>{{ told.summary }}</p>
        }
        @for (finding of told.findings; track finding.causeId) {
          <hinge-finding [finding]="finding" [role]="role()" (mend)="mend.emit($event)" />
        }
        @if (evidence().length > 0) {
          <h3>How we know</h3>
          <ul class="evidence">
            @for (line of evidence(); track line.factId) {
              <li>
                {{ line.says }}
                <span class="faint"
                  >{{ sources[line.source] }}{{ line.seenBy ? ' by the probe ' + line.seenBy : '' }},
                  <hinge-moment [at]="line.at"
                /></span>
              </li>
            }
          </ul>
        } @else if (told.findings.length === 0) {
          <p class="faint">There is no fact about this step: the check stopped at an earlier step.</p>
        }
      }
    </hinge-side-sheet>
  `,
  styles: `
    .lead {
      display: flex;
      gap: 0.5rem;
      align-items: center;
    }
    .evidence {
      padding-left: 1.1rem;
    }
    .evidence li {
      margin-bottom: 0.45rem;
      overflow-wrap: anywhere;
    }
    h3 {
      margin: 1rem 0 0.3rem;
    }
  `,
})
export class ExplainDrawer {
  readonly verdict = input.required<StepVerdict | null>();
  readonly kind = input.required<LinkKindId>();
  readonly role = input<Role>('administrator');
  readonly closed = output();
  readonly mend = output<Remedy>();
  readonly sources = sourceWords;
  readonly step = computed(() =>
    stepOf(this.kind(), this.verdict()?.step ?? linkKinds[this.kind()].steps[0]?.id ?? 'name'),
  );
  /** What the step rests on, and what made its causes fire; each fact once. */
  readonly evidence = computed(() => {
    const told = this.verdict();
    const lines = [...(told?.evidence ?? []), ...(told?.findings ?? []).flatMap((finding) => finding.evidence)];
    return [...new Map(lines.map((line) => [line.factId, line])).values()];
  });
  readonly heading = computed(() => `${this.step().number}. ${this.step().title}`);
  readonly word = computed(() => verdictWords[this.verdict()?.verdict ?? 'unknown']);
}

export const sourceWords: Readonly<Record<FactSource, string>> = {
  tried: 'tried',
  reckoned: 'calculated from other facts',
  reported: 'reported',
};
