import type { Response, Router } from 'express';
import { admit } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { EventLog, NumberedEvent } from './event-log.js';

const heartbeatMs = 15_000;

/** GET /api/events: server-sent events (WHATWG HTML §9.2), resumed after `Last-Event-ID`. */
export function eventRoutes(router: Router, log: EventLog, findActor: FindActor): void {
  router.get('/api/events', async (request, response) => {
    await admit(request, findActor, 'viewer', 'get');
    const asked = Number(request.get('last-event-id') ?? request.query['after'] ?? Number.NaN);
    let sent = Number.isSafeInteger(asked) && asked >= 0 ? asked : await log.newestId();
    const waiting: NumberedEvent[] = [];
    let live = false;
    const stop = log.listen((event) => {
      if (!live) waiting.push(event);
      else if (event.id > sent) sent = send(response, event);
    });
    request.on('close', stop);
    openStream(response);
    response.write(`id: ${sent}\nevent: hello\ndata: {}\n\n`);
    for (const event of await log.after(sent)) sent = send(response, event);
    for (const event of waiting) if (event.id > sent) sent = send(response, event);
    live = true;
  });
}

/** Begins a stream that is kept open by a comment now and then. */
export function openStream(response: Response): void {
  response.writeHead(200, {
    'content-type': 'text/event-stream',
    'cache-control': 'no-store',
    'x-accel-buffering': 'no',
  });
  const timer = setInterval(() => response.write(': still here\n\n'), heartbeatMs);
  response.on('close', () => clearInterval(timer));
}

function send(response: Response, { id, body }: NumberedEvent): number {
  response.write(`id: ${id}\ndata: ${JSON.stringify(body)}\n\n`);
  return id;
}
