import { cause } from '../../cause.js';
import { listed } from '../../wording.js';
import { byHand } from '../../../orders/change.js';

/** A server stands in for the link’s own, and nothing checks whether the client would be let in there. */
export const redundantUnchecked = cause({
  id: 'redundant-unchecked',
  steps: ['identity'],
  clause: 'Part 4 §6.6.2; Part 5 §6.3.7',
  title: 'The redundant server is not checked',
  severity: 'weak',
  test({ facts }) {
    const fact = facts.latest('redundancy');
    const others = (fact?.others ?? []).filter(({ isLinked }) => !isLinked);
    return fact && others.length > 0 ? { because: [fact], others } : null;
  },
  meaning({ others }, { subject: { client, server } }) {
    const namesOf = (some: typeof others): string =>
      listed(some.map(({ name, applicationUri }) => name ?? applicationUri));
    const unknown = others.filter(({ name }) => name === null);
    const known = others.filter(({ name }) => name !== null);
    return [
      `When ${server.name} stops, ${client.name} has to turn to ${namesOf(others)}.`,
      unknown.length === 0 ? '' : `The plant doesn’t know ${known.length === 0 ? 'it' : namesOf(unknown)}.`,
      known.length === 0 ? '' : `No link of the plant leads from this client to ${namesOf(known)}.`,
      'Nobody can tell whether it would be let in there.',
    ]
      .filter((says) => says !== '')
      .join(' ');
  },
  remedies: ({ others }, { subject: { client } }) =>
    others.map(({ name, applicationUri }) =>
      byHand(
        name === null
          ? {
              title: `Add the server ${applicationUri} to the plant, with a link from ${client.name} to it`,
              target: 'the plant',
              undo: 'Remove them from the plant.',
            }
          : {
              title: `Add a link from ${client.name} to ${name}`,
              target: 'the plant',
              undo: 'Remove it from the plant.',
            },
      ),
    ),
});
