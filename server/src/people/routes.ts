import { parse, serialize } from 'cookie';
import type { Request, Router } from 'express';
import { newestAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { People } from './service.js';
import { SignInLimits } from './sign-in-limits.js';

const cookieName = 'hinge';
const cookieOf = (request: Request): string | undefined => parse(request.headers.cookie ?? '')[cookieName];

export const findActorBy =
  (people: People): FindActor =>
  async (request) => {
    const cookie = cookieOf(request);
    return cookie === undefined ? null : people.find(cookie);
  };

export function peopleRoutes(router: Router, people: People, db: Database, findActor: FindActor): void {
  const limits = new SignInLimits();
  serve(router, findActor, 'signIn', async ({ body, request, response }) => {
    const { cookie, signedIn } = await limits.attempt(body.name, request.ip ?? '', () =>
      people.signIn(body.name, body.password),
    );
    response.setHeader(
      'set-cookie',
      serialize({ name: cookieName, value: cookie, httpOnly: true, sameSite: 'strict', path: '/' }),
    );
    return signedIn;
  });
  serve(router, findActor, 'whoAmI', (_, actor) => people.describe(actor));
  serve(router, findActor, 'signOut', async ({ request, response }, actor) => {
    await people.signOut(cookieOf(request) ?? '', actor);
    response.setHeader(
      'set-cookie',
      serialize({ name: cookieName, value: '', httpOnly: true, sameSite: 'strict', path: '/', maxAge: 0 }),
    );
    return { done: true };
  });
  serve(router, findActor, 'audit', async ({ query }) => ({ entries: await newestAudit(db, query['subject']) }));
}
