/** What comes until it is taken, in its order: where more comes than has room, the oldest goes and is counted. */
export class Newest<Item> {
  private items: Item[] = [];
  private skipped = 0;

  constructor(private readonly room: number) {}

  push(item: Item): void {
    this.items.push(item);
    // Cut now and then: to move all others at each one that comes would take long just where many come.
    if (this.items.length >= 2 * this.room) this.cut();
  }

  get isEmpty(): boolean {
    return this.items.length === 0;
  }

  take(): { readonly items: readonly Item[]; readonly skipped: number } {
    this.cut();
    const { items, skipped } = this;
    this.items = [];
    this.skipped = 0;
    return { items, skipped };
  }

  private cut(): void {
    const tooMany = Math.max(0, this.items.length - this.room);
    this.skipped += tooMany;
    this.items = this.items.slice(tooMany);
  }
}
