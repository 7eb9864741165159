import { FactBook, valuesBehind } from '@loyal-hinge/core';
import type { Fact, ValuesBehind } from '@loyal-hinge/core';

/** What one check of a link to a server saw. */
export interface SeenAtServer {
  readonly serverId: string;
  readonly facts: readonly Fact[];
}

/** An item’s value at its server and at its device, as the newest of all checks saw them; two servers may have items of one name. */
export class LatestValues {
  private readonly values = new Map<string, { readonly at: string; readonly value: ValuesBehind }>();

  constructor(seen: readonly SeenAtServer[]) {
    for (const { serverId, facts } of seen)
      for (const value of valuesBehind(new FactBook(facts))) {
        const key = keyOf(serverId, value.path);
        const at = comparedAt(facts, value.path);
        const before = this.values.get(key);
        if (!before || before.at < at) this.values.set(key, { at, value });
      }
  }

  /** null: no check has compared them. */
  of(serverId: string, path: string): ValuesBehind | null {
    return this.values.get(keyOf(serverId, path))?.value ?? null;
  }
}

const keyOf = (serverId: string, path: string): string => JSON.stringify([serverId, path]);

const comparedAt = (facts: readonly Fact[], path: string): string =>
  facts.findLast((fact) => fact.kind === 'field-compared' && fact.path === path)?.at ?? '';
