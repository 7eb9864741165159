import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import { FirstSteps } from '../first-steps/first-steps';
import type { ShownProblem } from '../http/problem';
import { ProblemNotice } from '../http/problem-notice';
import { Places } from '../shell/places';
import { entryFeature } from './state';

const places = [
  { path: '/entry', name: 'Doors' },
  { path: '/entry/rights', name: 'Rights' },
  { path: '/entry/floor', name: 'What the plant accepts' },
] as const;

/** What stands above the pages of this place. */
@Component({
  selector: 'hinge-entry-head',
  imports: [FirstSteps, Places, ProblemNotice],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header class="page-head">
      <h1>{{ headline() }}</h1>
      <div class="actions"><ng-content /></div>
    </header>
    <hinge-places label="Entry" [places]="places" />
    <hinge-problem [problem]="shown()" />
    <hinge-first-steps />
  `,
})
export class EntryHead {
  private readonly store = inject(Store);
  readonly headline = input.required<string>();
  /** A problem of another place that shows here, where this one has none. */
  readonly otherProblem = input<ShownProblem | null>(null);
  private readonly problem = this.store.selectSignal(entryFeature.selectProblem);
  readonly shown = computed(() => this.problem() ?? this.otherProblem());
  readonly places = places;
}
