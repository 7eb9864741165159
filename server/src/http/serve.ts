import type { Request, Response, Router } from 'express';
import { mayActAs, routes } from '@loyal-hinge/contract';
import type { AnswerOf, BodyOf, Role, Route, RouteName } from '@loyal-hinge/contract';
import { readJson, readLarge } from './bodies.js';
import { mayNot, notFound, notSignedIn, passwordFirst, tokenMissing } from './problems.js';
import { parsed, refuseUnfit } from './parsed.js';

/** Somebody who is signed in. */
export interface Actor {
  readonly name: string;
  readonly role: Role;
  readonly token: string;
  /** Somebody else gave the password: nothing but changing it is open. */
  readonly mustChangePassword: boolean;
}

export interface Call<Name extends RouteName> {
  readonly params: Readonly<Record<string, string>>;
  readonly query: Readonly<Record<string, string | undefined>>;
  readonly body: BodyOf<Name>;
  readonly request: Request;
  readonly response: Response;
  /** Aborts when the one who asked has gone. */
  readonly signal: AbortSignal;
}

/** A call whose body is large: taken as text. */
export interface LargeCall {
  readonly text: string;
  readonly params: Readonly<Record<string, string>>;
  /** Aborts when the one who asked has gone. */
  readonly signal: AbortSignal;
}

/** `actor` is there on every route that names a role. */
export type Handler<Name extends RouteName> = (call: Call<Name>, actor: Actor) => Promise<AnswerOf<Name>>;

/** Finds who makes a request; null where nobody is signed in. */
export type FindActor = (request: Request) => Promise<Actor | null>;

export const tokenHeader = 'x-hinge-token';
const nobody: Actor = { name: '', role: 'viewer', token: '', mustChangePassword: false };

/** Serves one call of the contract: role, token, query and body are checked before the handler runs, the answer after it. */
export function serve<Name extends RouteName>(
  router: Router,
  findActor: FindActor,
  name: Name,
  handler: Handler<Name>,
): void {
  answering(router, findActor, name, async (call, actor) => send(call.response, name, await handler(call, actor)));
}

/** Serves a call whose answer is large: a worker puts it together, and it goes out as the text that the worker made. */
export function serveText<Name extends RouteName>(
  router: Router,
  findActor: FindActor,
  name: Name,
  handler: (call: Call<Name>, actor: Actor) => Promise<AnswerText<Name>>,
): void {
  answering(router, findActor, name, async (call, actor) => {
    const { json } = await handler(call, actor);
    call.response.type('application/json').send(json);
  });
}

function answering<Name extends RouteName>(
  router: Router,
  findActor: FindActor,
  name: Name,
  answer: (call: Call<Name>, actor: Actor) => Promise<void>,
): void {
  const route: Route = routes[name];
  router[route.method](route.path, async (request, response) => {
    const actor = route.role === null ? nobody : await admit(request, findActor, { ...route, role: route.role });
    refuseUnfit(request.params, 'the address');
    refuseUnfit(request.query, 'the query');
    const query = route.query ? parsed(route.query, request.query, 'the query') : {};
    if (route.body) await readJson(request, response);
    const body = route.body ? parsed(route.body, request.body ?? {}, 'the body') : undefined;
    await answer(
      {
        params: request.params as Record<string, string>,
        query: query as Record<string, string | undefined>,
        body: body as BodyOf<Name>,
        request,
        response,
        signal: whileAsked(response),
      },
      actor,
    );
  });
}

/** Serves a call whose body is large: taken as text, once it is known who sends it, and read by a worker. */
export function serveLarge<Name extends RouteName>(
  router: Router,
  findActor: FindActor,
  name: Name,
  handler: (call: LargeCall, actor: Actor) => Promise<AnswerOf<Name>>,
): void {
  const route: Route = routes[name];
  router[route.method](route.path, async (request, response) => {
    const actor = await admit(request, findActor, { ...route, role: route.role ?? 'viewer' });
    refuseUnfit(request.params, 'the address');
    const text = await readLarge(request, response);
    const params = request.params as Record<string, string>;
    send(response, name, await handler({ text, params, signal: whileAsked(response) }, actor));
  });
}

/** A large body as it was sent, and who sent it: it is read by a worker. */
export interface SentBody {
  readonly text: string;
  readonly actor: string;
}

/** An answer as the text that goes out, which fits the contract. */
export interface AnswerText<Name extends RouteName> {
  readonly route: Name;
  readonly json: string;
}

export const answerText = <Name extends RouteName>(route: Name, answer: AnswerOf<Name>): AnswerText<Name> => ({
  route,
  json: JSON.stringify(routes[route].answer.parse(answer)),
});

function send<Name extends RouteName>(response: Response, name: Name, answer: AnswerOf<Name>): void {
  if (response.headersSent) return;
  if (typeof answer === 'string') response.send(answer);
  else response.json(routes[name].answer.parse(answer));
}

/** Aborts when the connection closes before it was answered. */
function whileAsked(response: Response): AbortSignal {
  const controller = new AbortController();
  const leave = (): void => {
    if (!response.writableFinished) controller.abort(new Error('nobody waits for the answer any more'));
  };
  // While it was looked up who asks, they may have gone already.
  if (response.closed) leave();
  else response.once('close', leave);
  return controller.signal;
}

/** What a call asks of whoever makes it. */
export type Admission = Pick<Route, 'method' | 'beforePassword'> & { readonly role: Role };

/** Who may make this call; anything that changes something must carry the sign-in's token. */
export async function admit(
  request: Request,
  findActor: FindActor,
  { role, method, beforePassword = undefined }: Admission,
): Promise<Actor> {
  const actor = await findActor(request);
  if (!actor) throw notSignedIn();
  if (method !== 'get' && request.get(tokenHeader) !== actor.token) throw tokenMissing();
  if (actor.mustChangePassword && !beforePassword) throw passwordFirst();
  if (!mayActAs(actor.role, role)) throw mayNot(role);
  return actor;
}

/** A whole number in the address; anything else names nothing that there is. */
export function numberIn(params: Readonly<Record<string, string>>, name: string, what: string): number {
  const text = params[name] ?? '';
  const number = Number(text);
  if (!/^\d{1,9}$/.test(text)) throw notFound(what, text);
  return number;
}
