import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { FirstSteps } from '../first-steps/first-steps';
import type { ShownProblem } from '../http/problem';
import { ProblemNotice } from '../http/problem-notice';
import { Places } from './places';

/** What stands above every page of a place: the finding, what can be done, the way to the others, why the last wish was refused. */
@Component({
  selector: 'hinge-place-head',
  imports: [FirstSteps, Places, ProblemNotice],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header class="page-head">
      <h1>{{ headline() }}</h1>
      <div class="actions"><ng-content /></div>
    </header>
    <hinge-places [label]="label()" [places]="places()" />
    <hinge-problem [problem]="problem()" />
    <hinge-first-steps />
  `,
})
export class PlaceHead {
  readonly headline = input.required<string>();
  /** What the place is called. */
  readonly label = input.required<string>();
  readonly places = input.required<readonly { readonly path: string; readonly name: string }[]>();
  readonly problem = input.required<ShownProblem | null>();
}
