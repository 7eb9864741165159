import type { Request, Router } from 'express';
import { admit } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { EventLog, NumberedEvent } from './event-log.js';
import type { Streams } from './stream.js';

/** GET /api/events: server-sent events (WHATWG HTML §9.2), resumed after `Last-Event-ID`, each event once and in order. */
export function eventRoutes(router: Router, log: EventLog, streams: Streams, findActor: FindActor): void {
  router.get('/api/events', async (request, response) => {
    await admit(request, findActor, { role: 'viewer', method: 'get' });
    const asked = askedFor(request);
    const resumes = asked !== null && (await log.reachesBackTo(asked));
    let sent = resumes ? asked : await log.newestId();
    /** Whether it has all that was told, and takes what is told next at once; otherwise it reads on by itself. */
    let isLive = false;
    let isBehind = false;
    const stop = log.listen((events) => {
      if (!isLive) isBehind = true;
      else if (send(events)) void catchUp();
    });
    const stream = streams.begin(response, async () => (await findActor(request)) !== null);
    stream.whenEnded(stop);
    /** Sends until the reader must first take in what it was sent: true then. */
    const send = (events: readonly NumberedEvent[]): boolean => {
      for (const { id, written } of events) {
        if (id <= sent) continue;
        if (stream.isFull) return true;
        stream.write(written);
        sent = id;
      }
      return stream.isFull;
    };
    const catchUp = async (): Promise<void> => {
      isLive = false;
      try {
        for (let isMore = true; isMore && stream.isOpen; isMore ||= isBehind) {
          await stream.drained();
          isBehind = false;
          const page = await log.after(sent);
          send(page);
          isMore = page.length > 0;
        }
        isLive = true;
      } catch {
        // The database is away: the reader comes again, and goes on where it stopped.
        response.destroy();
      }
    };
    // Who asks for a number that is not kept any more, or was never given, is told to look at everything anew.
    const hello = asked !== null && !resumes ? '{"missed":true}' : '{}';
    stream.write(`id: ${sent}\nevent: hello\ndata: ${hello}\n\n`);
    await catchUp();
  });
}

function askedFor(request: Request): number | null {
  const asked = Number(request.get('last-event-id') ?? request.query['after'] ?? Number.NaN);
  return Number.isSafeInteger(asked) && asked >= 0 ? asked : null;
}
