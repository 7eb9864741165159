import type { ItemPattern, TypedElement, TypedNode } from '@loyal-hinge/core';
import type { BenchReading } from '@loyal-hinge/contract';
import type { Variant as ClassicVariant } from '@loyal-hinge/classic';
import type { DescribedNode } from '../../ua/describe-node.js';
import type { MatchingNodes } from '../../ua/matching-nodes.js';
import type { BrowsedNode, UaSession } from '../../ua/session.js';
import type { ItemToWatch, SubscriptionHearer, WatchedItem } from '../../ua/subscription.js';
import type { WireValue as UaVariant } from '../../ua/write-value.js';

/** A live session as the bench uses it, of whichever kind its link is. */
export interface BenchSession {
  /** Resolves when the session or its connection is gone. */
  readonly ended: Promise<void>;
  /** The server’s clock: asked for, too, to know that it is still there. */
  serverTime(): Promise<string | null>;
  /** @param parent null: from the top */
  browse(parent: string | null): Promise<readonly BrowsedNode[]>;
  matches(pattern: ItemPattern, signal: AbortSignal): Promise<MatchingNodes>;
  read(nodeId: string): Promise<BenchReading>;
  describe(nodeId: string): Promise<DescribedNode>;
  /** A node with all that a value to be written is held to. */
  toWrite(nodeId: string): Promise<NodeToWrite>;
  /** Writes a value alone. */
  write(nodeId: string, value: WireValue): Promise<WriteAnswer>;
  subscribe(publishingIntervalMs: number, hearer: WatchedHearer): Promise<BenchSubscription>;
  /** What only some servers can tell; null: this kind of server does not. */
  readonly more: Pick<UaSession, 'history' | 'listen'> | null;
}

/** A value as it goes over the wire. */
export type WireValue =
  { readonly kind: 'ua'; readonly variant: UaVariant } | { readonly kind: 'classic'; readonly variant: ClassicVariant };

/** A node before it is written: its value as it came, and what a new one is held to. */
export interface NodeToWrite extends TypedNode {
  readonly mayWrite: boolean;
  /** What is written back to undo. */
  readonly value: WireValue;
  /** In words, as it is read; and as it is typed. null: it has none. */
  readonly said: string | null;
  readonly shown: string | null;
  /** Elements that somebody typed, as a value of this node, and what that is in words. */
  valueOf(elements: readonly TypedElement[]): { readonly value: WireValue; readonly said: string | null };
}

export interface WriteAnswer {
  readonly code: string;
  /** Why it was refused, in words; null: it was not. */
  readonly refusal: string | null;
}

/** Who hears of what is watched. */
export interface WatchedHearer extends Pick<SubscriptionHearer, 'changed'> {
  /** How items are watched has changed. */
  revised(items: readonly BenchItem[]): void;
}

/** An item that is watched. */
export interface BenchItem extends WatchedItem {
  /** The server tells changes by itself; false: it can’t come back to us, and is asked each time. */
  readonly isTold: boolean;
}

export interface BenchSubscription {
  /** Watches further items; each has a code of its own. */
  add(wished: readonly ItemToWatch[], samplingIntervalMs: number): Promise<readonly BenchItem[]>;
  remove(keys: readonly number[]): Promise<void>;
  /** Ends it with all its items; never throws. */
  end(): Promise<void>;
}
