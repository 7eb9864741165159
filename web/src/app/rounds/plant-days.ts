import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { scaleLinear, timeFormat } from 'd3';
import type { TimelineView } from '@loyal-hinge/contract';
import { shareWords, stateWords } from '@loyal-hinge/core/casebook';
import { shareIn, stackOrder, stackedStates } from './stacked-states';

const width = 1000;
const height = 110;
const top = 6;
const bottom = 22;
const inner = height - top - bottom;
const mostWide = 140;
const mostNames = 12;
const dayText = timeFormat('%-d %b');
/** The plant day by day: which share of its links’ time was sound, strained and parted; what is missing to the top is not known. */
@Component({
  selector: 'hinge-plant-days',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg viewBox="0 0 ${width} ${height}" role="img" [attr.aria-label]="words()">
      <line class="ground" x1="0" x2="${width}" y1="${height - bottom}" y2="${height - bottom}" />
      @for (day of days(); track day.from) {
        <rect class="whole" [attr.x]="day.x" [attr.width]="day.wide" y="${top}" height="${inner}">
          <title>{{ day.says }}</title>
        </rect>
        @for (part of day.parts; track part.state) {
          <rect
            [class]="part.state"
            [attr.x]="day.x"
            [attr.width]="day.wide"
            [attr.y]="part.y"
            [attr.height]="part.high"
          />
        }
        @if (day.name) {
          <text [attr.x]="day.x" y="${height - 6}">{{ day.name }}</text>
        }
      }
    </svg>
  `,
  styles: `
    :host {
      display: block;
    }
    svg {
      width: 100%;
      display: block;
      overflow: visible;
    }
    .ground {
      stroke: var(--line);
    }
    .whole {
      fill: var(--line);
      opacity: 0.35;
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
export class PlantDays {
  readonly view = input.required<TimelineView>();
  readonly days = computed(() => {
    const all = this.view().days;
    const scale = scaleLinear([0, all.length], [0, Math.min(width, all.length * mostWide)]);
    const each = Math.ceil(all.length / mostNames);
    return all.map(({ from, ms }, index) => {
      const parts = stackedStates(ms, { ground: height - bottom, inner, least: 1.5 });
      const [x, next] = [scale(index), scale(index + 1)];
      const day = dayText(new Date(from));
      const shares = stackOrder.map((state) => `${shareWords(shareIn(ms, state))} ${stateWords[state]}`);
      return {
        from,
        x,
        wide: Math.max(1, next - x - Math.min(4, (next - x) * 0.2)),
        parts,
        name: index % each === 0 ? day : '',
        says: `${day}: ${shares.join(', ')}`,
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
