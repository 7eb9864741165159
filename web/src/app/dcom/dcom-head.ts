import { ChangeDetectionStrategy, Component, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import { PlaceHead } from '../shell/place-head';
import { dcomFeature } from './state';

const places = [
  { path: '/dcom', name: 'Machines' },
  { path: '/dcom/descriptor', name: 'Read a descriptor' },
] as const;

/** What stands above the pages of this place. */
@Component({
  selector: 'hinge-dcom-head',
  imports: [PlaceHead],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-place-head [headline]="headline()" label="DCOM" [places]="places" [problem]="problem()">
      <ng-content />
    </hinge-place-head>
  `,
})
export class DcomHead {
  readonly headline = input.required<string>();
  readonly problem = inject(Store).selectSignal(dcomFeature.selectProblem);
  readonly places = places;
}
