import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { extent } from 'd3-array';
import { line } from 'd3-shape';
import { timeScale, valueScale } from '../signs/chart-axes';

/** The last values of an item as a small line. */
@Component({
  selector: 'hinge-sparkline',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<svg width="130" height="30" viewBox="0 0 130 30" role="img" [attr.aria-label]="words()">
    <path fill="none" stroke="currentColor" stroke-width="1.5" [attr.d]="path()" />
  </svg>`,
  styles: `
    :host {
      color: var(--lake);
      display: inline-flex;
    }
  `,
})
export class Sparkline {
  readonly points = input.required<readonly { readonly at: number; readonly value: number }[]>();
  readonly path = computed(() => {
    const points = this.points();
    if (points.length < 2) return '';
    const x = timeScale(
      points.map(({ at }) => at),
      [1, 129],
    );
    const y = valueScale(
      points.map(({ value }) => value),
      [27, 3],
    );
    return (
      line<{ at: number; value: number }>(
        (point) => x(point.at),
        (point) => y(point.value),
      ).defined((point) => !Number.isNaN(point.value))(points) ?? ''
    );
  });
  readonly words = computed(() => {
    const points = this.points().filter(({ value }) => !Number.isNaN(value));
    const [low, high] = extent(points, (point) => point.value);
    return low === undefined ? 'no values yet' : `${points.length} values between ${low} and ${high}`;
  });
}
