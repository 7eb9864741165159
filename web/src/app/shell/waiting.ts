import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { Skeleton } from 'primeng/skeleton';

/** Stands where rows will, until they are there. */
@Component({
  selector: 'hinge-waiting',
  imports: [Skeleton],
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { 'aria-busy': 'true' },
  template: `
    <span class="unseen" role="status">Loading …</span>
    @for (row of lines(); track row) {
      <p-skeleton height="1.7rem" />
    }
  `,
  styles: `
    :host {
      display: grid;
      gap: 0.45rem;
    }
  `,
})
export class Waiting {
  /** So many lines. */
  readonly rows = input(8);
  lines = (): readonly number[] => Array.from({ length: this.rows() }, (_, row) => row);
}
