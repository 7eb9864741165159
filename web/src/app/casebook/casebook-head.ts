import { ChangeDetectionStrategy, Component, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import { PlaceHead } from '../shell/place-head';
import { casebookFeature } from './state';

const places = [
  { path: '/casebook', name: 'Cases' },
  { path: '/casebook/evidence', name: 'Captures and logs' },
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
  readonly problem = inject(Store).selectSignal(casebookFeature.selectProblem);
  readonly places = places;
}
