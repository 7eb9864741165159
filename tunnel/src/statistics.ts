import { refusals } from '@loyal-hinge/contract/line';
import type { Refusal, TunnelStatistics } from '@loyal-hinge/contract/line';

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
