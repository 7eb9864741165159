import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';

/** Both sides would take the endpoint without security. */
export const unsecuredChosen = cause({
  id: 'unsecured-chosen',
  steps: ['policy'],
  clause: 'Part 2 §6.2',
  title: 'The link runs without security',
  severity: 'weak',
  explains: ['unsecured-offered'],
  test({ facts, choice }) {
    const listing = facts.latest('endpoints');
    return listing && choice?.chosen?.securityMode === 'None' ? { because: [listing] } : null;
  },
  severityOf: (_, { subject }) => (subject.link.floor === 'any' ? 'weak' : 'fails'),
  meaning(_, { subject: { link, client, server } }) {
    const floor = link.floor === 'any' ? '' : ` The plant requires that this link is ${link.floor}.`;
    return `All that ${client.name} and ${server.name} have in common is no security: anyone on the way can read and change what they say.${floor}`;
  },
  remedies: (_, { subject: { server } }) => [
    byHand({
      title: `Let ${server.name} offer Aes256_Sha256_RsaPss or Basic256Sha256 with SignAndEncrypt`,
      target: server.name,
      before: 'no security only',
      after: 'a secured endpoint beside it, then the unsecured one closed',
      restart: true,
    }),
  ],
});
