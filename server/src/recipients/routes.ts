import type { Router } from 'express';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { Recipients } from './service.js';

export function recipientRoutes(router: Router, findActor: FindActor, recipients: Recipients): void {
  const idIn = (params: Readonly<Record<string, string>>): string => params['recipientId'] ?? '';
  serve(router, findActor, 'recipients', () => recipients.view());
  serve(router, findActor, 'addRecipient', ({ body }, { name }) => recipients.add(body, name));
  serve(router, findActor, 'putRecipient', ({ params, body }, { name }) => recipients.put(idIn(params), body, name));
  serve(router, findActor, 'removeRecipient', async ({ params }, { name }) => {
    await recipients.remove(idIn(params), name);
    return {};
  });
  serve(router, findActor, 'tryRecipient', async ({ params }, { name }) => {
    await recipients.attempt(idIn(params), name);
    return {};
  });
}
