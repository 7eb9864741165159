import type { CallbackHome } from '../dcom/callback-home.js';
import { ComFailure } from '../dcom/interfaces.js';
import type { DataAccessGroup, DataAccessServer } from '../opc/client.js';
import { dataSink, shutdownSink } from '../opc/data-sink.js';
import { opcIids } from '../opc/interfaces.js';
import type { DataChange } from '../opc/interfaces.js';
import { RpcFault, RpcProblem } from '../rpc/problems.js';
import { homeOf } from './home.js';
import type { Walking } from './walking.js';

/** A server that a walk has come to, for as long as somebody uses it; it may call back. */
export class HeldServer {
  /** Resolves when the server says that it goes away. */
  readonly ended: Promise<void>;
  private end: () => void = () => undefined;

  private constructor(
    readonly server: DataAccessServer,
    private readonly home: CallbackHome,
  ) {
    this.ended = new Promise((resolve) => (this.end = resolve));
  }

  /** Holds a server until what is done with it is done. */
  static async hold(
    walking: Walking,
    server: DataAccessServer,
    use: (held: HeldServer) => Promise<void>,
  ): Promise<void> {
    const home = await homeOf(walking, { stranger: () => undefined, unproven: () => undefined });
    try {
      const held = new HeldServer(server, home);
      await held.listenForEnd();
      await use(held);
    } finally {
      await home.close();
    }
  }

  /**
   * Has changes of a group told, until the returned function is called.
   * @throws {ComFailure} 0x80040202 where the server can’t come back to us
   */
  watch(group: DataAccessGroup, changed: (change: DataChange) => void): Promise<() => Promise<void>> {
    return group.advise(this.home.marshal(dataSink(changed), opcIids.dataCallback));
  }

  /** A server that can’t come back, or has nobody to tell, goes without a word. */
  private async listenForEnd(): Promise<void> {
    try {
      await this.server.adviseOfEnd(this.home.marshal(shutdownSink(this.end), opcIids.shutdown));
    } catch (error) {
      if (!(error instanceof ComFailure) && !(error instanceof RpcFault) && !(error instanceof RpcProblem)) throw error;
    }
  }
}
