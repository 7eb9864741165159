import type { Router } from 'express';
import { accountsPage } from '@loyal-hinge/contract';
import type { Runs } from '../heavy/jobs.js';
import { serve, serveText } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { AccessDesk } from './access-desk.js';
import type { AccountJobs } from './jobs.js';
import type { AccountPasswords } from './passwords.js';

export function accountRoutes(
  router: Router,
  findActor: FindActor,
  heavy: Runs<AccountJobs>,
  desk: AccessDesk,
  passwords: AccountPasswords,
): void {
  serveText(router, findActor, 'accounts', ({ query, signal }) =>
    heavy.run('accounts', accountsPage.parse(query), signal),
  );
  serveText(router, findActor, 'access', ({ params, signal }) =>
    heavy.run('access', { serverId: params['serverId'] ?? '' }, signal),
  );
  serve(router, findActor, 'readAccess', async ({ params, signal }, actor) => {
    await desk.read(params['serverId'] ?? '', actor.name, signal);
    return { done: true };
  });
  serve(router, findActor, 'readAllAccess', async (_, actor) => ({ begun: await desk.readAll(actor.name) }));
  serveText(router, findActor, 'accessWhatIf', ({ params, body, signal }) =>
    heavy.run('accessWhatIf', { serverId: params['serverId'] ?? '', changes: body.changes }, signal),
  );
  serve(router, findActor, 'sealPassword', async ({ params, body }, actor) => ({
    secretId: await passwords.seal(params['serverId'] ?? '', body.userName, body.password, actor.name),
  }));
}
