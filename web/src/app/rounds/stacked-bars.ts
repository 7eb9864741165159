import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { LinkState } from '@loyal-hinge/core';
import { shareWords, stateWords } from '@loyal-hinge/core/casebook';

type Ms = Readonly<Record<LinkState, number>>;

/** From below: what holds stands on the ground. What is missing to the top is not known. */
const order: readonly LinkState[] = ['Sound', 'Strained', 'Parted'];
/** So high is each part at least: a minute in a day is to be seen, too. */
const least = 1.5;

/** Which share of a time was in a state. */
function shareIn(ms: Ms, state: LinkState): number {
  const whole = Object.values(ms).reduce((sum, part) => sum + part, 0);
  return whole === 0 ? 0 : ms[state] / whole;
}

/** `83.3 % sound, 8.3 % strained, 8.3 % parted`. */
export const sharesText = (ms: Ms): string =>
  order.map((state) => `${shareWords(shareIn(ms, state))} ${stateWords[state]}`).join(', ');

/** How links were over one part of a period, and where that is drawn. */
export interface StackedBar {
  readonly from: number;
  readonly ms: Ms;
  readonly says: string;
  readonly x: number;
  readonly wide: number;
  /** Stands below it; empty: nothing. */
  readonly name: string;
}

/** How links were over the parts of a period: bars side by side, the states of each one upon the other. */
@Component({
  selector: 'hinge-stacked-bars',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg
      [attr.viewBox]="'0 0 ' + width() + ' ' + height()"
      [style.width]="isFluid() ? '100%' : width() + 'px'"
      role="img"
      [attr.aria-label]="words()"
    >
      @if (foot() > 0) {
        <line class="ground" x1="0" [attr.x2]="width()" [attr.y1]="ground()" [attr.y2]="ground()" />
      }
      @for (bar of drawn(); track bar.from) {
        <rect class="whole" [attr.x]="bar.x" [attr.width]="bar.wide" [attr.y]="top" [attr.height]="inner()">
          <title>{{ bar.says }}</title>
        </rect>
        @for (part of bar.parts; track part.state) {
          <rect
            [class]="part.state"
            [attr.x]="bar.x"
            [attr.width]="bar.wide"
            [attr.y]="part.y"
            [attr.height]="part.high"
          />
        }
        @if (bar.name) {
          <text [attr.x]="bar.x" [attr.y]="height() - 6">{{ bar.name }}</text>
        }
      }
    </svg>
  `,
  styles: `
    :host,
    svg {
      display: block;
    }
    svg {
      overflow: visible;
    }
    .ground {
      stroke: var(--line);
    }
    .whole {
      fill: var(--line);
      opacity: 0.4;
    }
    .Sound {
      fill: var(--holds);
    }
    .Strained {
      fill: var(--weak);
    }
    .Parted {
      fill: var(--fails);
    }
    .Sound,
    .Strained,
    .Parted {
      pointer-events: none;
    }
    text {
      font-size: 12px;
      fill: var(--faint);
    }
  `,
})
export class StackedBars {
  readonly bars = input.required<readonly StackedBar[]>();
  readonly words = input.required<string>();
  readonly width = input.required<number>();
  readonly height = input.required<number>();
  /** So much of the height is left below, for names. */
  readonly foot = input(0);
  /** It takes the width that there is, and not its own. */
  readonly isFluid = input(false);
  readonly top = 1;
  readonly ground = computed(() => this.height() - this.foot());
  readonly inner = computed(() => this.ground() - this.top);
  readonly drawn = computed(() => this.bars().map((bar) => ({ ...bar, parts: this.partsOf(bar.ms) })));

  private partsOf(ms: Ms) {
    let y = this.ground();
    return order.flatMap((state) => {
      if (ms[state] === 0) return [];
      const high = Math.max(least, shareIn(ms, state) * this.inner());
      y = Math.max(this.top, y - high);
      return [{ state, y, high }];
    });
  }
}
