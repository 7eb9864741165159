import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { extent } from 'd3-array';
import { curveStepAfter, line } from 'd3-shape';
import { byNumber, spanOf } from '@loyal-hinge/core';
import { levelsOf, momentsOf, timeScale, valueScale } from '../signs/chart-axes';

const [width, height, left, below] = [1100, 220, 64, 24];

/** Values over time, each held until the next one came. */
@Component({
  selector: 'hinge-trend',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header class="sheet-head">
      <h2>{{ name() }}</h2>
      <span class="faint rest">{{ words() }}</span>
      @if (canClose()) {
        <button type="button" class="plain" (click)="closed.emit()">Close</button>
      }
    </header>
    <svg viewBox="0 0 ${width} ${height}" role="img" [attr.aria-label]="name() + ': ' + words()">
      @for (tick of levels(); track tick.text) {
        <line x1="${left}" x2="${width}" [attr.y1]="tick.at" [attr.y2]="tick.at" />
        <text x="${left - 8}" [attr.y]="tick.at + 4" text-anchor="end">{{ tick.text }}</text>
      }
      @for (tick of times(); track tick.text) {
        <text [attr.x]="tick.at" y="${height - 6}" text-anchor="middle">{{ tick.text }}</text>
      }
      <path fill="none" [attr.d]="path()" />
    </svg>
  `,
  styles: `
    :host {
      display: block;
      border: 1px solid var(--line);
      background: var(--panel);
      padding: 0.5rem 0.9rem;
      margin: 0.8rem 0;
    }
    h2 {
      font-size: 1rem;
    }
    svg {
      width: 100%;
      display: block;
    }
    line {
      stroke: var(--line);
    }
    text {
      fill: var(--faint);
      font: 12px var(--mono);
    }
    path {
      stroke: var(--lake);
      stroke-width: 1.6;
    }
  `,
})
export class Trend {
  readonly name = input.required<string>();
  readonly unit = input('');
  /** The oldest first. */
  readonly points = input.required<readonly { readonly at: number; readonly value: number }[]>();
  readonly canClose = input(true);
  readonly closed = output();
  private readonly scales = computed(() => ({
    x: timeScale(
      this.points().map(({ at }) => at),
      [left, width - 4],
    ),
    y: valueScale(
      this.points().map(({ value }) => value),
      [height - below, 8],
    ).nice(5),
  }));
  readonly path = computed(() => {
    const { x, y } = this.scales();
    const drawn = line<{ at: number; value: number }>(
      ({ at }) => x(at),
      ({ value }) => y(value),
    )
      .curve(curveStepAfter)
      .defined(({ value }) => !Number.isNaN(value));
    return drawn([...this.points()]) ?? '';
  });
  readonly levels = computed(() => levelsOf(this.scales().y, 5));
  readonly times = computed(() => momentsOf(this.scales().x, 6));
  readonly words = computed(() => {
    const points = this.points().filter(({ value }) => !Number.isNaN(value));
    const [low, high] = extent(points, ({ value }) => value);
    const span = spanOf((points.at(-1)?.at ?? 0) - (points[0]?.at ?? 0));
    const unit = this.unit();
    return `${byNumber(points.length, '# value', '# values')} in ${span}, between ${low ?? ''} and ${high ?? ''}${unit === '' ? '' : ` ${unit}`}`;
  });
}
