import { Injectable, signal } from '@angular/core';

export interface KeyHelp {
  readonly keys: string;
  readonly does: string;
}

interface Entry {
  readonly does: string;
  readonly run: () => void;
}

/** A field that was asked for is there by then, or never comes. */
const patienceMs = 3000;

/** Keys of the page that is shown; the shell’s own are always there. */
@Injectable({ providedIn: 'root' })
export class Keys {
  /** The newest of those that were added for a key has it; what was there before has it again when that is taken away. */
  private readonly entries = new Map<string, readonly Entry[]>();
  private pending: string | null = null;
  /** What was typed for a field that is on its way; null: none is awaited. */
  private early: { readonly until: number; typed: string } | null = null;
  readonly help = signal<readonly KeyHelp[]>([]);

  /** Adds keys (`c`, `g l`, `Enter`) and gives back how to take them away again. */
  add(keys: Readonly<Record<string, Entry>>): () => void {
    for (const [key, entry] of Object.entries(keys)) this.entries.set(key, [...(this.entries.get(key) ?? []), entry]);
    this.tell();
    return () => {
      for (const [key, entry] of Object.entries(keys))
        this.entries.set(
          key,
          (this.entries.get(key) ?? []).filter((one) => one !== entry),
        );
      this.tell();
    };
  }

  /** Does what keys do, as if they were pressed. */
  run(keys: string): void {
    this.entryOf(keys)?.run();
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
    const entry = this.entryOf(wanted);
    if (entry) {
      event.preventDefault();
      entry.run();
    } else if (event.key === 'g') this.pending = 'g';
  }

  private entryOf(keys: string): Entry | undefined {
    return this.entries.get(keys)?.at(-1);
  }

  private tell(): void {
    this.help.set(
      [...this.entries].flatMap(([keys, entries]) => {
        const entry = entries.at(-1);
        return entry ? [{ keys, does: entry.does }] : [];
      }),
    );
  }
}

function isTyping({ target, key }: KeyboardEvent): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (target.closest('input, textarea, select, [contenteditable], [role=dialog]')) return true;
  return key === 'Enter' && target.closest('a, button, summary') !== null;
}
