import { createReadStream } from 'node:fs';
import { access } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import type { Router } from 'express';
import { benchListenWish, benchStreamWish } from '@loyal-hinge/contract';
import type { EventStream, Streams } from '../events/stream.js';
import { faultsOf } from '../http/parsed.js';
import { conflict, invalid } from '../http/problems.js';
import { admit, serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import { HeardEvents, PageHeard } from './heard.js';
import type { Recordings } from './recordings.js';
import type { Benches } from './service.js';

/** Values are gathered for this long before they are sent on: a browser needs no more. */
const gatherMs = 250;

export function benchRoutes(
  router: Router,
  findActor: FindActor,
  benches: Benches,
  recordings: Recordings,
  streams: Streams,
): void {
  serve(router, findActor, 'openBench', ({ params, body, signal }, actor) =>
    benches.openOn(params['linkId'] ?? '', { owner: actor.name, page: body.page ?? null }, signal),
  );
  serve(router, findActor, 'browseBench', async ({ params, query }, actor) => ({
    nodes: await benches.browse(params['benchId'] ?? '', actor.name, query['parent']),
  }));
  serve(router, findActor, 'readBench', ({ params, query }, actor) =>
    benches.read(params['benchId'] ?? '', actor.name, query['nodeId'] ?? ''),
  );
  serve(router, findActor, 'describeBench', ({ params, query }, actor) =>
    benches.describe(params['benchId'] ?? '', actor.name, query['nodeId'] ?? ''),
  );
  serve(router, findActor, 'historyBench', ({ params, query }, actor) =>
    benches.history(params['benchId'] ?? '', actor.name, query['nodeId'] ?? '', Number(query['minutes'])),
  );
  serve(router, findActor, 'matchBench', ({ params, query, signal }, actor) =>
    benches.matches(params['benchId'] ?? '', actor.name, query['pattern'] ?? '', signal),
  );
  serve(router, findActor, 'watchBench', async ({ params, body }, actor) => {
    await benches.watch(params['benchId'] ?? '', actor.name, body);
    return { done: true };
  });
  serve(router, findActor, 'typedBench', ({ params, query }, actor) =>
    benches.typed(params['benchId'] ?? '', actor.name, query['nodeId'] ?? ''),
  );
  serve(router, findActor, 'writeBench', ({ params, body }, actor) =>
    benches.write(params['benchId'] ?? '', actor.name, body),
  );
  serve(router, findActor, 'undoBench', ({ params, body }, actor) =>
    benches.undo(params['benchId'] ?? '', actor.name, body.nodeId),
  );
  serve(router, findActor, 'beginRecording', ({ params, body }, actor) =>
    benches.record(params['benchId'] ?? '', actor.name, body),
  );
  serve(router, findActor, 'recordings', (_, actor) => Promise.resolve({ recordings: recordings.of(actor.name) }));
  serve(router, findActor, 'stopRecording', ({ params }, actor) =>
    Promise.resolve(recordings.stop(params['id'] ?? '', actor.name)),
  );
  serve(router, findActor, 'exportRecording', async ({ params, response, signal }, actor) => {
    const path = recordings.path(params['id'] ?? '', actor.name);
    await access(path).catch(() => {
      throw conflict('Nothing was recorded: the file is not there.', 'Record it again.');
    });
    response.attachment('values.csv').type('text/csv');
    await pipeline(createReadStream(path), response, { signal });
    return '';
  });
  serve(router, findActor, 'closeBench', async ({ params }, actor) => {
    benches.close(params['benchId'] ?? '', actor.name);
    return { done: true };
  });

  router.get('/api/bench-stream', async (request, response) => {
    const actor = await admit(request, findActor, { role: 'engineer', method: 'get' });
    const wished = benchStreamWish.safeParse(request.query);
    if (!wished.success) throw invalid('This can’t be heard.', faultsOf(wished.error, 'query'));
    // While it was looked up who asks, they may have gone already: the stream ends at once then.
    const stream = streams.begin(response, async () => (await findActor(request)) !== null);
    const heard = new PageHeard();
    send(stream, heard, benches.hear({ owner: actor.name, page: wished.data.page }, heard));
  });

  router.get('/api/bench/:benchId/events', async (request, response) => {
    const actor = await admit(request, findActor, { role: 'engineer', method: 'get' });
    const wished = benchListenWish.safeParse(request.query);
    if (!wished.success) throw invalid('This can’t be listened to.', faultsOf(wished.error, 'query'));
    const heard = new HeardEvents();
    const stop = await benches.listen(request.params['benchId'] ?? '', actor.name, wished.data.nodeId, heard);
    send(
      streams.begin(response, async () => (await findActor(request)) !== null),
      heard,
      stop,
    );
  });
}

/** Sends on what was heard, some of it at a time, until the stream ends. */
function send(stream: EventStream, heard: { readonly isEmpty: boolean; take(): object }, stop: () => void): void {
  const timer = setInterval(() => {
    // Where the reader takes nothing in, only the newest is kept for it.
    if (!heard.isEmpty && !stream.isFull) stream.write(`data: ${JSON.stringify(heard.take())}\n\n`);
  }, gatherMs);
  stream.whenEnded(() => {
    clearInterval(timer);
    stop();
  });
}
