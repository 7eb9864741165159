import { cause } from '../../cause.js';
import type { FirewallOnWay } from '../../facts.js';
import { isNeededNow, isStopped, seenThrough, stopperOf } from '../../passage-seen.js';
import { answerVerdictWords, passageVerdictWords } from '../../say-fact.js';
import { listed } from '../../wording.js';
import { letThrough } from './let-through.js';
import { openingPurposes } from '../../../passage/openings.js';

/** By its rules a firewall on the way lets the link’s connections not through, and none was seen to get through. */
export const rulesStop = cause({
  id: 'rules-stop',
  steps: ['passage'],
  clause: 'IEC 62443-3-2 ZCR 6',
  title: 'A firewall does not let it through',
  severity: 'fails',
  test(sight) {
    const [first, ...rest] = sight.facts
      .all('passage')
      .filter((fact) => isNeededNow(fact) && isStopped(fact) && seenThrough(sight, fact) !== 'through');
    const firewall = first && stopperOf(first);
    return first && firewall ? { because: [first, ...rest], fact: first, firewall, stopped: [first, ...rest] } : null;
  },
  meaning({ fact, firewall }, { subject: { clientMachine, serverMachine } }) {
    const [from, to] = fact.opens === 'client' ? [clientMachine, serverMachine] : [serverMachine, clientMachine];
    return `${firewall.name} ${(firewall.isAnswer ? answerVerdictWords : passageVerdictWords)[firewall.verdict]}: ${decidedBy(firewall)}. ${from.name} must get to ${to.name} on TCP port ${listed(fact.ports)}, for ${openingPurposes[fact.purpose]}.`;
  },
  remedies: ({ stopped }) => stopped.flatMap(letThrough),
});

const decidedBy = ({ rule }: FirewallOnWay): string =>
  rule
    ? `rule ${rule.index + 1} of its chain ${rule.chain}, “${rule.text}”, decides`
    : 'no rule lets it through, and its policy decides';
