import type { Router } from 'express';
import { accountsPage, userCertificateName } from '@loyal-hinge/contract';
import type { Runs } from '../heavy/jobs.js';
import { invalid } from '../http/problems.js';
import { serve, serveText } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { AccessDesk } from './access-desk.js';
import type { UserCertificates } from './user-certificates.js';
import type { AccountJobs } from './jobs.js';
import type { AccountPasswords } from './passwords.js';

export function accountRoutes(
  router: Router,
  findActor: FindActor,
  heavy: Runs<AccountJobs>,
  desk: AccessDesk,
  passwords: AccountPasswords,
  userCertificates: UserCertificates,
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
  serveText(router, findActor, 'userTrust', ({ signal }) => heavy.run('userTrust', undefined, signal));
  serve(router, findActor, 'userCertificates', async () => ({ certificates: await userCertificates.all() }));
  serve(router, findActor, 'putUserCertificate', ({ params, body }, actor) =>
    userCertificates.give(nameOf(params['name']), body, actor.name),
  );
  serve(router, findActor, 'forgetUserCertificate', async ({ params }, actor) => {
    await userCertificates.forget(params['name'] ?? '', actor.name);
    return { done: true };
  });
}

/** @throws a problem where it can’t be the name of a user certificate */
function nameOf(typed: string | undefined): string {
  const read = userCertificateName.safeParse(typed ?? '');
  if (read.success) return read.data;
  throw invalid('This can’t be the name of a user certificate.', [
    { place: 'name', says: read.error.issues[0]?.message ?? 'Another name is needed.' },
  ]);
}
