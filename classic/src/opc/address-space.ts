import type { Variant, VariantType } from '../automation/variant.js';
import type { ObjectExporter } from '../dcom/exporter.js';
import { hresults } from '../dcom/interfaces.js';
import { opcErrors } from './errors.js';
import type { ServerState } from './interfaces.js';
import type { ItemProperty } from './item-properties.js';
import type { CallingBack } from './server-parts.js';

/** A value as an item has it just now. */
export interface Sample {
  readonly value: Variant;
  readonly quality: number;
  /** Milliseconds since 1970. */
  readonly timestamp: number;
}

export interface SpaceItem {
  readonly itemId: string;
  readonly type: VariantType;
  readonly canRead: boolean;
  readonly canWrite: boolean;
  read(): Sample;
  /** What it tells beside its value, besides what each item has. */
  readonly properties?: readonly ItemProperty[];
  /** @returns a code; 0: it is written */
  write(value: Variant): number | Promise<number>;
}

/** The items of a server. */
export interface AddressSpace {
  readonly isFlat: boolean;
  find(itemId: string): SpaceItem | null;
  /** What lies in a branch; null: there is no such branch. */
  within(path: readonly string[]): {
    readonly branches: readonly string[];
    readonly items: readonly { readonly name: string; readonly itemId: string }[];
  } | null;
  all(): readonly string[];
}

export interface DataAccessServing {
  readonly exporter: ObjectExporter;
  readonly space: AddressSpace;
  readonly vendor: string;
  readonly version: { readonly major: number; readonly minor: number; readonly build: number };
  readonly state: () => ServerState;
  /** The quickest that a group may be. */
  readonly leastUpdateRateMs: number;
  /** Whether it has what Data Access 3 adds. */
  readonly hasItemIo: boolean;
  readonly back: CallingBack;
  readonly now: () => number;
}

/** S_FALSE where one of many has failed. */
export const someFailed = (errors: readonly number[] | null): number =>
  (errors ?? []).some((error) => error !== 0) ? hresults.false : hresults.ok;
export const rightsOf = ({ canRead, canWrite }: SpaceItem): number => (canRead ? 1 : 0) | (canWrite ? 2 : 0);

export function sampleOf(item: SpaceItem | null): { readonly sample: Sample | null; readonly error: number } {
  if (!item) return { sample: null, error: opcErrors.unknownItem };
  if (!item.canRead) return { sample: null, error: opcErrors.badRights };
  return { sample: item.read(), error: 0 };
}
