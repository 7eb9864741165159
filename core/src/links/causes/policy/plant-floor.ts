import { cause } from '../../cause.js';
import { chooseEndpoint, wishOf } from '../../../entry/choose-endpoint.js';
import { endpointName } from '../../../entry/endpoint.js';
import { belowFloor, noFloor, sayFloor } from '../../../entry/floor.js';
import { byHand } from '../../../orders/change.js';

/** What both sides have is weaker than what the plant accepts of any endpoint. */
export const plantFloor = cause({
  id: 'plant-floor',
  steps: ['policy'],
  clause: 'Part 2 §6.2',
  title: 'What both sides have is below the plant’s floor',
  severity: 'fails',
  explains: ['no-common-policy', 'unsecured-offered'],
  test({ facts, choice, subject }) {
    const [listing, said] = [facts.latest('endpoints'), facts.latest('entry-floor')];
    if (listing?.outcome !== 'listed' || !said || !choice || choice.chosen) return null;
    const best = chooseEndpoint(listing.endpoints, wishOf(subject, noFloor)).chosen;
    const why = best && belowFloor(best, said.floor);
    return best && why ? { because: [listing, said], best: endpointName(best), why, floor: said.floor } : null;
  },
  meaning: ({ best, why }, { subject: { client, server } }) =>
    `${client.name} and ${server.name} have ${best} in common. ${why} The link was not tried with it.`,
  remedies: ({ best, floor }, { subject: { client, server, link } }) => [
    byHand({
      title: `Let ${server.name} and ${client.name} have an endpoint that the plant accepts`,
      target: `${server.name}, ${client.name}`,
      before: best,
      after: sayFloor(floor),
      restart: true,
    }),
    byHand({
      title: 'Or add an exception for it on the page Entry, with a reason and an end',
      target: link.name,
      before: `accepted: ${sayFloor(floor)}`,
      after: `${best} until a day`,
      undo: 'End the exception.',
    }),
  ],
});
