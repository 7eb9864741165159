/** Why a stream or a line was refused. */
export const refusals = [
  'unknown target',
  'target does not answer',
  'too many streams',
  'no line',
  'certificate not valid',
  'peer not named',
  'no certificate',
] as const;
export type Refusal = (typeof refusals)[number];

/** What an end of a tunnel tells of itself. */
export interface TunnelStatistics {
  readonly name: string;
  readonly state: 'waiting' | 'joined' | 'stopping';
  /** Who is at the other end; null: nobody. */
  readonly peer: string | null;
  readonly joinedAt: string | null;
  /** Of the last sign of life; null: there was none yet. */
  readonly roundTripMs: number | null;
  readonly streams: { readonly open: number; readonly total: number };
  /** Of what streams carried. */
  readonly bytes: { readonly sent: number; readonly received: number };
  /** How often the line was made anew. */
  readonly joins: number;
  readonly refused: Readonly<Record<Refusal, number>>;
}

/** Counts what happens at an end. */
export class Counts {
  peer: string | null = null;
  joinedAt: string | null = null;
  roundTripMs: number | null = null;
  open = 0;
  total = 0;
  sent = 0;
  received = 0;
  joins = 0;
  isStopping = false;
  private readonly refused = new Map<Refusal, number>(refusals.map((refusal) => [refusal, 0]));

  refuse(refusal: Refusal): void {
    this.refused.set(refusal, (this.refused.get(refusal) ?? 0) + 1);
  }

  told(name: string): TunnelStatistics {
    return {
      name,
      state: this.isStopping ? 'stopping' : this.peer === null ? 'waiting' : 'joined',
      peer: this.peer,
      joinedAt: this.joinedAt,
      roundTripMs: this.roundTripMs,
      streams: { open: this.open, total: this.total },
      bytes: { sent: this.sent, received: this.received },
      joins: this.joins,
      refused: Object.fromEntries(this.refused) as Record<Refusal, number>,
    };
  }
}
