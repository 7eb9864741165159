import { cause } from '../../cause.js';
import { endpointName } from '../../../entry/endpoint.js';
import { belowFloor } from '../../../entry/floor.js';
import { byHand } from '../../../orders/change.js';
import { dayOf } from '../../../time.js';

/** The endpoint taken is below the plant's floor, and an exception allows it for a while. */
export const byException = cause({
  id: 'by-exception',
  steps: ['policy'],
  clause: 'Part 2 §6.2',
  title: 'The endpoint is accepted by an exception only',
  severity: 'weak',
  test({ facts, choice }) {
    const [listing, said] = [facts.latest('endpoints'), facts.latest('entry-floor')];
    const exception = said?.exception;
    if (!listing || !said || !exception || !choice?.chosen) return null;
    return belowFloor(choice.chosen, exception.instead)
      ? { because: [said, listing], chosen: endpointName(choice.chosen), exception }
      : null;
  },
  meaning: ({ chosen, exception: { reason, until, by } }) =>
    `${chosen} is below the plant’s floor. An exception by ${by} allows it until ${dayOf(until)}: ${reason}`,
  remedies: ({ chosen, exception }, { subject: { client, server } }) => [
    byHand({
      title: `Let ${server.name} and ${client.name} have a better endpoint before ${dayOf(exception.until)}`,
      target: `${server.name}, ${client.name}`,
      before: chosen,
      after: 'an endpoint that the plant accepts',
      restart: true,
    }),
  ],
});
