/** So many at once and no more, however many ask at the same moment: a slot is taken before anything is waited for. */
export class Slots {
  private taken = 0;

  constructor(private readonly most: number) {}

  /** Takes a slot, and gives what frees it, once; null: all are taken. */
  take(): (() => void) | null {
    if (this.taken >= this.most) return null;
    this.taken += 1;
    let isTaken = true;
    return () => {
      if (isTaken) this.taken -= 1;
      isTaken = false;
    };
  }
}
