import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { TimelineRow } from '@loyal-hinge/contract';
import { shareWords, usableIn } from '@loyal-hinge/core/casebook';
import { sharesText, StackedBars } from './stacked-bars';

type Months = TimelineRow['months'];

const [wide, gap, height] = [33, 3, 26];
const monthName = new Intl.DateTimeFormat('en-GB', { month: 'short' });
const monthAndYear = new Intl.DateTimeFormat('en-GB', { month: 'long', year: 'numeric' });

/** What a month is called, by a moment in its middle: its first one may be the last of another month elsewhere. */
const middleOf = (months: Months, index: number): number =>
  ((months[index]?.from ?? 0) + (months[index + 1]?.from ?? Date.now())) / 2;

/** Which share of a month a link could be used, or that nobody knows. */
export const usableInMonth = (month: Months[number] | undefined): string => {
  const usable = month ? usableIn(month) : null;
  return usable === null ? 'not known' : shareWords(usable);
};
export const nameOfMonth = (months: Months, index: number): string => monthAndYear.format(middleOf(months, index));

/** Months of a link side by side, each by the shares of its states; or, as their heading, their names alone. */
@Component({
  selector: 'hinge-month-bars',
  imports: [StackedBars],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (isHeading()) {
      <svg [attr.width]="width()" [attr.height]="height" role="img" aria-label="Months">
        @for (month of bars(); track month.from) {
          <text [attr.x]="month.x + month.wide / 2" y="17" text-anchor="middle">{{ month.called }}</text>
        }
      </svg>
    } @else {
      <hinge-stacked-bars [bars]="bars()" [width]="width()" [height]="height" [words]="words()" />
    }
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
  `,
})
export class MonthBars {
  readonly months = input.required<Months>();
  readonly isHeading = input(false);
  readonly height = height;
  readonly width = computed(() => this.months().length * (wide + gap));
  readonly bars = computed(() =>
    this.months().map(({ from, ms }, index, all) => ({
      from,
      ms,
      x: index * (wide + gap),
      wide,
      // The heading names it once for all links.
      name: '',
      called: monthName.format(middleOf(all, index)),
      says: `${nameOfMonth(all, index)}: ${sharesText(ms)}`,
    })),
  );
  readonly words = computed(() =>
    this.bars()
      .map(({ says }) => says)
      .join('; '),
  );
}
