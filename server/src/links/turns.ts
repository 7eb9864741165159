/** Lets work on the same key run one after the other: one connection at a time per machine. */
export class Turns {
  private readonly last = new Map<string, Promise<void>>();

  async take<Result>(key: string, run: () => Promise<Result>): Promise<Result> {
    const before = this.last.get(key) ?? Promise.resolve();
    let finish: () => void = () => undefined;
    const mine = new Promise<void>((resolve) => (finish = resolve));
    const chain = before.then(() => mine);
    this.last.set(key, chain);
    await before;
    try {
      return await run();
    } finally {
      finish();
      if (this.last.get(key) === chain) this.last.delete(key);
    }
  }
}
