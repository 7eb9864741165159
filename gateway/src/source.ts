import type { GatewayValue } from '@loyal-hinge/core';
import type { UaEvent } from './ua/events.js';
import type { HistoryAnswer, HistoryAsked } from './ua/history.js';

/** An item as a source has it. */
export interface SourceItem {
  /** Below Objects, parts divided by `/`. */
  readonly path: readonly string[];
  /** A built-in type, such as `Double`; null: another one. */
  readonly type: string | null;
  /** −1: one value; 1 and more: so many dimensions (Part 3 §5.6.2). */
  readonly valueRank: number;
  /** Whether the source lets its history be read. */
  readonly hasHistory?: boolean;
}

/** A value, and what of it another UA peer needs to have the very same: kept as it came. */
export interface SourceValue extends GatewayValue {
  readonly raw: unknown;
}

/** A node that sends events. */
export interface SourceNotifier {
  readonly path: readonly string[];
}

export interface SourceEars {
  /** It is there, with these items: at the beginning, and each time that it comes back. */
  there(items: readonly SourceItem[], notifiers?: readonly SourceNotifier[]): Promise<void>;
  changed(path: string, value: SourceValue): void;
  /** One of its notifiers sent an event. */
  happened?(path: string, event: UaEvent): void;
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
  /** Reads of an item’s history. @returns what the source answers, or a status code by its name */
  history?(path: string, asked: HistoryAsked): Promise<HistoryAnswer>;
  /** Listens to notifiers by their paths, until it is gone. @returns why some are not listened to, by their paths */
  hear?(paths: readonly string[]): Promise<ReadonlyMap<string, string>>;
  stop(): Promise<void>;
}
