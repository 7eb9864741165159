import { DestroyRef, ElementRef, Injectable, computed, inject, signal } from '@angular/core';
import type { Signal } from '@angular/core';

/** Rows of a long list that are drawn, from the first to before the last. */
export interface RowRange {
  readonly from: number;
  readonly to: number;
}

/** So many rows are drawn or let go at once: scrolling within them draws nothing. */
const step = 25;
/** Rows that are drawn above and below what is seen. */
const spare = 25;

/**
 * Which rows of a list in the page are to be drawn, while the page is scrolled: a few more than are seen. The list is as high
 * as all of its rows, so that the page’s own scroll bar tells where one is.
 */
@Injectable()
export class RowWindow {
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  private readonly seen = signal<RowRange>({ from: 0, to: 2 * step + spare });
  private frame = 0;

  constructor() {
    const look = (): void => {
      this.frame ||= requestAnimationFrame(() => {
        this.frame = 0;
        this.look();
      });
    };
    window.addEventListener('scroll', look, { passive: true });
    window.addEventListener('resize', look, { passive: true });
    inject(DestroyRef).onDestroy(() => {
      window.removeEventListener('scroll', look);
      window.removeEventListener('resize', look);
      cancelAnimationFrame(this.frame);
    });
  }

  /** @param rows how many there are; @param height of one, in pixels */
  range(rows: Signal<number>, height: number): Signal<RowRange> {
    this.height = height;
    return computed(
      () => {
        const { from, to } = this.seen();
        const last = Math.min(rows(), to);
        return { from: Math.max(0, Math.min(from, last - step)), to: last };
      },
      { equal: (one, other) => one.from === other.from && one.to === other.to },
    );
  }

  /** Brings a row into sight. */
  show(index: number): void {
    const { top } = this.body().getBoundingClientRect();
    const at = top + index * this.height;
    const room = 2 * this.height;
    if (at < room) window.scrollBy({ top: at - room });
    else if (at > window.innerHeight - room) window.scrollBy({ top: at - window.innerHeight + room });
  }

  private height = 1;
  private body = (): HTMLElement => this.host.nativeElement.querySelector('tbody') ?? this.host.nativeElement;

  private look(): void {
    const above = -this.body().getBoundingClientRect().top;
    const first = Math.floor(Math.max(0, above) / this.height) - spare;
    const last = Math.ceil((above + window.innerHeight) / this.height) + spare;
    const range = { from: Math.max(0, down(first)), to: Math.max(step, down(last) + step) };
    const { from, to } = this.seen();
    if (range.from !== from || range.to !== to) this.seen.set(range);
  }
}

const down = (row: number): number => Math.floor(row / step) * step;
