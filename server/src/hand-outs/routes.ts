import type { Router } from 'express';
import { handOutQuery } from '@loyal-hinge/contract';
import { mayKnowNames } from '../casebook/routes.js';
import type { Runs } from '../heavy/jobs.js';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { HandOutJobs } from './jobs.js';

const types = { html: 'text/html', pdf: 'application/pdf', csv: 'text/csv' } as const;

export function handOutRoutes(router: Router, findActor: FindActor, heavy: Runs<HandOutJobs>): void {
  serve(router, findActor, 'handOut', async ({ query, response, signal }, { name, role }) => {
    const wish = handOutQuery.parse(query);
    const reader = { name, mayKnowNames: mayKnowNames(role) };
    const { content, file } = await heavy.run('handOut', { query: wish, reader }, signal);
    response.attachment(file).type(types[wish.form]);
    response.send(typeof content === 'string' ? content : Buffer.from(content));
    return '';
  });
}
