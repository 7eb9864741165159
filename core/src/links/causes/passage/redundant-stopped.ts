import { cause } from '../../cause.js';
import { isNeededNow, isStopped, stopperOf } from '../../passage-seen.js';
import { listed } from '../../wording.js';
import { letThrough } from './let-through.js';

/** By its rules a firewall stops the way to a server that stands in for the link’s own. */
export const redundantStopped = cause({
  id: 'redundant-stopped',
  steps: ['passage'],
  clause: 'IEC 62443-3-2 ZCR 6; Part 4 §6.6.2',
  title: 'A firewall stops the way to the redundant server',
  severity: 'weak',
  test(sight) {
    const [first, ...rest] = sight.facts.all('passage').filter((fact) => !isNeededNow(fact) && isStopped(fact));
    const firewall = first && stopperOf(first);
    return first && firewall ? { because: [first, ...rest], firewall, stopped: [first, ...rest] } : null;
  },
  meaning: ({ firewall, stopped: [fact] }, { subject: { server, client } }) =>
    `When ${server.name} stops, ${client.name} has to turn to ${listed(fact?.to ?? [])}, TCP port ${listed(fact?.ports ?? [])}, and ${firewall.name} does not let it through. Nobody sees that before the day on which it is needed.`,
  remedies: ({ stopped }) => stopped.flatMap(letThrough),
});
