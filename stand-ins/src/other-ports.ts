import { createServer } from 'node:http';
import { createServer as createTcpServer, connect } from 'node:net';
import type { Server, Socket } from 'node:net';
import { Worker } from 'node:worker_threads';

export interface Stoppable {
  stop(): Promise<void>;
}

/** A web page where an OPC server was expected. */
export async function startWebPage(address: string, port: number): Promise<Stoppable> {
  const server = createServer((_, response) => {
    response.setHeader('content-type', 'text/html');
    response.end('<!doctype html><title>Weighbridge</title><p>Gross 0 kg');
  });
  await listening(server, address, port);
  return stoppable(server);
}

/** A port that takes connections and drops them: it shows that its machine is switched on. */
export async function startBarePort(address: string, port: number): Promise<Stoppable> {
  const server = createTcpServer((socket) => socket.end());
  await listening(server, address, port);
  return stoppable(server);
}

/** What translates an address, as the machine sees it that dials it: what comes to the one place is led to another. */
export async function startTranslation(
  from: { readonly address: string; readonly port: number },
  to: { readonly address: string; readonly port: number },
): Promise<Stoppable> {
  const server = createTcpServer((socket) => {
    const onward = connect(to.port, to.address);
    const end = (): void => {
      socket.destroy();
      onward.destroy();
    };
    for (const each of [socket, onward]) each.on('error', end).on('close', end);
    socket.pipe(onward).pipe(socket);
  });
  await listening(server, from.address, from.port);
  return stoppable(server);
}

const listening = (server: Server, address: string, port: number): Promise<void> =>
  new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, address, resolve);
  });

function stoppable(server: Server): Stoppable {
  const open = new Set<Socket>();
  server.on('connection', (socket: Socket) => {
    open.add(socket);
    socket.on('error', () => socket.destroy());
    socket.on('close', () => open.delete(socket));
  });
  return {
    stop: () =>
      new Promise((resolve) => {
        for (const socket of open) socket.destroy();
        server.close(() => resolve());
      }),
  };
}

const listener = `
  const { parentPort, workerData } = require('node:worker_threads');
  const server = require('node:net').createServer();
  server.on('error', (error) => parentPort.postMessage(String(error)));
  server.listen({ host: workerData.address, port: workerData.port, backlog: 1 }, () => {
    parentPort.postMessage('listening');
    setTimeout(() => Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0), 50);
  });
`;

/**
 * A port that is really silent: a thread listens with the shortest queue and never takes a connection from it;
 * once the queue is full, the kernel drops every further attempt, as a firewall would.
 */
export async function startSilentPort(address: string, port: number): Promise<Stoppable> {
  const worker = new Worker(listener, { eval: true, workerData: { address, port } });
  const said = await new Promise<unknown>((resolve, reject) => {
    worker.once('message', resolve);
    worker.once('error', reject);
  });
  if (said !== 'listening') throw new Error(`the silent port could not be opened: ${String(said)}`);
  await new Promise((resolve) => setTimeout(resolve, 150));
  const fillers = Array.from({ length: 4 }, () => connect({ host: address, port }).on('error', () => undefined));
  await new Promise((resolve) => setTimeout(resolve, 150));
  return {
    async stop() {
      for (const filler of fillers) filler.destroy();
      await worker.terminate();
    },
  };
}
