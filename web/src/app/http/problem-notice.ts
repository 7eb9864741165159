import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { ShownProblem } from './problem';
import { Message } from 'primeng/message';

@Component({
  selector: 'hinge-problem',
  imports: [Message],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (problem(); as told) {
      <p-message severity="error">
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
      </p-message>
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
