import type { Logger } from 'pino';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import type { TrustCarrier } from './push/carrier.js';
import { endedTrusts } from './lists/store.js';
import type { Waivers } from './waivers/waivers.js';

const lookEveryMs = 15_000;
const tryAgainAfterMs = 10 * 60_000;

/** Ends temporary trusts and waivers when their time is over, where the product can reach the list; what fails is tried again later. */
export class TrustEnds {
  private readonly notBefore = new Map<string, number>();
  private looking: Promise<void> = Promise.resolve();
  private readonly timer = setInterval(() => {
    this.looking = this.looking
      .then(() => this.endThoseThatAreOver())
      .then(() => this.waivers.endThoseThatAreOver())
      .catch((error: unknown) =>
        this.logger.warn({ reason: String(error) }, 'temporary trusts and waivers could not be looked at'),
      );
  }, lookEveryMs).unref();

  constructor(
    private readonly db: Database,
    private readonly carrier: TrustCarrier,
    private readonly waivers: Pick<Waivers, 'endThoseThatAreOver'>,
    private readonly events: EventLog,
    private readonly logger: Logger,
  ) {}

  stop(): void {
    clearInterval(this.timer);
  }

  private async endThoseThatAreOver(): Promise<void> {
    for (const { applicationId, thumbprint, until } of await endedTrusts(this.db, new Date().toISOString())) {
      const key = `${applicationId} ${thumbprint}`;
      if (Date.now() < (this.notBefore.get(key) ?? 0)) continue;
      try {
        const change = { kind: 'unlist-certificate', holderId: applicationId, list: 'trusted', thumbprint } as const;
        await this.carrier.change(applicationId, [change], 'temporary trust');
        await this.db.transaction((tx) =>
          appendAudit(tx, {
            actor: 'temporary trust',
            action: 'trust ended',
            subject: applicationId,
            details: { thumbprint, until },
          }),
        );
        await this.events.tell({ kind: 'trust-changed', applicationId });
      } catch (error) {
        this.notBefore.set(key, Date.now() + tryAgainAfterMs);
        this.logger.warn({ applicationId, thumbprint, reason: String(error) }, 'a temporary trust could not be ended');
      }
    }
  }
}
