import { connect } from 'node:net';
import type { Socket } from 'node:net';
import type { ErrorCallback } from 'node-opcua-status-code';
import { ClientTCP_transport } from 'node-opcua-transport';
import type { ISocketLike } from 'node-opcua-transport';

/** Where a connection really goes, apart from the name that stands in its URL. */
export interface Dial {
  readonly endpointUrl: string;
  readonly address: string;
  readonly port: number;
  /** The client machine's own address, so that firewalls see what they would see; null: any. */
  readonly from: string | null;
  readonly timeoutMs: number;
}

/**
 * A transport that dials one given address, from one given address, while the URL in the Hello stays the link's own.
 * Resolving is the business of the step before; here nothing is looked up.
 */
export class DiallingTransport extends ClientTCP_transport {
  constructor(
    private readonly dial: Dial,
    settings: ConstructorParameters<typeof ClientTCP_transport>[0],
  ) {
    super(settings);
    this.timeout = dial.timeoutMs;
  }

  override connect(endpointUrl: string, callback: ErrorCallback): void {
    this.endpointUrl = endpointUrl;
    const { address, port, from } = this.dial;
    const socket = connect({ host: address, port, ...(from === null ? {} : { localAddress: from }) });
    socket.setNoDelay(true);
    socket.setTimeout(this.timeout, () => this.forceConnectionBreak());
    const fail = (error: Error): void => callback(error);
    this._install_socket(socket as ISocketLike);
    guard(socket);
    socket.once('error', fail);
    socket.once('connect', () => {
      socket.removeListener('error', fail);
      this._perform_HEL_ACK_transaction((error) => {
        if (!error) {
          if (!this._socket) return callback(new Error('the connection was closed'));
          // From here on each call has its own limit: an open session may be silent for as long as its user likes.
          socket.setTimeout(0);
          this._install_post_connect_error_handler(endpointUrl);
          this.emit('connect');
        }
        callback(error);
      });
    });
  }
}

/**
 * What is thrown while received bytes are taken apart is their sender’s doing: it ends this connection, and nothing else. The
 * library’s reader of chunks throws where a length is beyond reason right behind the Acknowledge: its listeners are gone then.
 */
function guard(socket: Socket): void {
  for (const read of socket.listeners('data')) {
    socket.removeListener('data', read as (bytes: Buffer) => void);
    socket.on('data', (bytes: Buffer) => {
      try {
        read.call(socket, bytes);
      } catch (error) {
        socket.destroy(error instanceof Error ? error : new Error(String(error)));
      }
    });
  }
}
