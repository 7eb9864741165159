import { ChangeDetectionStrategy, Component, computed, input, signal } from '@angular/core';
import type { Step, Verdict } from '@loyal-hinge/core';
import { verdictWords } from './verdict-bar';

/** The width of one bar with the room around it, in pixels: columns of steps are as wide. */
export const barWidth = 44;
const height = 14;

/** Each verdict as a bar that begins at `x`, the same as `VerdictBar` draws by itself. */
const shapes: Readonly<Record<Verdict, (x: number) => string>> = {
  holds: (x) => `M${x + 1} 2h32v10h-32z`,
  weak: (x) => `M${x + 1} 2h12l4 6 4-6h12v10h-32z`,
  fails: (x) => `M${x + 1} 2h13l-4 10h-9zM${x + 24} 2h9v10h-13z`,
  unknown: (x) => `M${x + 1.7} 2.7h30.6v8.6h-30.6z`,
  'not-needed': (x) => `M${x + 1} 7h32`,
};
const drawnAsLine: ReadonlySet<Verdict> = new Set<Verdict>(['unknown', 'not-needed']);

/** The verdicts of all steps of a link, side by side in one drawing: a board of thousands of links stays light. */
@Component({
  selector: 'hinge-bar-strip',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg
      [attr.width]="width()"
      height="${height}"
      role="img"
      [attr.aria-label]="words()"
      (pointermove)="point($event)"
      (pointerleave)="at.set(-1)"
    >
      <title>{{ pointed() }}</title>
      @for (group of groups(); track group.verdict) {
        <path [attr.d]="group.path" [class]="group.verdict" [class.line]="group.line" />
      }
      @if (workingAt(); as x) {
        <path class="working" [attr.d]="'M' + x + ' 13.3h32'" />
      }
    </svg>
  `,
  styles: `
    :host {
      display: block;
      line-height: 0;
    }
    path {
      fill: currentColor;
    }
    path.line {
      fill: none;
      stroke: currentColor;
      stroke-width: 1.4;
    }
    .working {
      stroke: var(--lake);
      stroke-width: 2;
      stroke-dasharray: 8 26;
      animation: run 0.9s linear infinite;
    }
    @keyframes run {
      from {
        stroke-dashoffset: 34;
      }
      to {
        stroke-dashoffset: 0;
      }
    }
    @media (prefers-reduced-motion: reduce) {
      .working {
        animation: none;
        stroke-dasharray: none;
      }
    }
  `,
})
export class BarStrip {
  readonly steps = input.required<readonly Step[]>();
  /** In the order of the steps; empty: none was tried. */
  readonly verdicts = input.required<readonly Verdict[]>();
  /** The step that is being tried now. */
  readonly working = input<string | null>(null);
  /** The step under the pointer. */
  readonly at = signal(-1);

  readonly width = computed(() => this.steps().length * barWidth);
  private readonly each = computed(() => this.steps().map((_, index) => this.verdicts()[index] ?? 'unknown'));
  readonly groups = computed(() => {
    const paths = new Map<Verdict, string>();
    this.each().forEach((verdict, index) => {
      const x = index * barWidth + (barWidth - 34) / 2;
      paths.set(verdict, (paths.get(verdict) ?? '') + shapes[verdict](x));
    });
    return [...paths].map(([verdict, path]) => ({ verdict, path, line: drawnAsLine.has(verdict) }));
  });
  readonly workingAt = computed(() => {
    const index = this.steps().findIndex(({ id }) => id === this.working());
    return index < 0 ? null : index * barWidth + (barWidth - 34) / 2 + 1;
  });
  readonly words = computed(() =>
    this.steps()
      .map((step, index) => this.wordsOf(step, index))
      .join(', '),
  );
  readonly pointed = computed(() => {
    const step = this.steps()[this.at()];
    return step ? this.wordsOf(step, this.at()) : '';
  });

  point({ offsetX }: PointerEvent): void {
    this.at.set(Math.floor(offsetX / barWidth));
  }

  private wordsOf = ({ id, title }: Step, index: number): string =>
    `${title}: ${id === this.working() ? 'being tried now' : verdictWords[this.each()[index] ?? 'unknown']}`;
}
