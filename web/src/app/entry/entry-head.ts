import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import type { ShownProblem } from '../http/problem';
import { PlaceHead } from '../shell/place-head';
import { entryFeature } from './state';

const places = [
  { path: '/entry', name: 'Doors' },
  { path: '/entry/identities', name: 'Identities' },
  { path: '/entry/user-certificates', name: 'User certificates' },
  { path: '/entry/rights', name: 'Rights' },
  { path: '/entry/floor', name: 'What the plant accepts' },
] as const;

/** What stands above the pages of this place. */
@Component({
  selector: 'hinge-entry-head',
  imports: [PlaceHead],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-place-head [headline]="headline()" label="Entry" [places]="places" [problem]="shown()">
      <ng-content />
    </hinge-place-head>
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
