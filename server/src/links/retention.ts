import { sql } from 'drizzle-orm';
import type { Logger } from 'pino';
import { mostTimelineDays } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { readSetting } from '../database/settings.js';
import { forgetSpans } from '../link-history/spans.js';

const lookEveryMs = 3_600_000;
const atOnce = 500;
const dayMs = 86_400_000;
export const usualKeptDays = 90;
/** As far back as the timeline shows, and what a link was at its beginning. */
const timelineDays = mostTimelineDays + 31;

/**
 * Lets old facts go, a whole month at a time, and then their checks; what a verdict of today rests on stays, however old it is.
 * Makes the parts, too, that are written to next, and clears away what was noted of trust more than once.
 */
export class Retention {
  private readonly timer = setInterval(() => void this.look(), lookEveryMs).unref();
  private stopped = false;

  constructor(
    private readonly db: Database,
    private readonly logger: Logger,
  ) {}

  stop(): void {
    this.stopped = true;
    clearInterval(this.timer);
  }

  /** A little at a time, so that nobody waits for it. */
  async look(): Promise<void> {
    try {
      const days = await readSetting(this.db, 'checksKeptDays');
      const before = new Date(Date.now() - (typeof days === 'number' ? days : usualKeptDays) * dayMs).toISOString();
      await this.db.execute(sql`select make_parts_ahead(), settle_trust_versions()`);
      const { rows: months } = await this.db.execute<{ gone: number }>(sql`select forget_facts(${before}) as gone`);
      if ((months[0]?.gone ?? 0) > 0)
        this.logger.info({ months: months[0]?.gone, before }, 'old months of facts were let go');
      await forgetSpans(this.db, new Date(Date.now() - timelineDays * dayMs).toISOString());
      for (let gone = atOnce; gone === atOnce && !this.stopped;) {
        const { rows } = await this.db.execute<{ gone: number }>(
          sql`select forget_checks(${before}, ${atOnce}) as gone`,
        );
        gone = rows[0]?.gone ?? 0;
        if (gone > 0) this.logger.info({ checks: gone, before }, 'old checks were let go');
      }
    } catch (error) {
      this.logger.warn({ reason: String(error) }, 'old checks could not be let go; it is tried again');
    }
  }
}
