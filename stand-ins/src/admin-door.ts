import { timingSafeEqual } from 'node:crypto';
import { createServer } from 'node:http';
import type { IncomingMessage, ServerResponse } from 'node:http';
import type { RunningServer } from './ua-server.js';
import type { Stoppable } from './other-ports.js';

/**
 * The stand-ins' own administrative door: it reads a stand-in's lists and moves a certificate out of its rejected list,
 * as somebody at the machine would. It is no part of OPC UA and stands in for the standard's push interface (Part 12 §7).
 *
 * GET /servers/{id}/lists, POST /servers/{id}/accept/{thumbprint}; every call carries the door's token.
 */
export async function startAdminDoor(
  servers: readonly RunningServer[],
  address: string,
  port: number,
  token: string,
): Promise<Stoppable> {
  const byId = new Map(servers.map((server) => [server.id, server]));
  const door = createServer((request, response) => {
    answer(byId, token, request)
      .catch(() => ({ status: 500, body: { says: 'The door met an error.' } }))
      .then(({ status, body }) => send(response, status, body));
  });
  await new Promise<void>((resolve, reject) => {
    door.once('error', reject);
    door.listen(port, address, resolve);
  });
  return {
    stop: () =>
      new Promise((resolve) => {
        door.closeAllConnections();
        door.close(() => resolve());
      }),
  };
}

interface Answer {
  readonly status: number;
  readonly body: unknown;
}

async function answer(
  servers: ReadonlyMap<string, RunningServer>,
  token: string,
  request: IncomingMessage,
): Promise<Answer> {
  if (!carries(token, request)) return { status: 401, body: { says: 'The token is wrong.' } };
  const [, place, id, action, thumbprint] = (request.url ?? '').split('/');
  const server = place === 'servers' ? servers.get(id ?? '') : undefined;
  if (!server) return { status: 404, body: { says: 'There is no such stand-in.' } };
  if (request.method === 'GET' && action === 'lists') return { status: 200, body: await server.lists() };
  if (request.method === 'POST' && action === 'accept' && thumbprint) {
    return (await server.accept(thumbprint))
      ? { status: 200, body: { accepted: thumbprint } }
      : { status: 404, body: { says: 'This certificate does not lie in the rejected list.' } };
  }
  return { status: 404, body: { says: 'The door does not know this.' } };
}

function carries(token: string, request: IncomingMessage): boolean {
  const wanted = Buffer.from(`Bearer ${token}`);
  const given = Buffer.from(request.headers.authorization ?? '');
  return wanted.length === given.length && timingSafeEqual(wanted, given);
}

function send(response: ServerResponse, status: number, body: unknown): void {
  response.writeHead(status, { 'content-type': 'application/json' });
  response.end(JSON.stringify(body));
}
