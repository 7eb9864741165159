/** What was read and never changes, by its id; so many at most, and what was not used for longest goes first. */
export class Known<Value> {
  private readonly values = new Map<string, Value>();

  constructor(private readonly most: number) {}

  /** The values of some ids; `load` gives those that are not known yet, as far as there are such. */
  async gather(
    ids: readonly string[],
    load: (missing: readonly string[]) => Promise<readonly (readonly [string, Value])[]>,
  ): Promise<ReadonlyMap<string, Value>> {
    const wanted = new Set(ids);
    const missing = [...wanted].filter((id) => !this.values.has(id));
    const loaded = missing.length === 0 ? [] : await load(missing);
    const found = new Map<string, Value>(loaded);
    for (const id of wanted) {
      const value = found.get(id) ?? this.values.get(id);
      if (value === undefined) continue;
      found.set(id, value);
      this.values.delete(id);
      this.values.set(id, value);
    }
    for (const id of this.values.keys()) {
      if (this.values.size <= this.most) break;
      this.values.delete(id);
    }
    return found;
  }
}
