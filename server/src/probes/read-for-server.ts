import { DeviceLine } from '@loyal-hinge/field';
import type { Asked } from '@loyal-hinge/field';
import type { FromOutpost, FromServer } from '@loyal-hinge/contract/line';
import { isDeclared } from '../probe/address-ranges.js';
import { dialTcp } from '../probe/dial.js';

type Wish<Kind> = Extract<FromServer, { kind: Kind }>;

/** So many devices are visited at once. */
const mostVisits = 16;

interface Visit {
  line: DeviceLine | null;
  readonly end: AbortController;
}

/** Devices that a probe reads for the server, one request at a time: it only reads, and dials nothing that its own ranges leave out. */
export class ProbeReadings {
  private readonly visits = new Map<string, Visit>();

  constructor(
    private readonly ranges: readonly string[],
    private readonly say: (message: FromOutpost) => void,
  ) {}

  hear(message: FromServer): void {
    if (message.kind === 'open-device') void this.open(message);
    if (message.kind === 'read-device') void this.read(message);
    if (message.kind === 'leave-device') this.leave(message.visitId);
  }

  /** The server is gone: no connection is kept for it. */
  endAll(): void {
    for (const visitId of this.visits.keys()) this.leave(visitId);
  }

  private async open({ visitId, address, port, connectMs, answerMs }: Wish<'open-device'>): Promise<void> {
    if (!isDeclared(address, this.ranges)) return this.say({ kind: 'device-opened', visitId, outcome: 'withheld' });
    if (this.visits.size >= mostVisits || this.visits.has(visitId))
      return this.say({ kind: 'device-opened', visitId, outcome: 'too many' });
    const visit: Visit = { line: null, end: new AbortController() };
    this.visits.set(visitId, visit);
    const { outcome, socket } = await dialTcp(address, port, null, connectMs, visit.end.signal);
    if (socket) {
      visit.line = new DeviceLine(socket, answerMs);
      socket.once('close', () => {
        if (!visit.end.signal.aborted) this.say({ kind: 'device-gone', visitId });
      });
    }
    // It may have been left meanwhile.
    if (visit.end.signal.aborted) visit.line?.close();
    else if (!socket) this.visits.delete(visitId);
    this.say({ kind: 'device-opened', visitId, outcome });
  }

  private async read({ kind: _, visitId, askId, ...wish }: Wish<'read-device'>): Promise<void> {
    const visit = this.visits.get(visitId);
    if (!visit?.line) return;
    // What the protocol has no request for is never sent, and must not end the probe.
    const asked = await visit.line.read(wish, visit.end.signal).catch((error: unknown): Asked => {
      const why = error instanceof Error ? error.message : String(error);
      return { outcome: 'malformed', ms: 0, why };
    });
    this.say({ kind: 'device-read', visitId, askId, asked });
  }

  private leave(visitId: string): void {
    const visit = this.visits.get(visitId);
    this.visits.delete(visitId);
    visit?.end.abort();
    visit?.line?.close();
  }
}
