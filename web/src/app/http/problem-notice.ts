import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import type { ShownProblem } from './problem';

@Component({
  selector: 'hinge-problem',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (problem(); as told) {
      <div class="notice" role="alert">
        <strong>{{ told.title }}.</strong> {{ told.detail }} <span class="faint">{{ told.remedy }}</span>
        @if (told.faults.length > 0) {
          <ul>
            @for (fault of told.faults; track $index) {
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
}
