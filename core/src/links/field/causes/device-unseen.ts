import { byHand } from '../../../orders/change.js';
import { cause } from '../../cause.js';
import { endsAtOnce, isServedFrom } from '../out-of-reach.js';

/** The server gives good values from the device, and from where the check was made it can’t be had. */
export const deviceUnseen = cause({
  id: 'device-unseen',
  steps: ['device-reach', 'device-answers'],
  clause: 'IEC 62443-3-3 SR 5.1',
  title: 'The device can’t be seen from here',
  severity: 'weak',
  test({ facts }, step) {
    const found =
      step === 'device-reach'
        ? facts
            .all('field-reach')
            .find((fact) => !['open', 'withheld'].includes(fact.outcome) && isServedFrom(facts, fact))
        : facts.all('field-answer').find((fact) => endsAtOnce(fact) && isServedFrom(facts, fact));
    return found ? { because: [found], device: found.device, seen: found } : null;
  },
  meaning({ device, seen }, { subject: { server } }) {
    const what =
      seen.kind === 'field-answer' || seen.outcome === 'reset'
        ? 'takes the connection and ends it at once'
        : seen.outcome === 'refused'
          ? `refuses port ${seen.port}`
          : `does not answer on port ${seen.port}`;
    const why =
      seen.kind === 'field-answer' || seen.outcome === 'reset'
        ? `Many devices take one connection only, and ${server.name} has it.`
        : `What lets ${server.name} through to it may well stop us, as it should.`;
    return `${server.name} gives good values from ${device}, and ${seen.seenBy ? `for the probe ${seen.seenBy}` : 'for us'} the device ${what}. ${why} So the values were not compared with the device.`;
  },
  remedies: ({ device, seen }, { subject: { server, clientMachine } }) =>
    seen.kind === 'field-answer' || seen.outcome === 'reset'
      ? [
          byHand({
            title: `Let ${server.name} end its connection to ${device} between two polls, or check while it is stopped`,
            target: server.name,
            undo: 'Set the old way of polling again.',
          }),
        ]
      : [
          byHand({
            title: `Let checks reach ${device} at port ${seen.port}, which read only, or let a probe that can reach it look for ${clientMachine.name}`,
            target: 'the firewall on the way',
            before: 'stopped on the way',
            after: `allowed from ${seen.seenBy ? `the probe ${seen.seenBy}` : 'where checks are made'} to this port only`,
            undo: 'Remove the rule.',
          }),
        ],
});
