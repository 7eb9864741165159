import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { max } from 'd3-array';
import { line } from 'd3-shape';
import type { TunnelSample, TunnelView } from '@loyal-hinge/contract';
import { levelsOf, momentsOf, timeScale, valueScale } from '../signs/chart-axes';
import { bytesText } from './outpost-words';

const [width, height, left, below] = [1100, 190, 84, 24];
/** The strips of both ends stand under the lines. */
const strip = { height: 12, gap: 6 } as const;
/** A line that carries next to nothing is drawn as such. */
const leastScale = 1000;
/** Where nothing was told for longer, the line has a gap. */
const gapMs = 60_000;

interface Point {
  readonly at: number;
  readonly value: number;
}

/** What went through a tunnel over time, and when its ends were joined. */
@Component({
  selector: 'hinge-tunnel-history',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>What went through</h2>
    @if (samples().length < 2) {
      <p class="faint">Nothing was told yet. An end tells how it stands every few seconds while it is connected.</p>
    } @else {
      <p class="key">
        <svg width="26" height="8" aria-hidden="true"><line class="there" x1="0" x2="26" y1="4" y2="4" /></svg>
        from {{ names().dials }} to {{ names().listens }}
        <svg width="26" height="8" aria-hidden="true"><line class="back" x1="0" x2="26" y1="4" y2="4" /></svg>
        from {{ names().listens }} to {{ names().dials }}
      </p>
      <svg viewBox="0 0 ${width} ${height + 2 * (strip.height + strip.gap) + 4}" role="img" [attr.aria-label]="words()">
        @for (tick of levels(); track tick.text) {
          <line class="grid" x1="${left}" x2="${width}" [attr.y1]="tick.at" [attr.y2]="tick.at" />
          <text x="${left - 8}" [attr.y]="tick.at + 4" text-anchor="end">{{ tick.text }}</text>
        }
        <path class="there" fill="none" [attr.d]="there()" />
        <path class="back" fill="none" [attr.d]="back()" />
        @for (row of strips(); track row.name) {
          <text x="${left - 8}" [attr.y]="row.y + 10" text-anchor="end">{{ row.name }}</text>
          @for (part of row.parts; track part.x) {
            <rect
              [class.joined]="part.isJoined"
              [attr.x]="part.x"
              [attr.y]="part.y"
              [attr.width]="part.width"
              [attr.height]="part.height"
            >
              <title>{{ part.isJoined ? 'joined' : 'not joined' }}</title>
            </rect>
          }
        }
        @for (tick of moments(); track tick.text) {
          <text [attr.x]="tick.at" y="${height - 6}" text-anchor="middle">{{ tick.text }}</text>
        }
      </svg>
      <p class="faint">Filled: joined with the other end. Thin: waiting for it. Empty: nothing was told.</p>
    }
  `,
  styles: `
    :host {
      display: block;
      border: 1px solid var(--line);
      background: var(--panel);
      padding: 0.6rem 1rem;
      margin: 0.9rem 0;
    }
    p {
      margin: 0.2rem 0;
    }
    .key {
      display: flex;
      gap: 0.5rem;
      align-items: center;
    }
    .key svg {
      width: 26px;
    }
    svg {
      width: 100%;
      display: block;
    }
    text {
      fill: var(--faint);
      font: 12px var(--mono);
    }
    .grid {
      stroke: var(--line);
    }
    .there {
      stroke: var(--lake);
      stroke-width: 1.6;
    }
    .back {
      stroke: var(--weak);
      stroke-width: 1.6;
      stroke-dasharray: 5 3;
    }
    rect {
      fill: var(--fails);
    }
    rect.joined {
      fill: var(--holds);
    }
  `,
})
export class TunnelHistory {
  readonly history = input.required<TunnelView['history']>();
  /** What the machines of both ends are called. */
  readonly names = input.required<{ readonly listens: string; readonly dials: string }>();

  /** What goes through is told by the end that dials; where it told nothing, by the other one. */
  private readonly teller = computed(() => {
    const of = (side: 'listens' | 'dials') => this.history().find((each) => each.side === side);
    const dials = of('dials');
    return (dials?.samples.length ?? 0) > 1 ? dials : of('listens');
  });
  readonly samples = computed<readonly TunnelSample[]>(() => this.teller()?.samples ?? []);
  private readonly x = computed(() =>
    timeScale(
      this.history().flatMap(({ samples }) => samples.map(({ at }) => Date.parse(at))),
      [left, width - 4],
    ),
  );
  private readonly y = computed(() =>
    valueScale(
      [
        0,
        leastScale,
        ...this.samples().flatMap(({ sentPerSecond, receivedPerSecond }) => [sentPerSecond, receivedPerSecond]),
      ],
      [height - below, 8],
    ).nice(4),
  );
  readonly there = computed(() => this.pathOf(this.teller()?.side === 'dials' ? 'sentPerSecond' : 'receivedPerSecond'));
  readonly back = computed(() => this.pathOf(this.teller()?.side === 'dials' ? 'receivedPerSecond' : 'sentPerSecond'));
  readonly levels = computed(() => levelsOf(this.y(), 4, (value) => `${bytesText(value)}/s`));
  readonly moments = computed(() => momentsOf(this.x(), 6));
  readonly strips = computed(() =>
    this.history().map(({ side, samples }, index) => ({
      name: side === 'listens' ? 'listens' : 'dials',
      y: height + index * (strip.height + strip.gap),
      parts: partsOf(samples).map(({ from, to, isJoined }) => ({
        x: this.x()(from),
        width: Math.max(2, this.x()(to) - this.x()(from)),
        isJoined,
        y: height + index * (strip.height + strip.gap) + (isJoined ? 0 : 4),
        height: isJoined ? strip.height : strip.height - 8,
      })),
    })),
  );
  readonly words = computed(() => {
    const most = max(this.samples(), ({ sentPerSecond, receivedPerSecond }) => sentPerSecond + receivedPerSecond) ?? 0;
    return `What went through the tunnel, at most ${bytesText(most)} per second.`;
  });

  private pathOf(of: 'sentPerSecond' | 'receivedPerSecond'): string {
    const points = this.samples().flatMap((sample, index, all): Point[] => {
      const at = Date.parse(sample.at);
      const before = all[index - 1];
      const isGap = before !== undefined && at - Date.parse(before.at) > Math.max(gapMs, usualMs(all) * 3);
      return [...(isGap ? [{ at: at - 1, value: NaN }] : []), { at, value: sample[of] }];
    });
    return (
      line<Point>(
        ({ at }) => this.x()(at),
        ({ value }) => this.y()(value),
      ).defined(({ value }) => !Number.isNaN(value))(points) ?? ''
    );
  }
}

/** The usual time between two samples. */
function usualMs(samples: readonly TunnelSample[]): number {
  const between = samples
    .slice(1)
    .map(({ at }, index) => Date.parse(at) - Date.parse(samples[index]?.at ?? at))
    .sort((one, other) => one - other);
  return between[Math.floor(between.length / 2)] ?? gapMs;
}

/** Spans in which an end was joined, or told that it was not. */
function partsOf(samples: readonly TunnelSample[]) {
  const parts: { from: number; to: number; isJoined: boolean }[] = [];
  const gap = Math.max(gapMs, usualMs(samples) * 3);
  for (const { at, state } of samples) {
    const now = Date.parse(at);
    const last = parts.at(-1);
    const isJoined = state === 'joined';
    const goesOn = last && now - last.to <= gap;
    if (last && goesOn) last.to = now;
    if (!last || !goesOn || last.isJoined !== isJoined) parts.push({ from: now, to: now, isJoined });
  }
  return parts;
}
