import type { FactOf, Machine } from '@loyal-hinge/core';
import type { OriginAt } from '@loyal-hinge/core/field';

/** An origin of an item, with what the plant knows of its device. */
export interface KnownOrigin extends OriginAt {
  /** null: the plant has no such machine any more. */
  readonly device: Machine | null;
  /** Firewalls that stop the server’s machine on its way to the device, by their rules. */
  readonly stoppedBy: FactOf<'field-reach'>['stoppedBy'];
  /** What the register said in the check before, and since when; null: it was not read. */
  readonly before: {
    readonly words: readonly (number | null)[];
    readonly since: string;
    readonly checks: number;
  } | null;
}

/** Waits until nobody else of ours talks to a device, and holds it while `run` runs. */
export type AtDevice = <Result>(deviceId: string, run: () => Promise<Result>, signal: AbortSignal) => Promise<Result>;

/** For whoever has no others beside them. */
export const alone: AtDevice = (_, run) => run();
