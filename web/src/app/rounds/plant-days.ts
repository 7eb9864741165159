import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { scaleLinear, timeFormat } from 'd3';
import type { TimelineView } from '@loyal-hinge/contract';
import { sharesText, StackedBars } from './stacked-bars';

const width = 1000;
const height = 104;
/** For the names of days. */
const foot = 22;
const mostWide = 140;
const mostNames = 12;
const dayText = timeFormat('%-d %b');

/** The plant day by day: which share of its links’ time was sound, strained and parted; what is missing to the top is not known. */
@Component({
  selector: 'hinge-plant-days',
  imports: [StackedBars],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-stacked-bars
      [bars]="days()"
      [width]="width"
      [height]="height"
      [foot]="foot"
      [isFluid]="true"
      [words]="words()"
    />
  `,
  styles: `
    :host {
      display: block;
    }
  `,
})
export class PlantDays {
  readonly view = input.required<TimelineView>();
  readonly width = width;
  readonly height = height;
  readonly foot = foot;
  readonly days = computed(() => {
    const all = this.view().days;
    const scale = scaleLinear([0, all.length], [0, Math.min(width, all.length * mostWide)]);
    const each = Math.ceil(all.length / mostNames);
    return all.map(({ from, ms }, index) => {
      const [x, next] = [scale(index), scale(index + 1)];
      const day = dayText(new Date(from));
      return {
        from,
        x,
        wide: Math.max(1, next - x - Math.min(4, (next - x) * 0.2)),
        ms,
        name: index % each === 0 ? day : '',
        says: `${day}: ${sharesText(ms)}`,
      };
    });
  });
  readonly words = computed(() =>
    this.days()
      .slice(-7)
      .map(({ says }) => says)
      .join('; '),
  );
}
