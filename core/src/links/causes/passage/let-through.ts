import type { FactOf, FirewallOnWay } from '../../facts.js';
import { stopperOf } from '../../passage-seen.js';
import { listed } from '../../wording.js';
import { byHand } from '../../../orders/change.js';
import type { Remedy } from '../../../orders/change.js';

/** What lets an opening through at the firewall that stops it; none where no firewall does. */
export function letThrough(fact: FactOf<'passage'>): readonly Remedy[] {
  const firewall = stopperOf(fact);
  if (!firewall) return [];
  return [firewall.isAnswer ? answered(firewall) : opened(firewall, fact)];
}

const answered = ({ name, rule }: FirewallOnWay): Remedy =>
  byHand({
    title: `Let packets of open connections through at ${name}`,
    target: name,
    before: rule ? rule.text : 'no rule of its own',
    after: 'packets of connections that are open pass (established)',
    undo: 'Remove the rule.',
  });

/** By the smallest change, where one is known. */
const opened = ({ name, change, rule }: FirewallOnWay, { ports, from, to }: FactOf<'passage'>): Remedy =>
  byHand({
    title: `Let TCP port ${listed(ports)} of ${listed(to)} through from ${listed(from)} at ${name}`,
    target: name,
    before: rule ? rule.text : 'no rule of its own',
    after: change ? [...change.rules, ...change.commands].join('\n') : 'allowed, for this one pair and port only',
    undo: change && change.undo.length > 0 ? change.undo.join('\n') : 'Remove the rule.',
  });
