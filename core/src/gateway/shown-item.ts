/** A value with its status and its time, as one: nothing of it goes without the rest. */
export interface GatewayValue {
  readonly value: unknown;
  /** Of the built-in types (Part 6 §5.1.2), such as `Double`; null: the source has told none. */
  readonly type: string | null;
  /** Status code (Part 4 §7.39). */
  readonly status: number;
  /** When it was so at its source, in milliseconds since 1970; null: the source does not say. */
  readonly sourceTime: number | null;
}

/** Status codes that a gateway gives itself (Part 4 §7.39, Part 8). */
export const gatewayStatus = {
  /** No value has come yet. */
  waiting: 0x8032_0000,
  /** The source is gone; this is what it said last. */
  lastUsable: 0x4090_0000,
} as const;

/** Severity bits (Part 4 §7.39.1): 0 good, 1 uncertain, 2 and 3 bad. */
export const isBadStatus = (status: number): boolean => status >>> 30 >= 2;
export const isGoodStatus = (status: number): boolean => status >>> 30 === 0;

/**
 * What a gateway shows of one item of a source. Values are shown in the order of their times, and none is shown that is older than the
 * one before; while the source is gone, the last one stays with its old time, marked as the last that can be used.
 */
export class ShownItem {
  private shown: GatewayValue = { value: null, type: null, status: gatewayStatus.waiting, sourceTime: null };
  /** As the source told it: its status comes back with the source. */
  private told: GatewayValue | null = null;
  private isLost = false;
  /** Values that were older than what was shown, and were not. */
  withheld = 0;

  get now(): GatewayValue {
    return this.shown;
  }

  /** What the source says now; null: it is gone, or has said nothing yet. */
  get atSource(): GatewayValue | null {
    return this.isLost ? null : this.told;
  }

  /** A value came from the source. @returns what is shown from now on; null: nothing has changed */
  take(value: GatewayValue): GatewayValue | null {
    const last = this.told?.sourceTime ?? null;
    if (last !== null && value.sourceTime !== null && value.sourceTime < last) {
      this.withheld += 1;
      return null;
    }
    this.told = value;
    this.isLost = false;
    return this.show(value);
  }

  /** The source is gone. @returns what is shown from now on; null: nothing has changed */
  lose(): GatewayValue | null {
    if (this.isLost) return null;
    this.isLost = true;
    const { told } = this;
    // What was bad before is no better for being old.
    if (!told || isBadStatus(told.status)) return null;
    return this.show({ ...told, status: gatewayStatus.lastUsable });
  }

  private show(value: GatewayValue): GatewayValue | null {
    if (isSameValue(this.shown, value)) return null;
    this.shown = value;
    return value;
  }
}

/** Whether two values say the same, times and status among it. */
export const isSameValue = (one: GatewayValue, other: GatewayValue): boolean =>
  one.status === other.status &&
  one.sourceTime === other.sourceTime &&
  one.type === other.type &&
  isSame(one.value, other.value);

function isSame(one: unknown, other: unknown): boolean {
  if (Object.is(one, other)) return true;
  if (one instanceof Date && other instanceof Date) return one.getTime() === other.getTime();
  if (isList(one) && isList(other))
    return one.length === other.length && Array.from(one).every((each, index) => isSame(each, other[index]));
  if (typeof one !== 'object' || typeof other !== 'object' || one === null || other === null) return false;
  const [keys, others] = [Object.keys(one), Object.keys(other)];
  return (
    keys.length === others.length &&
    keys.every((key) => isSame((one as Record<string, unknown>)[key], (other as Record<string, unknown>)[key]))
  );
}

const isList = (value: unknown): value is ArrayLike<unknown> =>
  Array.isArray(value) || (ArrayBuffer.isView(value) && 'length' in value);
