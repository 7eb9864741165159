import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import { FirstSteps } from '../first-steps/first-steps';
import type { ShownProblem } from '../http/problem';
import { ProblemNotice } from '../http/problem-notice';
import { Places } from '../shell/places';
import { trustFeature } from './state';

const places = [
  { path: '/trust', name: 'Who trusts whom' },
  { path: '/trust/set-aside', name: 'Set aside' },
  { path: '/trust/horizon', name: 'Horizon' },
  { path: '/trust/plan', name: 'Plan' },
  { path: '/trust/authority', name: 'Authority' },
  { path: '/trust/tickets', name: 'Tickets' },
  { path: '/trust/files', name: 'Files' },
] as const;

/** What stands above every page of this place: the finding, what can be done, the way to the others, why the last wish was refused. */
@Component({
  selector: 'hinge-trust-head',
  imports: [ProblemNotice, Places, FirstSteps],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header class="page-head">
      <h1>{{ headline() }}</h1>
      <div class="actions"><ng-content /></div>
    </header>
    <hinge-places label="Trust" [places]="places" />
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
  readonly places = places;
  readonly shown = computed(() => this.problem() ?? this.otherProblem());
}
