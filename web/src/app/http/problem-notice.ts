import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { ShownProblem } from './problem';

@Component({
  selector: 'hinge-problem',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (problem(); as told) {
      <div class="notice" role="alert">
        <strong>{{ told.title }}.</strong> {{ told.detail }} <span class="faint">{{ told.remedy }}</span>
        @if (more().length > 0) {
          <ul>
            @for (fault of more(); track $index) {
              <li>
                <code>{{ fault.place }}</code>: {{ fault.says }}
              </li>
            }
          </ul>
        }
      </div>
    }
  `,
})
export class ProblemNotice {
  readonly problem = input.required<ShownProblem | null>();
  /** What the sentence does not say already. */
  readonly more = computed(() => {
    const problem = this.problem();
    const { detail = '', faults = [] } = problem ?? {};
    return faults.length === 1 && faults.every(({ says }) => detail.includes(says)) ? [] : faults;
  });
}
