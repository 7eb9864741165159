import type { Router } from 'express';
import { entryPage } from '@loyal-hinge/contract';
import type { Runs } from '../heavy/jobs.js';
import { numberIn, serve, serveText } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { Floors } from './floor/floors.js';
import type { EntryJobs } from './jobs.js';

export function entryRoutes(router: Router, findActor: FindActor, heavy: Runs<EntryJobs>, floors: Floors): void {
  serveText(router, findActor, 'entry', ({ query, signal }) => heavy.run('entryView', entryPage.parse(query), signal));
  serveText(router, findActor, 'entryClosing', ({ signal }) => heavy.run('entryClosing', undefined, signal));
  serveText(router, findActor, 'doorWhatIf', ({ body, signal }) => heavy.run('doorWhatIf', body, signal));
  serve(router, findActor, 'entryFloors', () => floors.all());
  serve(router, findActor, 'putEntryFloor', ({ body }, actor) => floors.ask(body, actor.name));
  serve(router, findActor, 'giveException', ({ body }, actor) => floors.askException(body, actor.name));
  serve(router, findActor, 'endException', ({ params }, actor) =>
    floors.end(numberIn(params, 'id', 'exception'), actor.name),
  );
}
