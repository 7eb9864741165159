import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { LinkState } from '@loyal-hinge/core';

/** The product’s emblem and the state of a link: two leaves and a pin. */
@Component({
  selector: 'hinge-sign',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg [attr.width]="size()" [attr.height]="size()" viewBox="0 0 24 24" [class]="tone()" aria-hidden="true">
      @switch (state()) {
        @case ('Sound') {
          <path class="leaf" d="M2 4h8v16H2zM14 4h8v16h-8z" />
          <path class="pin" d="M10.4 2h3.2v20h-3.2z" />
        }
        @case ('Strained') {
          <path class="leaf" d="M1 8l8.6-4v16L1 23zM14.4 4L23 8v15l-8.6-3z" />
          <path class="pin" d="M10.4 2h3.2v20h-3.2z" />
        }
        @case ('Parted') {
          <path class="leaf" d="M0 5h6.5v15H0zM17.5 5H24v15h-6.5z" />
          <path class="pin" d="M9 1h6v3.6H9z" />
        }
        @default {
          <path class="dashed" d="M3 5h7v14H3zM14 5h7v14h-7z" />
        }
      }
    </svg>
  `,
  styles: `
    :host {
      display: inline-flex;
      vertical-align: middle;
    }
    .leaf {
      fill: currentColor;
    }
    .pin {
      fill: var(--ink);
    }
    .dashed {
      fill: none;
      stroke: currentColor;
      stroke-width: 1.8;
      stroke-dasharray: 2.6 2;
    }
  `,
})
export class HingeSign {
  readonly state = input.required<LinkState>();
  readonly size = input(18);
  readonly tone = computed(() => toneOf[this.state()]);
}

export const toneOf: Readonly<Record<LinkState, string>> = {
  Sound: 'holds',
  Strained: 'weak',
  Parted: 'fails',
  Untried: 'unknown',
};
