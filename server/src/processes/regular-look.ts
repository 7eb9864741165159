/** Looks again and again, one look after another; one that fails is told, and is not the last. */
export class RegularLook {
  private readonly timer: NodeJS.Timeout;
  private looking: Promise<void> = Promise.resolve();

  constructor(
    everyMs: number,
    private readonly look: () => Promise<void>,
    private readonly failed: (reason: string) => void,
  ) {
    this.timer = setInterval(() => this.now(), everyMs).unref();
  }

  /** Looks once beside the regular looks, after the one that is under way. */
  now(): void {
    this.looking = this.looking.then(this.look).catch((error: unknown) => this.failed(String(error)));
  }

  /** No look begins any more; resolves when the last one has ended. */
  async stop(): Promise<void> {
    clearInterval(this.timer);
    await this.looking;
  }
}
