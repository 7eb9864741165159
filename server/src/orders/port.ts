import type { ChangeCapability, Instant, OrderChange } from '@loyal-hinge/core';
import type { OrderLine, ProposedOrder } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import type { Batch } from './batches.js';
import type { LineRow } from './store.js';

/** What a capability says of the changes that are its own, from what is known. It works on the database alone, in a worker. */
export interface ChangeWords<Change extends OrderChange = OrderChange> {
  /** Each line in words, in the same order. */
  say(db: Database, lines: readonly LineRow<Change>[]): Promise<readonly SaidChange[]>;
  /** The positions of those lines whose change holds, as far as is known now. */
  holding(db: Database, lines: readonly LineRow<Change>[]): Promise<readonly number[]>;
  /** The same lines, each with what its change really takes the place of: the way back is reckoned from that. */
  asTheyLie(db: Database, lines: readonly ProposedLine<Change>[]): Promise<readonly ProposedLine<Change>[]>;
}

/** A line as it is proposed. */
export type ProposedLine<Change extends OrderChange = OrderChange> = Omit<ProposedOrder['lines'][number], 'change'> & {
  readonly change: Change;
};

/** A change as somebody working under a permit has to see it. */
export type SaidChange = Pick<
  OrderLine,
  'title' | 'target' | 'before' | 'after' | 'undo' | 'way' | 'restart' | 'signedHere'
>;

/** What a capability does with the changes that are its own. */
export interface ChangeDesk<Change extends OrderChange = OrderChange> {
  /** What is written into the trail when lines were carried out, such as “lists changed”. */
  readonly action: string;
  /** Whether somebody must sign for one of these changes with a passphrase. */
  needPassphrase(changes: readonly Change[]): Promise<boolean>;
  /** No change of this kind is ever made by the product itself. */
  readonly isAlwaysByHand?: true;
  /** What a person has to do at the target; null where the product makes these changes itself. */
  byHand(target: string, changes: readonly Change[]): Promise<string | null>;
  /** Called when a person says that changes of one target are made there: what belongs to them here is done then. */
  afterHand?(changes: readonly Change[], actor: string): Promise<void>;
  /** Makes changes of one target hold. @throws a problem where they could not be made, or not be seen to hold */
  carry(errand: Errand<Change>): Promise<Carried>;
  /** What holds lines of an order back while it is carried out. */
  gate(order: OrderAtWork): Promise<Gate>;
}

export interface Errand<Change extends OrderChange = OrderChange> {
  readonly target: string;
  readonly changes: readonly Change[];
  /** Empty where none was needed. */
  readonly passphrase: string;
  readonly actor: string;
  /** The line that it is carried out for: taken up again, it goes on with what was made for that line before. */
  readonly forLine: string;
}

export interface Carried {
  readonly says: string;
  /** True where the target was restarted for it. */
  readonly restarted: boolean;
  /** Those changes that held before: nothing was written for them. */
  readonly idle?: readonly OrderChange[];
}

/** An order while it is carried out. */
export interface OrderAtWork {
  readonly decidedAt: Instant;
  readonly actor: string;
  /** Ends when the server stops. */
  readonly signal: AbortSignal;
  /** All its lines, looked at afresh. */
  linesNow(): Promise<readonly LineRow[]>;
  /** Says on the lines of a stage that wait what they wait for. */
  sayWaiting(stage: Batch['stage'], says: string): Promise<void>;
}

export interface Gate {
  /** Why a batch has to wait, in words; null where it may begin. Batches are asked for in the order of their stages. */
  heldBackBy(batch: Batch): Promise<string | null>;
}

/** Each capability is given its own changes, and no other. */
export type ChangeWordsOf = Readonly<Record<ChangeCapability, ChangeWords>>;
export type ChangeDesks = Readonly<Record<ChangeCapability, ChangeDesk>>;
