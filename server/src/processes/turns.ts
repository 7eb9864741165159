/** What ends the waiting for a turn, and what it then fails with. */
export interface Impatience {
  readonly signal: AbortSignal;
  readonly refusal: () => Promise<Error>;
}

/** Lets work on the same key run one after the other, in this process. */
export class Turns {
  private readonly last = new Map<string, Promise<void>>();

  /** Whether somebody works on a key now, or waits to. */
  isTaken(key: string): boolean {
    return this.last.has(key);
  }

  async take<Result>(key: string, run: () => Promise<Result>, impatience?: Impatience): Promise<Result> {
    const before = this.last.get(key) ?? Promise.resolve();
    let finish: () => void = () => undefined;
    const mine = new Promise<void>((resolve) => (finish = resolve));
    const chain = before.then(() => mine);
    this.last.set(key, chain);
    try {
      if (impatience && !(await comesBefore(before, impatience.signal))) throw await impatience.refusal();
      await before;
      return await run();
    } finally {
      finish();
      // One that left without its turn has others before it still: the key is free only when they have finished, too.
      void chain.then(() => {
        if (this.last.get(key) === chain) this.last.delete(key);
      });
    }
  }
}

/** Whether the turn comes before the patience is at its end. */
function comesBefore(turn: Promise<void>, signal: AbortSignal): Promise<boolean> {
  return new Promise((resolve) => {
    const give = (): void => resolve(false);
    if (signal.aborted) give();
    signal.addEventListener('abort', give, { once: true });
    void turn.then(() => {
      signal.removeEventListener('abort', give);
      resolve(true);
    });
  });
}
