import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import { FirstSteps } from '../first-steps/first-steps';
import type { ShownProblem } from '../http/problem';
import { ProblemNotice } from '../http/problem-notice';
import { trustFeature } from './state';
import { TrustPlaces } from './trust-places';

/** What stands above every page of this place: the finding, what can be done, the way to the others, why the last wish was refused. */
@Component({
  selector: 'hinge-trust-head',
  imports: [ProblemNotice, TrustPlaces, FirstSteps],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header class="page-head">
      <h1>{{ headline() }}</h1>
      <div class="actions"><ng-content /></div>
    </header>
    <hinge-trust-places />
    <hinge-problem [problem]="shown()" />
    <hinge-first-steps />
  `,
})
export class TrustHead {
  private readonly store = inject(Store);
  readonly headline = input.required<string>();
  /** A problem of another place that shows here, where this one has none. */
  readonly otherProblem = input<ShownProblem | null>(null);
  private readonly problem = this.store.selectSignal(trustFeature.selectProblem);
  readonly shown = computed(() => this.problem() ?? this.otherProblem());
}
