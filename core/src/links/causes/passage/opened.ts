import type { FactOf, FirewallOnWay } from '../../facts.js';
import { listed } from '../../wording.js';
import { byHand } from '../../../orders/change.js';

/** What has to be let through at a firewall that stops it: by the smallest change, where one is known. */
export const opened = ({ name, change, rule }: FirewallOnWay, { ports, from, to }: FactOf<'passage'>) =>
  byHand({
    title: `Let TCP port ${listed(ports)} of ${listed(to)} through from ${listed(from)} at ${name}`,
    target: name,
    before: rule ? rule.text : 'no rule of its own',
    after: change ? [...change.rules, ...change.commands].join('\n') : 'allowed, for this one pair and port only',
    undo: change && change.undo.length > 0 ? change.undo.join('\n') : 'Remove the rule.',
  });
