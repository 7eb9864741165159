import { holdsPassageChange, sayPassageChange } from '@loyal-hinge/core';
import type { PassageChange } from '@loyal-hinge/core';
import type { ChangeWords } from '../../orders/port.js';
import { knownPassage } from '../known.js';
import { readFirewalls } from '../store.js';

/** Changes of firewalls’ rules, as work orders show and prove them. */
export const passageWords: ChangeWords<PassageChange> = {
  async say(db, lines) {
    const names = new Map((await readFirewalls(db)).map(({ id, name }) => [id, name]));
    return lines.map(({ change }) => ({
      ...sayPassageChange(change, names.get(change.firewallId) ?? change.firewallId),
      way: 'by hand',
      restart: false,
      signedHere: false,
    }));
  },
  async holding(db, lines) {
    const known = await knownPassage(db);
    return lines
      .filter(({ change, at }) => {
        const rules = known.rulesOf(change.firewallId);
        const takenAt = known.about.get(change.firewallId)?.takenAt;
        // What was taken before the change was made proves nothing of it.
        const isLater = takenAt !== undefined && at !== null && Date.parse(takenAt) > Date.parse(at);
        return rules !== null && isLater && holdsPassageChange(rules, change) === true;
      })
      .map(({ position }) => position);
  },
  /** What rules were there is in the rules themselves. */
  asTheyLie: (_, lines) => Promise.resolve(lines),
};
