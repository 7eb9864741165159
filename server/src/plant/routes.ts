import type { LinkKindId } from '@loyal-hinge/core';
import type { Router } from 'express';
import { plantPage } from '@loyal-hinge/contract';
import type { AnswerOf, BodyOf, Choosable } from '@loyal-hinge/contract';
import { invalid } from '../http/problems.js';
import type { Runs } from '../heavy/jobs.js';
import { serve, serveLarge, serveText } from '../http/serve.js';
import type { Call, FindActor } from '../http/serve.js';
import type { Discovery } from './discovery.js';
import type { PlantKeeping } from './service.js';
import type { PlantJobs } from './jobs.js';

type PutRoute = 'putZone' | 'putMachine' | 'putApplication' | 'putLink';

export function discoveryRoutes(router: Router, findActor: FindActor, discovery: Discovery): void {
  serve(router, findActor, 'discovery', () => discovery.told());
  serve(router, findActor, 'beginDiscovery', ({ body }, actor) => discovery.begin(body, actor.name));
  serve(router, findActor, 'stopDiscovery', async () => {
    discovery.stop();
    return { done: true };
  });
}

export function plantRoutes(router: Router, findActor: FindActor, plant: PlantKeeping, heavy: Runs<PlantJobs>): void {
  serveText(router, findActor, 'plant', ({ signal }) => heavy.run('plant', undefined, signal));
  serve(router, findActor, 'plantView', ({ query }) => plant.view(plantPage.parse(query)));
  serve(router, findActor, 'plantChoices', ({ query }) =>
    plant.choices(query['of'] as Choosable, query['find'], query['speaks'] as LinkKindId | undefined),
  );
  serve(router, findActor, 'firstSteps', async () => ({ steps: [...(await plant.firstSteps())] }));
  serveText(router, findActor, 'exportPlant', async ({ response, signal }) => {
    const document = await heavy.run('exportPlant', undefined, signal);
    response.attachment('plant.json');
    return document;
  });
  serveLarge(router, findActor, 'importPlant', async ({ text, signal }, { name: actor }) => ({
    waitsAs: await heavy.run('importPlant', { text, actor }, signal),
  }));
  serve(router, findActor, 'exportMachines', async ({ response, signal }) => {
    const csv = await heavy.run('exportMachines', undefined, signal);
    response.attachment('machines.csv').type('text/csv');
    return csv;
  });
  serveLarge(router, findActor, 'importMachines', async ({ text, signal }, { name: actor }) => ({
    machines: await heavy.run('importMachines', { text, actor }, signal),
  }));
  serve(router, findActor, 'putZone', (call, actor) => plant.putZone(sameId(call), actor.name));
  serve(
    router,
    findActor,
    'putMachine',
    (call, actor) => plant.putMachine(sameId(call), actor.name) as Promise<AnswerOf<'putMachine'>>,
  );
  serve(
    router,
    findActor,
    'putApplication',
    (call, actor) => plant.putApplication(sameId(call), actor.name) as Promise<AnswerOf<'putApplication'>>,
  );
  serve(
    router,
    findActor,
    'putLink',
    (call, actor) => plant.putLink(sameId(call), actor.name) as Promise<AnswerOf<'putLink'>>,
  );
  for (const [name, part] of [
    ['removeZone', 'zones'],
    ['removeMachine', 'machines'],
    ['removeApplication', 'applications'],
    ['removeLink', 'links'],
  ] as const) {
    serve(router, findActor, name, async ({ params }, actor) => {
      await plant.remove(part, params['id'] ?? '', actor.name);
      return { done: true };
    });
  }
}

function sameId<Name extends PutRoute>({ params, body }: Call<Name>): BodyOf<Name> {
  const { id } = body as { id: string };
  if (id !== params['id'])
    throw invalid('The id of the address and that of the body differ.', [
      { place: 'id', says: 'It must be the same as in the address.' },
    ]);
  return body;
}
