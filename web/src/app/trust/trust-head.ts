import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import type { ShownProblem } from '../http/problem';
import { PlaceHead } from '../shell/place-head';
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
  imports: [PlaceHead],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-place-head [headline]="headline()" label="Trust" [places]="places" [problem]="shown()">
      <ng-content />
    </hinge-place-head>
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
