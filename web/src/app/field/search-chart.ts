import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { curveStepAfter, line } from 'd3-shape';
import type { FoundRegister, RegisterSearch } from '@loyal-hinge/contract';
import { levelsOf, momentsOf, timeScale, valueScale } from '../signs/chart-axes';

const [width, height, left, below] = [1100, 220, 64, 24];

/** The value at the server, and over it what a register says at the same times. */
@Component({
  selector: 'hinge-search-chart',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg viewBox="0 0 ${width} ${height}" role="img" [attr.aria-label]="words()">
      @for (tick of levels(); track tick.text) {
        <line x1="${left}" x2="${width}" [attr.y1]="tick.at" [attr.y2]="tick.at" />
        <text x="${left - 8}" [attr.y]="tick.at + 4" text-anchor="end">{{ tick.text }}</text>
      }
      @for (tick of moments(); track tick.text) {
        <text [attr.x]="tick.at" y="${height - 6}" text-anchor="middle">{{ tick.text }}</text>
      }
      <path class="server" fill="none" [attr.d]="served()" />
      <path class="device" fill="none" [attr.d]="said()" />
    </svg>
    <p class="faint legend">
      <span class="key server"></span> at the server
      @if (chosen(); as one) {
        <span class="key device"></span> {{ one.address }}, {{ one.says
        }}{{ one.lag > 0 ? ', as much later as the server is behind' : '' }}
      }
    </p>
  `,
  styles: `
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
    path.server {
      stroke: var(--lake);
      stroke-width: 4;
      opacity: 0.45;
    }
    path.device {
      stroke: var(--weak);
      stroke-width: 1.6;
    }
    .legend {
      display: flex;
      align-items: center;
      gap: 0.5rem;
      margin: 0.2rem 0 0.8rem;
    }
    .key {
      display: inline-block;
      width: 1.6rem;
      border-top: 4px solid var(--lake);
      opacity: 0.45;
    }
    .key.device {
      border-top: 2px solid var(--weak);
      opacity: 1;
      margin-left: 1rem;
    }
  `,
})
export class SearchChart {
  readonly values = input.required<RegisterSearch['values']>();
  readonly chosen = input<FoundRegister | null>(null);
  private readonly times = computed(() => this.values().map(({ at }) => Date.parse(at)));
  private readonly scales = computed(() => ({
    x: timeScale(this.times(), [left, width - 4]),
    y: valueScale(
      [...this.values().map(({ value }) => value), ...(this.chosen()?.series ?? [])],
      [height - below, 8],
    ).nice(4),
  }));
  readonly served = computed(() => this.pathOf(this.values().map(({ value }) => value)));
  /** As much later as the server is behind. */
  readonly said = computed(() => this.pathOf(this.chosen()?.series ?? [], this.chosen()?.lag ?? 0));
  readonly levels = computed(() => levelsOf(this.scales().y, 4));
  readonly moments = computed(() => momentsOf(this.scales().x, 6));
  readonly words = computed(() => {
    const one = this.chosen();
    const told = `${this.values().length} values of the server`;
    return one ? `${told}, and register ${one.address}, which explains ${one.explained} of them` : told;
  });

  private pathOf(values: readonly (number | null)[], later = 0): string {
    const { x, y } = this.scales();
    const times = this.times();
    const drawn = line<number | null>(
      (_, index) => x(times[Math.min(index + later, times.length - 1)] ?? 0),
      (value) => y(value ?? 0),
    )
      .curve(curveStepAfter)
      .defined((value) => value !== null);
    return drawn([...values]) ?? '';
  }
}
