import { securityModes, tokenTypes } from '@loyal-hinge/core';
import type { Door, DoorRule } from '@loyal-hinge/core';
import type { EntryClosing } from '@loyal-hinge/contract';

/** Doors that a what-if closes or opens, as the page’s address holds them. */
export interface RulesInAddress {
  /** Doors whose state is turned, one after the other: closed, or taken out of those that nobody needs. */
  readonly close: string;
  readonly open: string;
  /** Not empty: all weak doors that nobody needs are closed as well. */
  readonly unneeded: string;
}

/** A door of one server, or everything that fits on all of them. */
export type RuleTarget = Omit<DoorRule, 'to'>;

/** A target as a word of the address; what is left open is empty. */
export const keyOf = ({ serverId, policy, mode, token }: RuleTarget): string =>
  [serverId, policy, mode, token].map((part) => encodeURIComponent(part ?? '').replaceAll('~', '%7E')).join('~');

export const targetOfDoor = (serverId: string, { policy, mode, token }: Door): RuleTarget => ({
  serverId,
  policy,
  mode,
  token,
});

/** null: it names no door. */
function targetFrom(key: string): RuleTarget | null {
  const [serverId, policy, mode, token, ...rest] = key.split('~').map(decoded);
  if (token === undefined || rest.length > 0) return null;
  const knownMode = mode ? securityModes.find((one) => one === mode) : null;
  const knownToken = token ? tokenTypes.find((one) => one === token) : null;
  if (knownMode === undefined || knownToken === undefined) return null;
  return { serverId: serverId || null, policy: policy || null, mode: knownMode, token: knownToken };
}

function decoded(part: string): string {
  try {
    return decodeURIComponent(part);
  } catch {
    return part;
  }
}

const keysIn = (text: string): readonly string[] => text.split(',').filter((key) => key !== '');

/** The keys of all that is closed: those that nobody needs, where they are asked for, with those that were turned. */
export function closedKeys({ close, unneeded }: RulesInAddress, closing: EntryClosing | null): ReadonlySet<string> {
  const idle = unneeded === '' ? [] : (closing?.close ?? []);
  const closed = new Set(idle.map(({ serverId, door }) => keyOf(targetOfDoor(serverId, door))));
  for (const key of keysIn(close)) if (!closed.delete(key)) closed.add(key);
  return closed;
}

/** What is asked of the server: what opens goes first. */
export function rulesIn(address: RulesInAddress, closing: EntryClosing | null): readonly DoorRule[] {
  const rules = (keys: Iterable<string>, to: DoorRule['to']): readonly DoorRule[] =>
    [...keys].flatMap((key) => {
      const target = targetFrom(key);
      return target ? [{ ...target, to }] : [];
    });
  return [...rules(keysIn(address.open), 'open'), ...rules(closedKeys(address, closing), 'closed')];
}

/** A list of the address with a key more, or without it where it was there. */
export function turned(list: string, key: string): string {
  const keys = keysIn(list);
  return (keys.includes(key) ? keys.filter((one) => one !== key) : [...keys, key]).join(',');
}
