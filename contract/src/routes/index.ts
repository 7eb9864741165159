import type { z } from 'zod';
import { peopleRoutes } from './people.js';
import { auditRoutes } from './audit.js';
import { linksRoutes } from './links.js';
import { plantRoutes } from './plant.js';
import { settingsRoutes } from './settings.js';
import { benchRoutes } from './bench.js';
import { trustRoutes } from './trust.js';
import { authoritiesRoutes } from './authorities.js';
import { accountRoutes } from './accounts.js';
import { entryRoutes } from './entry.js';
import { ordersRoutes } from './orders.js';
import { reportRoutes } from './reports.js';
import { dcomRoutes } from './dcom.js';
import { passageRoutes } from './passage.js';
import { outpostRoutes } from './outposts.js';
import { gatewayRoutes } from './gateways.js';
import { tunnelRoutes } from './tunnels.js';
import { rightsRoutes } from './rights.js';
import { proposalsRoutes } from './proposals.js';
import { casebookRoutes } from './casebook.js';
import { handOutRoutes } from './hand-outs.js';
import { recipientRoutes } from './recipients.js';
import { roundsRoutes } from './rounds.js';
import { fieldRoutes } from './field.js';
import { searchRoutes } from './search.js';

export type { Route } from './route.js';

/** Every call of the server, in one table: it is served, called, documented and typed from here. */
export const routes = {
  ...peopleRoutes,
  ...auditRoutes,
  ...linksRoutes,
  ...plantRoutes,
  ...settingsRoutes,
  ...benchRoutes,
  ...trustRoutes,
  ...authoritiesRoutes,
  ...ordersRoutes,
  ...proposalsRoutes,
  ...entryRoutes,
  ...accountRoutes,
  ...reportRoutes,
  ...rightsRoutes,
  ...dcomRoutes,
  ...passageRoutes,
  ...outpostRoutes,
  ...tunnelRoutes,
  ...gatewayRoutes,
  ...casebookRoutes,
  ...roundsRoutes,
  ...recipientRoutes,
  ...handOutRoutes,
  ...fieldRoutes,
  ...searchRoutes,
} as const;
export type RouteName = keyof typeof routes;

export type AnswerOf<Name extends RouteName> = z.infer<(typeof routes)[Name]['answer']>;
export type BodyOf<Name extends RouteName> = (typeof routes)[Name] extends {
  readonly body: infer Body extends z.ZodType;
}
  ? z.infer<Body>
  : undefined;
export type QueryOf<Name extends RouteName> = (typeof routes)[Name] extends {
  readonly query: infer Query extends z.ZodType;
}
  ? z.infer<Query>
  : undefined;

type Parts<Path extends string> = Path extends `${string}:${infer Part}/${infer Rest}`
  ? Part | Parts<Rest>
  : Path extends `${string}:${infer Part}`
    ? Part
    : never;
/** The parts of a call’s path that are filled in. */
export type PartOf<Name extends RouteName> = Parts<(typeof routes)[Name]['path']>;
