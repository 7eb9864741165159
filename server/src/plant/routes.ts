import type { Router } from 'express';
import type { AnswerOf, BodyOf } from '@loyal-hinge/contract';
import { invalid } from '../http/problems.js';
import { serve } from '../http/serve.js';
import type { Call, FindActor } from '../http/serve.js';
import { machinesToCsv } from './machines-csv.js';
import type { Discovery } from './discovery.js';
import type { PlantKeeping } from './service.js';

type PutRoute = 'putZone' | 'putMachine' | 'putApplication' | 'putLink';

export function discoveryRoutes(router: Router, findActor: FindActor, discovery: Discovery): void {
  serve(router, findActor, 'discovery', () => discovery.told());
  serve(router, findActor, 'beginDiscovery', ({ body }, actor) => discovery.begin(body, actor.name));
  serve(router, findActor, 'stopDiscovery', async () => {
    discovery.stop();
    return { done: true };
  });
}

export function plantRoutes(router: Router, findActor: FindActor, plant: PlantKeeping): void {
  serve(router, findActor, 'plant', async () => (await plant.read()) as AnswerOf<'plant'>);
  serve(router, findActor, 'exportPlant', async ({ response }) => {
    response.attachment('plant.json');
    return { format: 'loyal-hinge/plant', version: 1, plant: await plant.read() } as AnswerOf<'exportPlant'>;
  });
  serve(router, findActor, 'importPlant', async ({ body }, actor) => {
    await plant.replace(body.plant, actor.name);
    return { done: true };
  });
  serve(router, findActor, 'exportMachines', async ({ response }) => {
    response.attachment('machines.csv').type('text/csv');
    return machinesToCsv((await plant.read()).machines);
  });
  serve(router, findActor, 'importMachines', async ({ body }, actor) => ({
    machines: await plant.addMachines(body.csv, actor.name),
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
