import { cause } from '../../cause.js';
import { listed } from '../../wording.js';
import { byHand } from '../../../orders/change.js';

/** A server stands in for the link’s own, and nothing checks whether the client would be let in there. */
export const redundantUnchecked = cause({
  id: 'redundant-unchecked',
  steps: ['identity'],
  clause: 'Part 4 §6.6.2; Part 5 §6.3.7',
  title: 'Nothing checks the server that stands in',
  severity: 'weak',
  test({ facts }) {
    const fact = facts.latest('redundancy');
    const others = (fact?.others ?? []).filter(({ isLinked }) => !isLinked);
    return fact && others.length > 0 ? { because: [fact], others } : null;
  },
  meaning({ others }, { subject: { client, server } }) {
    const unknown = others.filter(({ name }) => name === null);
    return [
      `When ${server.name} stops, ${client.name} has to turn to ${listed(others.map(({ name, applicationUri }) => name ?? applicationUri))}.`,
      unknown.length > 0
        ? `The plant doesn’t know ${listed(unknown.map(({ applicationUri }) => applicationUri))}: nobody can tell whether it would be let in there.`
        : 'No link of the plant leads there from this client, so nobody checks whether it would be let in.',
    ].join(' ');
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
