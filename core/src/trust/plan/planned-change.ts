import type { TrustChange } from '../plant-trust/trust-change.js';

export interface PlannedChange {
  readonly change: TrustChange;
  readonly why: string;
  /** Links that need it; empty where something is taken away that no link needs. */
  readonly linkIds: readonly string[];
}
