import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';

const usualServices: Readonly<Record<number, string>> = {
  21: 'file transfer',
  22: 'remote shell',
  80: 'a web page',
  102: 'a controller’s own protocol',
  135: 'DCOM',
  443: 'a web page over TLS',
  502: 'Modbus',
  1433: 'a database',
  3389: 'a remote desktop',
  4843: 'OPC UA over HTTPS',
  5432: 'a database',
  8080: 'a web page',
};

/** The peer answers with something else, closes, or says nothing. */
export const notUa = cause({
  id: 'not-ua',
  steps: ['hello'],
  clause: 'Part 6 §7.1.3',
  title: 'This is not an OPC UA server',
  severity: 'fails',
  test({ facts }) {
    const hello = facts.latest('hello');
    if (!hello || hello.outcome === 'acknowledged' || hello.outcome === 'error') return null;
    return { because: [hello], hello, usual: usualServices[hello.port] ?? null };
  },
  meaning({ hello, usual }) {
    const where = `${hello.address} port ${hello.port}`;
    const told =
      hello.outcome === 'other'
        ? `${where} answers with ${hello.looksLike}, not with OPC UA.`
        : hello.outcome === 'closed'
          ? `${where} accepts the connection and closes it as soon as OPC UA is spoken.`
          : `${where} accepts the connection and then says nothing.`;
    return usual ? `${told} On this port one usually finds ${usual}.` : told;
  },
  remedies: ({ hello }, { subject: { link, server } }) => [
    byHand({
      title: `Find out on which port ${server.name} listens, and use that one`,
      target: link.name,
      before: `port ${hello.port}`,
      after: `the port of ${server.name}`,
    }),
    byHand({
      title: `If port ${hello.port} should be ${server.name}’s: find the program that has taken it`,
      target: hello.address,
      restart: true,
    }),
  ],
});
