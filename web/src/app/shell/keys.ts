import { Injectable, signal } from '@angular/core';

export interface KeyHelp {
  readonly keys: string;
  readonly does: string;
}

type Handler = () => void;

/** A field that was asked for is there by then, or never comes. */
const patienceMs = 3000;

/** Keys of the page that is shown; the shell’s own are always there. */
@Injectable({ providedIn: 'root' })
export class Keys {
  private readonly handlers = new Map<string, { does: string; run: Handler }>();
  private pending: string | null = null;
  /** What was typed for a field that is on its way; null: none is awaited. */
  private early: { readonly until: number; typed: string } | null = null;
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

  /** A field was asked for: what is typed before it is there is meant for it, and does nothing to the page. */
  awaitField(): void {
    this.early = { until: Date.now() + patienceMs, typed: '' };
  }

  /** The field is there. @returns what was typed for it meanwhile */
  typedEarly(): string {
    const typed = this.early?.typed ?? '';
    this.early = null;
    return typed;
  }

  hear(event: KeyboardEvent): void {
    if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event)) return;
    if (this.early && Date.now() < this.early.until) {
      if (event.key.length === 1) this.early.typed += event.key;
      event.preventDefault();
      return;
    }
    // A key under a dialog is not meant for the page.
    if (document.querySelector('.p-dialog-mask')) return;
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
