import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import type { ShownProblem } from '../http/problem';
import { PlaceHead } from '../shell/place-head';
import { casebookFeature } from './state';

const places = [
  { path: '/casebook', name: 'Cases' },
  { path: '/casebook/timeline', name: 'Timeline' },
  { path: '/casebook/evidence', name: 'Captures and logs' },
  { path: '/casebook/rounds', name: 'Rounds' },
] as const;

/** What stands above the pages of this place. */
@Component({
  selector: 'hinge-casebook-head',
  imports: [PlaceHead],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-place-head [headline]="headline()" label="Casebook" [places]="places" [problem]="problem()">
      <ng-content />
    </hinge-place-head>
  `,
})
export class CasebookHead {
  readonly headline = input.required<string>();
  /** Why the last wish was refused, where the page knows it rather than the casebook. */
  readonly refused = input<ShownProblem | null>(null);
  private readonly own = inject(Store).selectSignal(casebookFeature.selectProblem);
  readonly problem = computed(() => this.refused() ?? this.own());
  readonly places = places;
}
