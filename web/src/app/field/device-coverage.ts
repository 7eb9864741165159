import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { scaleLinear } from 'd3-scale';
import { placeOf, tableShapes, wordsOf, writeAddress } from '@loyal-hinge/core/field';
import type { DeviceView } from '@loyal-hinge/contract';

const [width, left, high] = [1000, 190, 34];
const leastShown = 24;

/** The registers of a device from which items come, one line a table of a unit; those that two items share stand out. */
@Component({
  selector: 'hinge-device-coverage',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (one of lines(); track one.title) {
      <svg viewBox="0 0 ${width} ${high + 18}" role="img" [attr.aria-label]="one.says">
        <text x="0" y="22">{{ one.title }}</text>
        <line x1="${left}" x2="${width}" y1="${high}" y2="${high}" />
        @for (run of one.runs; track run.path) {
          <rect [class.shared]="run.isShared" [attr.x]="run.x" [attr.width]="run.wide" y="8" height="${high - 8}">
            <title>{{ run.says }}</title>
          </rect>
        }
        @for (tick of one.ticks; track tick.text) {
          <text class="tick" [attr.x]="tick.x" y="${high + 14}">{{ tick.text }}</text>
        }
      </svg>
    }
  `,
  styles: `
    :host {
      display: block;
      margin-bottom: 1rem;
    }
    svg {
      width: 100%;
      display: block;
    }
    line {
      stroke: var(--faint);
    }
    rect {
      fill: var(--lake);
      opacity: 0.75;
    }
    rect.shared {
      fill: var(--weak);
    }
    text {
      fill: var(--ink);
      font-size: 13px;
    }
    .tick {
      fill: var(--faint);
      font: 11px var(--mono);
      text-anchor: middle;
    }
  `,
})
export class DeviceCoverage {
  readonly items = input.required<DeviceView['items']>();
  readonly lines = computed(() => {
    const groups = new Map<string, DeviceView['items'][number][]>();
    for (const item of this.items()) {
      const { port, unit, table } = item.origin;
      const key = `${port} ${unit} ${table}`;
      groups.set(key, [...(groups.get(key) ?? []), item]);
    }
    return [...groups.values()].flatMap((items) => {
      const [first] = items;
      if (!first) return [];
      const { unit, table, convention } = first.origin;
      const runs = items.map((item) => {
        const from = placeOf(item.origin);
        return { item, from, to: from + wordsOf(item.origin.form) };
      });
      const [low, most] = [Math.min(...runs.map(({ from }) => from)), Math.max(...runs.map(({ to }) => to))];
      // A few registers alone are not drawn as if they were the whole device.
      const room = Math.max(2, (leastShown - (most - low)) / 2);
      const x = scaleLinear([Math.max(-1, low - room), most + room], [left, width]);
      const title = `Unit ${unit}, ${tableShapes[table].many}`;
      return {
        title,
        says: `${title}: ${items.length} items between ${writeAddress(low, table, convention)} and ${writeAddress(most - 1, table, convention)}`,
        runs: runs.map(({ item, from, to }) => ({
          path: `${item.serverId} ${item.path}`,
          isShared: item.sharesWith !== null,
          x: x(from) + 1,
          wide: Math.max(3, x(to) - x(from) - 2),
          says: `${item.origin.address}: ${item.path}${item.sharesWith ? `, shared with ${item.sharesWith}` : ''}`,
        })),
        ticks: x
          .ticks(8)
          .filter((tick) => Number.isInteger(tick) && tick >= 0 && x(tick) < width - 24)
          .map((tick) => ({ x: x(tick), text: writeAddress(tick, table, convention) })),
      };
    });
  });
}
