import { cause } from '../../cause.js';
import { endpointUrlOf, endpointUrlParts } from '../../endpoint-url.js';
import { byHand } from '../../../orders/change.js';
import { listed } from '../../wording.js';

/** Every address refuses. */
export const portRefused = cause({
  id: 'port-refused',
  steps: ['reach'],
  clause: 'Part 6 §7.2',
  title: 'The port is refused',
  severity: 'fails',
  test({ facts }) {
    const [first, ...rest] = facts.all('tcp-connect').filter((fact) => fact.purpose === 'link');
    if (!first || ![first, ...rest].every((fact) => fact.outcome === 'refused')) return null;
    const answering = facts
      .all('tcp-connect')
      .filter((fact) => fact.purpose === 'neighbour' && fact.outcome === 'open');
    return {
      because: [first, ...rest, ...answering],
      port: first.port,
      answering: [...new Set(answering.map((fact) => fact.port))],
    };
  },
  meaning({ port, answering }, { subject: { server, serverMachine } }) {
    const other =
      answering.length > 0
        ? ` Port ${listed(answering.map(String))} of the same machine does answer: the link probably names the wrong port.`
        : ` ${server.name} is not started, or listens on another port.`;
    return `${serverMachine.name} is there and refuses port ${port}.${other}`;
  },
  remedies({ answering }, { subject: { link, server, serverMachine } }) {
    const parts = endpointUrlParts(link.endpointUrl);
    const other = answering[0];
    const repoint =
      parts && other !== undefined
        ? [
            {
              title: `Use port ${other}`,
              target: link.name,
              before: link.endpointUrl,
              after: endpointUrlOf({ ...parts, port: other }),
              change: {
                kind: 'set-endpoint-url' as const,
                linkId: link.id,
                before: link.endpointUrl,
                after: endpointUrlOf({ ...parts, port: other }),
              },
              restart: false,
              undo: 'Set the old URL again.',
            },
          ]
        : [];
    return [
      ...repoint,
      byHand({
        title: `Start ${server.name}`,
        target: serverMachine.name,
        before: 'not listening',
        after: 'listening',
        undo: 'Stop it again.',
      }),
    ];
  },
});
