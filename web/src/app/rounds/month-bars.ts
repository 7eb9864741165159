import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { TimelineRow } from '@loyal-hinge/contract';
import { shareWords, stateWords, usableIn } from '@loyal-hinge/core/casebook';
import { shareIn, stackOrder, stackedStates } from './stacked-states';

type Months = TimelineRow['months'];

const [wide, gap, height] = [33, 3, 26];
const monthName = new Intl.DateTimeFormat('en-GB', { month: 'short' });
const monthAndYear = new Intl.DateTimeFormat('en-GB', { month: 'long', year: 'numeric' });

/** What a month is called, by a moment in its middle: its first one may be the last of another month elsewhere. */
const middleOf = (months: Months, index: number): number =>
  ((months[index]?.from ?? 0) + (months[index + 1]?.from ?? Date.now())) / 2;

/** `98.2 % usable`, or that nobody knows. */
export const usableInMonth = (month: Months[number] | undefined): string => {
  const usable = month ? usableIn(month) : null;
  return usable === null ? 'not known' : shareWords(usable);
};
export const nameOfMonth = (months: Months, index: number): string => monthAndYear.format(middleOf(months, index));

/** Months of a link side by side, each by the shares of its states; or, as their heading, their names alone. */
@Component({
  selector: 'hinge-month-bars',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg [attr.width]="width()" [attr.height]="height" role="img" [attr.aria-label]="words()">
      @for (month of bars(); track month.x) {
        @if (isHeading()) {
          <text [attr.x]="month.middle" y="17" text-anchor="middle">{{ month.name }}</text>
        } @else {
          <rect class="whole" [attr.x]="month.x" y="1" width="${wide}" height="${height - 2}">
            <title>{{ month.says }}</title>
          </rect>
          @for (part of month.parts; track part.state) {
            <rect [class]="part.state" [attr.x]="month.x" width="${wide}" [attr.y]="part.y" [attr.height]="part.high" />
          }
        }
      }
    </svg>
  `,
  styles: `
    :host {
      display: block;
      line-height: 0;
    }
    text {
      fill: currentColor;
      font-size: 0.8rem;
    }
    .whole {
      fill: var(--line);
      opacity: 0.5;
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
  `,
})
export class MonthBars {
  readonly months = input.required<Months>();
  readonly isHeading = input(false);
  readonly height = height;
  readonly width = computed(() => this.months().length * (wide + gap));
  readonly bars = computed(() =>
    this.months().map((month, index, all) => ({
      x: index * (wide + gap),
      middle: index * (wide + gap) + wide / 2,
      name: monthName.format(middleOf(all, index)),
      parts: stackedStates(month.ms, { ground: height - 1, inner: height - 2, least: 1.5 }),
      says: `${nameOfMonth(all, index)}: ${stackOrder.map((state) => `${shareWords(shareIn(month.ms, state))} ${stateWords[state]}`).join(', ')}`,
    })),
  );
  readonly words = computed(() =>
    this.isHeading()
      ? 'Months'
      : this.bars()
          .map(({ says }) => says)
          .join('; '),
  );
}
