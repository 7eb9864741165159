import { ChangeDetectionStrategy, Component, computed, input, signal } from '@angular/core';
import type { LinkState } from '@loyal-hinge/core';
import type { TimelineRow } from '@loyal-hinge/contract';
import { momentText } from '../signs/moment';
import { stateWords } from '@loyal-hinge/core/casebook';

const width = 1000;
const height = 18;

/** How each state is drawn between two places: they differ by shape as well as by colour. */
const shapes: Readonly<Record<LinkState, (from: number, to: number) => string>> = {
  Sound: (from, to) => `M${from} 4H${to}V14H${from}z`,
  Strained: (from, to) => `M${from} 9H${to}V14H${from}z`,
  Parted: (from, to) => `M${from} 0H${to}V4H${from}zM${from} 14H${to}V18H${from}z`,
  Untried: (from, to) => `M${from} 8.6H${to}V9.4H${from}z`,
};

/** How one link was over a period, as a line. */
@Component({
  selector: 'hinge-span-line',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg
      viewBox="0 0 ${width} ${height}"
      preserveAspectRatio="none"
      width="100%"
      height="${height}"
      role="img"
      [attr.aria-label]="words()"
      (pointermove)="point($event)"
      (pointerleave)="at.set(-1)"
    >
      @for (group of groups(); track group.state) {
        <path [attr.d]="group.path" [class]="group.state" />
      }
    </svg>
    @if (pointed(); as told) {
      <span class="told" aria-hidden="true" [style.left.%]="told.at">{{ told.says }}</span>
    }
  `,
  styles: `
    :host {
      display: block;
      position: relative;
      line-height: 0;
      min-width: 12rem;
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
    .Untried {
      fill: var(--faint);
    }
    .told {
      position: absolute;
      top: 100%;
      z-index: 2;
      margin-top: 2px;
      padding: 0.3rem 0.5rem;
      transform: translateX(-50%);
      background: var(--ink);
      color: var(--paper);
      border-radius: 3px;
      font-size: 0.82rem;
      line-height: 1.3;
      white-space: nowrap;
      pointer-events: none;
    }
  `,
})
export class SpanLine {
  readonly stretches = input.required<TimelineRow['stretches']>();
  readonly from = input.required<number>();
  readonly to = input.required<number>();
  /** Where the pointer is, from 0 to 1; negative: nowhere. */
  readonly at = signal(-1);
  private readonly spans = computed(() => {
    let from = this.from();
    return this.stretches().map(({ state, to }) => {
      const span = { state, from, to };
      from = to;
      return span;
    });
  });
  readonly groups = computed(() => {
    const paths = new Map<LinkState, string>();
    for (const { state, from, to } of this.spans())
      paths.set(state, (paths.get(state) ?? '') + shapes[state](this.place(from), this.place(to)));
    return [...paths].map(([state, path]) => ({ state, path }));
  });
  readonly words = computed(() => {
    const shown = this.spans().slice(-5);
    const told = shown.map(
      ({ state, from }) => `${stateWords[state]} from ${momentText(new Date(from).toISOString())}`,
    );
    return `${shown.length < this.spans().length ? 'Before that other states; ' : ''}${told.join(', ')}`;
  });
  readonly pointed = computed(() => {
    if (this.at() < 0) return null;
    const at = this.from() + this.at() * (this.to() - this.from());
    const span = this.spans().find(({ from, to }) => from <= at && at < to);
    if (!span) return null;
    const [from, to] = [span.from, span.to].map((time) => momentText(new Date(time).toISOString()));
    return { says: `${stateWords[span.state]}: ${from} to ${to}`, at: Math.min(85, Math.max(15, this.at() * 100)) };
  });

  point({ clientX, currentTarget }: PointerEvent): void {
    const { left, width: wide } = (currentTarget as Element).getBoundingClientRect();
    this.at.set((clientX - left) / wide);
  }

  /** Nothing that was is too short to be seen. */
  private place(at: number): number {
    return Math.round(((at - this.from()) / (this.to() - this.from())) * width * 10) / 10;
  }
}
