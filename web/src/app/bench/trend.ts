import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { extent } from 'd3-array';
import { scaleLinear, scaleTime } from 'd3-scale';
import { curveStepAfter, line } from 'd3-shape';
import { byNumber, spanOf } from '@loyal-hinge/core';

const [width, height, left, below] = [1100, 220, 64, 24];
const hour = { hour: '2-digit', minute: '2-digit' } as const;
const formats = {
  short: new Intl.DateTimeFormat('en-GB', { ...hour, second: '2-digit' }),
  hours: new Intl.DateTimeFormat('en-GB', hour),
  days: new Intl.DateTimeFormat('en-GB', { ...hour, day: 'numeric', month: 'short' }),
};
const hourMs = 3_600_000;

/** The longer the span, the coarser its times are told. */
const formatOf = (spanMs: number): Intl.DateTimeFormat =>
  spanMs < hourMs ? formats.short : spanMs < 24 * hourMs ? formats.hours : formats.days;

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
  private readonly scales = computed(() => {
    const points = this.points();
    const [from, to] = extent(points, ({ at }) => at);
    const [low, high] = extent(points, ({ value }) => value);
    const x = scaleTime([from ?? 0, to === from ? (from ?? 0) + 1 : (to ?? 1)], [left, width - 4]);
    const y = scaleLinear([low ?? 0, high === low ? (low ?? 0) + 1 : (high ?? 1)], [height - below, 8]).nice(5);
    return { x, y };
  });
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
  readonly levels = computed(() => {
    const { y } = this.scales();
    const format = y.tickFormat(5);
    return y.ticks(5).map((tick) => ({ at: y(tick), text: format(tick) }));
  });
  readonly times = computed(() => {
    const { x } = this.scales();
    const [from, to] = x.domain();
    const format = formatOf((to?.getTime() ?? 0) - (from?.getTime() ?? 0));
    return x.ticks(6).map((tick) => ({ at: x(tick), text: format.format(tick) }));
  });
  readonly words = computed(() => {
    const points = this.points().filter(({ value }) => !Number.isNaN(value));
    const [low, high] = extent(points, ({ value }) => value);
    const span = spanOf((points.at(-1)?.at ?? 0) - (points[0]?.at ?? 0));
    const unit = this.unit();
    return `${byNumber(points.length, '# value', '# values')} in ${span}, between ${low ?? ''} and ${high ?? ''}${unit === '' ? '' : ` ${unit}`}`;
  });
}
