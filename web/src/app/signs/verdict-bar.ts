import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { Verdict } from '@loyal-hinge/core';
import { barShape, barStyles, drawnAsLine, workingShape } from './bar-shape';

export const verdictWords: Readonly<Record<Verdict, string>> = {
  holds: 'holds',
  weak: 'weak',
  fails: 'fails',
  unknown: 'unknown',
  'not-needed': 'not needed',
};

/** The verdict of a step as a bar: filled, notched, cut in two, hollow, or a thin line. */
@Component({
  selector: 'hinge-bar',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg
      width="34"
      height="14"
      viewBox="0 0 34 14"
      preserveAspectRatio="none"
      [class]="verdict()"
      role="img"
      [attr.aria-label]="word()"
    >
      <path [attr.d]="shape()" [class.line]="line()" />
      @if (working()) {
        <path class="working" [attr.d]="workingPath" />
      }
    </svg>
  `,
  styles: [
    barStyles,
    `
      :host {
        display: inline-flex;
        max-width: 100%;
        min-width: 0;
      }
      svg {
        max-width: 100%;
      }
    `,
  ],
})
export class VerdictBar {
  readonly verdict = input.required<Verdict>();
  readonly working = input(false);
  readonly workingPath = workingShape(0);
  readonly shape = computed(() => barShape[this.verdict()](0));
  readonly line = computed(() => drawnAsLine.has(this.verdict()));
  readonly word = computed(() => (this.working() ? 'being tried now' : verdictWords[this.verdict()]));
}
