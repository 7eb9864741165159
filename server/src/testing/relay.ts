import { connect, createServer } from 'node:net';
import type { Server, Socket } from 'node:net';

/** Passes connections on to a server, until its wires are cut; it can be connected again. */
export class Relay {
  private readonly sockets = new Set<Socket>();
  private server: Server | null = null;

  constructor(
    private readonly address: string,
    private readonly port: number,
    private readonly to: string,
  ) {}

  listen(): Promise<void> {
    const server = createServer((near) => {
      const far = connect({ host: this.to, port: this.port });
      const end = (): void => void [near, far].forEach((socket) => socket.destroy());
      for (const socket of [near, far]) {
        this.sockets.add(socket);
        socket.on('error', end).on('close', end);
      }
      near.pipe(far);
      far.pipe(near);
    });
    this.server = server;
    return new Promise((resolve) => server.listen(this.port, this.address, () => resolve()));
  }

  /** Cuts all wires; nothing listens any more. */
  cut(): Promise<void> {
    for (const socket of this.sockets) socket.destroy();
    this.sockets.clear();
    const { server } = this;
    this.server = null;
    return new Promise((resolve) => (server ? server.close(() => resolve()) : resolve()));
  }
}
