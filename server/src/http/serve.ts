import type { Request, Response, Router } from 'express';
import type { z } from 'zod';
import { mayActAs, routes } from '@loyal-hinge/contract';
import type { AnswerOf, BodyOf, Role, RouteName } from '@loyal-hinge/contract';
import { invalid, mayNot, notSignedIn, tokenMissing } from './problems.js';

/** Somebody who is signed in. */
export interface Actor {
  readonly name: string;
  readonly role: Role;
  readonly token: string;
}

export interface Call<Name extends RouteName> {
  readonly params: Readonly<Record<string, string>>;
  readonly query: Readonly<Record<string, string | undefined>>;
  readonly body: BodyOf<Name>;
  readonly request: Request;
  readonly response: Response;
}

/** `actor` is there on every route that names a role. */
export type Handler<Name extends RouteName> = (call: Call<Name>, actor: Actor) => Promise<AnswerOf<Name>>;

/** Finds who makes a request; null where nobody is signed in. */
export type FindActor = (request: Request) => Promise<Actor | null>;

export const tokenHeader = 'x-hinge-token';
const nobody: Actor = { name: '', role: 'viewer', token: '' };

/** Serves one call of the contract: role, token, query and body are checked before the handler runs, the answer after it. */
export function serve<Name extends RouteName>(
  router: Router,
  findActor: FindActor,
  name: Name,
  handler: Handler<Name>,
): void {
  const route = routes[name];
  router[route.method](route.path, async (request, response) => {
    const actor = route.role === null ? nobody : await admit(request, findActor, route.role, route.method);
    const query = 'query' in route ? parsed(route.query, request.query, 'the query') : {};
    const body = 'body' in route ? parsed(route.body, request.body ?? {}, 'the body') : undefined;
    const answer = await handler(
      {
        params: request.params as Record<string, string>,
        query: query as Record<string, string | undefined>,
        body: body as BodyOf<Name>,
        request,
        response,
      },
      actor,
    );
    if (response.headersSent) return;
    if (typeof answer === 'string') response.send(answer);
    else response.json(route.answer.parse(answer));
  });
}

/** Who may make this call; anything that changes something must carry the sign-in's token. */
export async function admit(request: Request, findActor: FindActor, needed: Role, method: string): Promise<Actor> {
  const actor = await findActor(request);
  if (!actor) throw notSignedIn();
  if (method !== 'get' && request.get(tokenHeader) !== actor.token) throw tokenMissing();
  if (!mayActAs(actor.role, needed)) throw mayNot(needed);
  return actor;
}

function parsed(schema: z.ZodType, value: unknown, where: string): unknown {
  const read = schema.safeParse(value);
  if (read.success) return read.data;
  const faults = read.error.issues
    .slice(0, 50)
    .map((issue) => ({ place: issue.path.map(String).join('.') || where, says: issue.message }));
  const [first] = faults;
  const detail = !first
    ? `${where} is not valid.`
    : first.place === where
      ? first.says
      : `${first.place}: ${first.says}`;
  throw invalid(detail, faults);
}
