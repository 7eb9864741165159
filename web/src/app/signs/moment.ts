import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { Telling } from '../shell/telling';

const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' });
const time = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', second: '2-digit' });

/** Day and time in the reader’s zone. */
export const momentText = (at: string): string => `${day.format(new Date(at))}, ${time.format(new Date(at))}`;

/** A point in time in the reader’s zone, with UTC on hover. */
@Component({
  selector: 'hinge-moment',
  imports: [Telling],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<time [attr.datetime]="at()" [hingeTelling]="utc()">{{ text() }}</time>`,
  styles: `
    time {
      white-space: nowrap;
      font-variant-numeric: tabular-nums;
    }
  `,
})
export class Moment {
  readonly at = input.required<string>();
  /** `time` leaves the day out; `near` shows the time of what was today, and the day of everything else. */
  readonly show = input<'both' | 'time' | 'day' | 'near'>('both');
  readonly text = computed(() => {
    const at = new Date(this.at());
    const near = day.format(at) === day.format(new Date()) ? 'time' : 'day';
    const show = this.show() === 'near' ? near : this.show();
    return show === 'time' ? time.format(at) : show === 'day' ? day.format(at) : momentText(this.at());
  });
  readonly utc = computed(() => `${new Date(this.at()).toISOString().replace('T', ' ').replace('Z', '')} UTC`);
}
