import type { Logger } from 'pino';
import type { Floors } from './floors.js';

const lookEveryMs = 15_000;

/** Ends exceptions from the floor when their time is over. */
export class FloorEnds {
  private readonly timer: NodeJS.Timeout;

  constructor(floors: Pick<Floors, 'endThoseThatAreOver'>, logger: Logger) {
    let looking: Promise<void> = Promise.resolve();
    this.timer = setInterval(() => {
      looking = looking
        .then(() => floors.endThoseThatAreOver())
        .catch((error: unknown) => logger.warn({ reason: String(error) }, 'exceptions could not be looked at'));
    }, lookEveryMs).unref();
  }

  stop(): void {
    clearInterval(this.timer);
  }
}
