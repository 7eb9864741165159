/** An address, and the port where there is one. */
export interface LogPlace {
  readonly address: string;
  readonly port: number | null;
}

interface Somewhere {
  /** Where it begins in the file, in bytes. */
  readonly position: number;
  /** ISO 8601 in UTC, as exactly as it was written; null: it says no time. */
  readonly time: string | null;
}

/** An event that Windows has written down. */
export interface WindowsEvent extends Somewhere {
  readonly kind: 'windows';
  readonly provider: string;
  readonly eventId: number;
  readonly channel: string;
  readonly computer: string;
  /** Name to value; what has no name stands in order under `#1`, `#2`… */
  readonly data: Readonly<Record<string, string>>;
  /** What it says in words, where that is known. */
  readonly says: string | null;
}

/** What a firewall has done with a packet. */
export interface FirewallEvent extends Somewhere {
  readonly kind: 'firewall';
  /** The machine that wrote it down; empty where it doesn’t say. */
  readonly computer: string;
  /** `unknown` where the line says only what its rule was called. */
  readonly action: 'accept' | 'drop' | 'reject' | 'unknown';
  /** What the rule calls itself in the log; empty: nothing. */
  readonly label: string;
  readonly in: string;
  readonly out: string;
  readonly protocol: string;
  readonly from: LogPlace;
  readonly to: LogPlace;
}

/** A row of a table, or an object in a line: names and values as they are. */
export interface RecordEvent extends Somewhere {
  readonly kind: 'record';
  readonly data: Readonly<Record<string, string>>;
}

/** A line that no form is known of; by a reading rule its parts have names. */
export interface TextEvent extends Somewhere {
  readonly kind: 'text';
  readonly text: string;
  readonly data: Readonly<Record<string, string>>;
}

export type LogEvent = WindowsEvent | FirewallEvent | RecordEvent | TextEvent;

/** Something that was not understood: where, and why. */
export interface LogGap {
  readonly position: number;
  readonly says: string;
}
