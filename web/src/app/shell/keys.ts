import { Injectable, signal } from '@angular/core';

export interface KeyHelp {
  readonly keys: string;
  readonly does: string;
}

type Handler = () => void;

/** Keys of the page that is shown; the shell’s own are always there. */
@Injectable({ providedIn: 'root' })
export class Keys {
  private readonly handlers = new Map<string, { does: string; run: Handler }>();
  private pending: string | null = null;
  readonly help = signal<readonly KeyHelp[]>([]);

  /** Adds keys (`c`, `g l`, `Enter`) and gives back how to take them away again. */
  add(keys: Readonly<Record<string, { does: string; run: Handler }>>): () => void {
    for (const [key, entry] of Object.entries(keys)) this.handlers.set(key, entry);
    this.tell();
    return () => {
      for (const [key, entry] of Object.entries(keys)) if (this.handlers.get(key) === entry) this.handlers.delete(key);
      this.tell();
    };
  }

  /** Does what keys do, as if they were pressed. */
  run(keys: string): void {
    this.handlers.get(keys)?.run();
  }

  hear(event: KeyboardEvent): void {
    if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event)) return;
    const wanted = this.pending === null ? event.key : `${this.pending} ${event.key}`;
    this.pending = null;
    const entry = this.handlers.get(wanted);
    if (entry) {
      event.preventDefault();
      entry.run();
    } else if (event.key === 'g') this.pending = 'g';
  }

  private tell(): void {
    this.help.set([...this.handlers].map(([keys, { does }]) => ({ keys, does })));
  }
}

function isTyping({ target, key }: KeyboardEvent): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (target.closest('input, textarea, select, [contenteditable], [role=dialog]')) return true;
  return key === 'Enter' && target.closest('a, button, summary') !== null;
}
