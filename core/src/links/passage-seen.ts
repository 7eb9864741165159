import type { Sight } from './cause.js';
import type { FactOf, FirewallOnWay } from './facts.js';

export type PassageSeen = 'through' | 'not through' | 'not tried';

/** Whether something was seen to get through by an opening, whatever rules say of it. */
export function seenThrough({ facts }: Pick<Sight, 'facts'>, { purpose }: FactOf<'passage'>): PassageSeen {
  if (purpose === 'redundant') return 'not tried';
  if (purpose === 'tunnel') {
    const ends = facts.latest('tunnel')?.ends ?? [];
    if (ends.length > 0 && ends.every(({ state }) => state === 'joined')) return 'through';
    return ends.some(({ side, state }) => side === 'dials' && state === 'waiting') ? 'not through' : 'not tried';
  }
  if (purpose === 'endpoint' && facts.latest('tunnel')) {
    const hello = facts.latest('hello');
    return hello?.outcome === 'acknowledged' ? 'through' : 'not tried';
  }
  if (purpose === 'endpoint' || purpose === 'mapper' || purpose === 'entrance') {
    const dialled = facts.all('tcp-connect').filter((fact) => fact.purpose === 'link');
    if (dialled.length === 0) return 'not tried';
    // Who refuses may be the machine itself: what refuses was reached, unless a firewall on the way refuses for it.
    return dialled.some(({ outcome }) => outcome === 'open') ? 'through' : 'not through';
  }
  if (purpose === 'objects') {
    const places = facts.latest('classic-object-port')?.places ?? [];
    if (places.length === 0) return 'not tried';
    return places.some(({ outcome }) => outcome === 'open') ? 'through' : 'not through';
  }
  const watch = facts.latest('classic-watch');
  if (!watch?.back) return 'not tried';
  return watch.calls.length > 0 ? 'through' : 'not through';
}

/** Whether the session itself hangs on it: what redundancy adds counts only when the server stops. */
export const isNeededNow = ({ purpose }: FactOf<'passage'>): boolean => purpose !== 'redundant';

export const isStopped = ({ verdict }: FactOf<'passage'>): boolean => verdict === 'drop' || verdict === 'reject';

/** The firewall that stops an opening. Where it stops the answers, others stand behind it. */
export const stopperOf = ({ firewalls }: FactOf<'passage'>): FirewallOnWay | undefined =>
  firewalls.find(({ verdict }) => verdict === 'drop' || verdict === 'reject');
