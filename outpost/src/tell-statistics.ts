import { createServer } from 'node:http';
import type { Server } from 'node:http';

/** The port that was asked for in an option; null: none was. @throws Error with a sentence for people */
export function portGiven(text: string | undefined): number | null {
  if (text === undefined) return null;
  const port = Number(text);
  if (!Number.isInteger(port) || port < 1 || port > 65_535) throw new Error('--statistics wants a port.');
  return port;
}

/** Tells what a process says of itself as JSON, at a port of this machine alone. @param port null: nowhere */
export function tellStatistics(port: number | null, told: () => unknown, fail: (says: string) => void): Server {
  const server = createServer((_, response) => {
    response.setHeader('content-type', 'application/json');
    response.end(JSON.stringify(told()));
  });
  server.on('error', () => fail(`Port ${port} is taken: its statistics are told nowhere.`));
  if (port !== null) server.listen(port, '127.0.0.1');
  return server;
}
