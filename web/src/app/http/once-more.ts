import { effect, untracked } from '@angular/core';
import type { Signal } from '@angular/core';

/** Does something whenever a count has grown, such as that of commands that were carried out; not for what it is at first. */
export function onceMore(count: Signal<number>, does: () => void): void {
  let before: number | null = null;
  effect(() => {
    const now = count();
    if (before !== null && now > before) untracked(does);
    before = now;
  });
}
