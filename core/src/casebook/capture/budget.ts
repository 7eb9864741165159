/** So many bytes may be held in all, whatever a file claims. */
export class Budget {
  private held = 0;

  constructor(private readonly most: number) {}

  /** @returns false where there is no room for so many more: then they must not be held */
  take(bytes: number): boolean {
    if (this.held + bytes > this.most) return false;
    this.held += bytes;
    return true;
  }

  give(bytes: number): void {
    this.held -= bytes;
  }
}
