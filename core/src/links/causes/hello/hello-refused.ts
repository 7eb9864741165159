import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { explainedStatusCode } from '../../../ua/status-codes.js';

/** The server answers the Hello with an Error message. */
export const helloRefused = cause({
  id: 'hello-refused',
  steps: ['hello'],
  clause: 'Part 6 §7.1.5',
  title: 'The server refuses the Hello',
  severity: 'fails',
  test({ facts }) {
    const hello = facts.latest('hello');
    return hello?.outcome === 'error' ? { because: [hello], code: hello.code, reason: hello.reason } : null;
  },
  meaning: ({ code, reason }) =>
    `It is an OPC UA server, and it refuses. ${explainedStatusCode(code)}${reason ? ` It adds: “${reason}”.` : ''}`,
  remedies: ({ code }, { subject: { link, server } }) =>
    code === 'BadTcpEndpointUrlInvalid'
      ? [
          byHand({
            title: `Use the URL by which ${server.name} knows itself`,
            target: link.name,
            before: link.endpointUrl,
            after: 'the URL in the server’s own settings',
          }),
        ]
      : [byHand({ title: `Read the log of ${server.name}`, target: server.name, undo: 'Nothing to undo.' })],
});
