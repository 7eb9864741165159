import { ChangeDetectionStrategy, Component, computed, input, signal } from '@angular/core';
import type { Step, StepId, Verdict } from '@loyal-hinge/core';
import { barShape, barStyles, drawnAsLine, workingShape } from './bar-shape';
import { verdictWords } from './verdict-bar';

/** The width of one bar with the room around it, in pixels: columns of steps are as wide where there is room. */
export const barWidth = 44;
const height = 14;
const beginOf = (index: number): number => index * barWidth + (barWidth - 34) / 2;

/** The verdicts of all steps of a link, side by side in one drawing: a board of thousands of links stays light. */
@Component({
  selector: 'hinge-bar-strip',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg
      [attr.viewBox]="'0 0 ' + width() + ' ${height}'"
      preserveAspectRatio="none"
      width="100%"
      height="${height}"
      role="img"
      [attr.aria-label]="words()"
      (pointermove)="point($event)"
      (pointerleave)="at.set(-1)"
    >
      @for (group of groups(); track group.verdict) {
        <path [attr.d]="group.path" [class]="group.verdict" [class.line]="group.line" />
      }
      @if (workingPath(); as path) {
        <path class="working" [attr.d]="path" />
      }
    </svg>
    @if (pointed(); as told) {
      <span class="told" aria-hidden="true" [style.left.%]="told.at">{{ told.says }}</span>
    }
  `,
  styles: [
    barStyles,
    `
      :host {
        display: block;
        position: relative;
        line-height: 0;
      }
      .told {
        position: absolute;
        top: 100%;
        z-index: 2;
        margin-top: 2px;
        padding: 0.3rem 0.5rem;
        transform: translateX(-50%);
        background: var(--ink);
        color: var(--paper);
        border-radius: 3px;
        font-size: 0.82rem;
        line-height: 1.3;
        white-space: nowrap;
        pointer-events: none;
      }
    `,
  ],
})
export class BarStrip {
  readonly steps = input.required<readonly Step[]>();
  /** In the order of the steps; empty: none was tried. */
  readonly verdicts = input.required<readonly Verdict[]>();
  /** Where each step stands, by its id, where the strip is one of several kinds; absent: one behind the other. */
  readonly columns = input<readonly StepId[] | null>(null);
  /** The step that is being tried now. */
  readonly working = input<string | null>(null);
  /** The column under the pointer. */
  readonly at = signal(-1);

  private readonly places = computed(() => this.columns() ?? this.steps().map(({ id }) => id));
  readonly width = computed(() => this.places().length * barWidth);
  private readonly each = computed(() => this.steps().map((_, index) => this.verdicts()[index] ?? 'unknown'));
  readonly groups = computed(() => {
    const [paths, places, each] = [new Map<Verdict, string>(), this.places(), this.each()];
    this.steps().forEach(({ id }, index) => {
      const verdict = each[index] ?? 'unknown';
      paths.set(verdict, (paths.get(verdict) ?? '') + barShape[verdict](beginOf(places.indexOf(id))));
    });
    return [...paths].map(([verdict, path]) => ({ verdict, path, line: drawnAsLine.has(verdict) }));
  });
  readonly workingPath = computed(() => {
    const index = this.places().findIndex((id) => id === this.working());
    return index < 0 ? null : workingShape(beginOf(index));
  });
  readonly words = computed(() =>
    this.steps()
      .map((step, index) => this.wordsOf(step, index))
      .join(', '),
  );
  readonly pointed = computed(() => {
    const place = this.places()[this.at()];
    const index = this.steps().findIndex(({ id }) => id === place);
    const step = this.steps()[index];
    return step ? { says: this.wordsOf(step, index), at: ((this.at() + 0.5) / this.places().length) * 100 } : null;
  });

  /** On a narrow page the bars are narrower than they are drawn. */
  point({ clientX, currentTarget }: PointerEvent): void {
    const { left, width } = (currentTarget as Element).getBoundingClientRect();
    this.at.set(Math.floor(((clientX - left) / width) * this.places().length));
  }

  private wordsOf = ({ id, title }: Step, index: number): string =>
    `${title}: ${id === this.working() ? 'being tried now' : verdictWords[this.each()[index] ?? 'unknown']}`;
}
