import { parse, serialize } from 'cookie';
import type { Request, Router } from 'express';
import { serve } from '../http/serve.js';
import type { Actor, FindActor } from '../http/serve.js';
import type { Accounts } from './accounts.js';
import type { Asker, People } from './service.js';
import { SignInLimits } from './sign-in-limits.js';

/** Over TLS no other server of the same host can set or read it (RFC 6265bis §4.1.3.2). */
const cookieNames = { clear: 'hinge', secure: '__Host-hinge' } as const;
const nameFor = ({ secure }: Request): string => (secure ? cookieNames.secure : cookieNames.clear);
const longestBrowser = 200;
const cookieOf = (request: Request): string | undefined => parse(request.headers.cookie ?? '')[nameFor(request)];
const askerOf = (request: Request): Asker => ({
  address: request.ip ?? '',
  browser: (request.get('user-agent') ?? '').slice(0, longestBrowser),
});

export const findActorBy =
  (people: People): FindActor =>
  async (request) => {
    const cookie = cookieOf(request);
    return cookie === undefined ? null : people.find(cookie, askerOf(request));
  };

export function peopleRoutes(router: Router, people: People, accounts: Accounts, findActor: FindActor): void {
  signingRoutes(router, people, findActor);
  accountRoutes(router, accounts, findActor);
  serve(router, findActor, 'people', async () => ({ people: await accounts.all() }));
  serve(router, findActor, 'addPerson', async ({ body }, actor) => {
    await accounts.add(body, actor);
    return { done: true };
  });
  serve(router, findActor, 'changePerson', async ({ params, body }, actor) => {
    await accounts.change(params['name'] ?? '', body, actor);
    return { done: true };
  });
  serve(router, findActor, 'resetPerson', async ({ params, body }, actor) => {
    await accounts.reset(params['name'] ?? '', body, actor);
    return { done: true };
  });
  serve(router, findActor, 'sessionsOf', async ({ params }, actor) => ({
    sessions: await accounts.sessionsOf(params['name'] ?? '', actor),
  }));
  serve(router, findActor, 'endSession', async ({ params }, actor) => {
    await accounts.endSession(params['name'] ?? '', params['id'] ?? '', actor);
    return { done: true };
  });
}

function signingRoutes(router: Router, people: People, findActor: FindActor): void {
  const limits = new SignInLimits();
  const setCookie = (request: Request, value: string, more: { maxAge?: number } = {}): string =>
    serialize({
      name: nameFor(request),
      value,
      httpOnly: true,
      secure: request.secure,
      sameSite: 'strict',
      path: '/',
      ...more,
    });
  serve(router, findActor, 'signIn', async ({ body, request, response }) => {
    const { cookie, signedIn } = await limits.attempt(body.name, request.ip ?? '', () =>
      people.signIn(body, askerOf(request)),
    );
    response.setHeader('set-cookie', setCookie(request, cookie));
    return signedIn;
  });
  serve(router, findActor, 'whoAmI', (_, actor) => people.describe(actor));
  serve(router, findActor, 'signOut', async ({ request, response }, actor) => {
    await people.signOut(cookieOf(request) ?? '', actor);
    response.setHeader('set-cookie', setCookie(request, '', { maxAge: 0 }));
    return { done: true };
  });
}

/** What everybody does for themselves. A session that was left open is no place to guess its owner’s password, either. */
function accountRoutes(router: Router, accounts: Accounts, findActor: FindActor): void {
  const limits = new SignInLimits();
  const guarded = <Result>(request: Request, actor: Actor, run: () => Promise<Result>): Promise<Result> =>
    limits.attempt(actor.name, request.ip ?? '', run);
  serve(router, findActor, 'ownAccount', (_, actor) => accounts.own(actor));
  serve(router, findActor, 'changePassword', async ({ body, request }, actor) => {
    await guarded(request, actor, () => accounts.changePassword(body.current, body.next, actor));
    return { done: true };
  });
  serve(router, findActor, 'endOwnSession', async ({ params }, actor) => {
    await accounts.endSession(actor.name, params['id'] ?? '', actor);
    return { done: true };
  });
  serve(router, findActor, 'beginSecondFactor', ({ body, request }, actor) =>
    guarded(request, actor, () => accounts.beginSecondFactor(body.current, actor)),
  );
  serve(router, findActor, 'confirmSecondFactor', async ({ body }, actor) => ({
    recoveryCodes: [...(await accounts.confirmSecondFactor(body.code, actor))],
  }));
  serve(router, findActor, 'endSecondFactor', async ({ body, request }, actor) => {
    await guarded(request, actor, () => accounts.endSecondFactor(body.current, actor));
    return { done: true };
  });
  serve(router, findActor, 'renewRecoveryCodes', async ({ body, request }, actor) => ({
    recoveryCodes: [...(await guarded(request, actor, () => accounts.renewRecoveryCodes(body.current, actor)))],
  }));
}
