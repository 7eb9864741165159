import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { Verdict } from '@loyal-hinge/core';

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
    <svg width="34" height="14" viewBox="0 0 34 14" [class]="verdict()" role="img" [attr.aria-label]="word()">
      @switch (verdict()) {
        @case ('holds') {
          <path fill="currentColor" d="M1 2h32v10H1z" />
        }
        @case ('weak') {
          <path fill="currentColor" d="M1 2h12l4 6 4-6h12v10H1z" />
        }
        @case ('fails') {
          <path fill="currentColor" d="M1 2h13l-4 10H1zM24 2h9v10H20z" />
        }
        @case ('unknown') {
          <path fill="none" stroke="currentColor" stroke-width="1.3" d="M1.7 2.7h30.6v8.6H1.7z" />
        }
        @default {
          <path stroke="currentColor" stroke-width="1.5" d="M1 7h32" />
        }
      }
      @if (working()) {
        <path class="working" d="M1 13.3h32" />
      }
    </svg>
  `,
  styles: `
    :host {
      display: inline-flex;
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
export class VerdictBar {
  readonly verdict = input.required<Verdict>();
  readonly working = input(false);
  readonly word = computed(() => (this.working() ? 'being tried now' : verdictWords[this.verdict()]));
}
