import type { GatewayValue } from '@loyal-hinge/core';

/** An item as a source has it. */
export interface SourceItem {
  /** Below Objects, parts divided by `/`. */
  readonly path: readonly string[];
  /** A built-in type, such as `Double`; null: another one. */
  readonly type: string | null;
  /** −1: one value; 1 and more: so many dimensions (Part 3 §5.6.2). */
  readonly valueRank: number;
}

/** A value, and what of it another UA peer needs to have the very same: kept as it came. */
export interface SourceValue extends GatewayValue {
  readonly raw: unknown;
}

export interface SourceEars {
  /** It is there, with these items: at the beginning, and each time that it comes back. */
  there(items: readonly SourceItem[]): Promise<void>;
  changed(path: string, value: SourceValue): void;
  /** It is gone; it is dialled again by itself. @param says why */
  gone(says: string): void;
}

/** Where items come from: whichever kind of OPC it speaks. */
export interface GatewaySource {
  readonly name: string;
  start(ears: SourceEars): void;
  /** Watches items by their paths, until it is gone. */
  watch(paths: readonly string[]): Promise<void>;
  /**
   * @param type a built-in type; null: the one that the item has
   * @param raw the value as another UA peer gave it, where one did
   * @returns a status code by its name
   */
  write(path: string, value: unknown, type: string | null, raw?: unknown): Promise<string>;
  stop(): Promise<void>;
}
