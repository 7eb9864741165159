import { z } from 'zod';
import { benchNode, benchOpened, benchReading } from './bench.js';
import { certificateView, check, checkDetail, judgedUrl, linkDetail, linkRow, mended, mending } from './links.js';
import { auditEntry, health, signIn, signedIn } from './people.js';
import type { Role } from './roles.js';
import { clientIdentity, clientIdentityView, plantSettings } from './settings.js';
import { application, link, machine, plant, plantDocument, zone } from './plant.js';

/** One call of the HTTP interface. */
export interface Route {
  readonly method: 'get' | 'post' | 'put' | 'delete';
  readonly path: string;
  readonly summary: string;
  /** The least role that may call it; null: anyone. */
  readonly role: Role | null;
  readonly query?: z.ZodType;
  readonly body?: z.ZodType;
  readonly answer: z.ZodType;
}

const nothing = z.object({});
const done = z.object({ done: z.literal(true) });
const route = <const Shape extends Route>(shape: Shape): Shape => shape;

/** Every call of the server, in one table: it is served, documented and typed from here. */
export const routes = {
  health: route({
    method: 'get',
    path: '/api/health',
    summary: 'Tells database, queue and stand-ins apart',
    role: null,
    answer: health,
  }),
  signIn: route({
    method: 'post',
    path: '/api/session',
    summary: 'Signs in',
    role: null,
    body: signIn,
    answer: signedIn,
  }),
  whoAmI: route({ method: 'get', path: '/api/session', summary: 'Who is signed in', role: 'viewer', answer: signedIn }),
  signOut: route({ method: 'delete', path: '/api/session', summary: 'Signs out', role: 'viewer', answer: done }),

  links: route({
    method: 'get',
    path: '/api/links',
    summary: 'All links with the verdicts of their steps',
    role: 'viewer',
    answer: z.object({ links: z.array(linkRow) }),
  }),
  link: route({
    method: 'get',
    path: '/api/links/:linkId',
    summary: 'One link, assessed and explained',
    role: 'viewer',
    answer: linkDetail,
  }),
  checkLink: route({
    method: 'post',
    path: '/api/links/:linkId/checks',
    summary: 'Asks for a check of one link',
    role: 'engineer',
    body: nothing,
    answer: check,
  }),
  checkAll: route({
    method: 'post',
    path: '/api/checks',
    summary: 'Asks for a check of every link, or of those named',
    role: 'engineer',
    body: z.object({ linkIds: z.array(z.string()).max(100_000).optional() }),
    answer: z.object({ checks: z.array(check) }),
  }),
  check: route({
    method: 'get',
    path: '/api/checks/:checkId',
    summary: 'A check with its facts and what they amount to',
    role: 'viewer',
    answer: checkDetail,
  }),
  cancelCheck: route({
    method: 'post',
    path: '/api/checks/:checkId/cancel',
    summary: 'Cancels a check',
    role: 'engineer',
    body: nothing,
    answer: check,
  }),
  mend: route({
    method: 'post',
    path: '/api/links/:linkId/mendings',
    summary: 'Carries out a remedy, and checks the link again',
    role: 'engineer',
    body: mending,
    answer: mended,
  }),
  judgeUrl: route({
    method: 'get',
    path: '/api/judged-url',
    summary: 'Cleans and judges an endpoint URL',
    role: 'viewer',
    query: z.object({ url: z.string().max(4096), serverId: z.string().max(80).optional() }),
    answer: judgedUrl,
  }),
  certificate: route({
    method: 'get',
    path: '/api/certificates/:thumbprint',
    summary: 'A certificate that was seen',
    role: 'viewer',
    answer: certificateView,
  }),

  plant: route({ method: 'get', path: '/api/plant', summary: 'The whole plant', role: 'viewer', answer: plant }),
  exportPlant: route({
    method: 'get',
    path: '/api/plant/document',
    summary: 'The whole plant as a file',
    role: 'viewer',
    answer: plantDocument,
  }),
  importPlant: route({
    method: 'put',
    path: '/api/plant/document',
    summary: 'Replaces the whole plant by a file’s; all or nothing',
    role: 'engineer',
    body: plantDocument,
    answer: done,
  }),
  exportMachines: route({
    method: 'get',
    path: '/api/plant/machines.csv',
    summary: 'All machines as CSV',
    role: 'viewer',
    answer: z.string(),
  }),
  importMachines: route({
    method: 'post',
    path: '/api/plant/machines.csv',
    summary: 'Adds or changes machines from CSV; all or nothing',
    role: 'engineer',
    body: z.object({ csv: z.string().max(4_000_000) }),
    answer: z.object({ machines: z.int() }),
  }),
  putZone: route({
    method: 'put',
    path: '/api/plant/zones/:id',
    summary: 'Adds or changes a zone',
    role: 'engineer',
    body: zone,
    answer: zone,
  }),
  putMachine: route({
    method: 'put',
    path: '/api/plant/machines/:id',
    summary: 'Adds or changes a machine',
    role: 'engineer',
    body: machine,
    answer: machine,
  }),
  putApplication: route({
    method: 'put',
    path: '/api/plant/applications/:id',
    summary: 'Adds or changes an application',
    role: 'engineer',
    body: application,
    answer: application,
  }),
  putLink: route({
    method: 'put',
    path: '/api/plant/links/:id',
    summary: 'Adds or changes a link',
    role: 'engineer',
    body: link,
    answer: link,
  }),
  removeZone: route({
    method: 'delete',
    path: '/api/plant/zones/:id',
    summary: 'Removes a zone that holds no machine',
    role: 'engineer',
    answer: done,
  }),
  removeMachine: route({
    method: 'delete',
    path: '/api/plant/machines/:id',
    summary: 'Removes a machine that holds no application',
    role: 'engineer',
    answer: done,
  }),
  removeApplication: route({
    method: 'delete',
    path: '/api/plant/applications/:id',
    summary: 'Removes an application that no link uses',
    role: 'engineer',
    answer: done,
  }),
  removeLink: route({
    method: 'delete',
    path: '/api/plant/links/:id',
    summary: 'Removes a link; its facts are kept',
    role: 'engineer',
    answer: done,
  }),

  settings: route({
    method: 'get',
    path: '/api/settings',
    summary: 'How the plant is dialled',
    role: 'viewer',
    answer: plantSettings,
  }),
  putSettings: route({
    method: 'put',
    path: '/api/settings',
    summary: 'Sets how the plant is dialled',
    role: 'administrator',
    body: plantSettings,
    answer: plantSettings,
  }),
  identities: route({
    method: 'get',
    path: '/api/identities',
    summary: 'Which clients have a certificate and key here',
    role: 'viewer',
    answer: z.object({ identities: z.array(clientIdentityView) }),
  }),
  putIdentity: route({
    method: 'put',
    path: '/api/identities/:id',
    summary: 'Gives a client its certificate and key',
    role: 'engineer',
    body: clientIdentity,
    answer: clientIdentityView,
  }),

  openBench: route({
    method: 'post',
    path: '/api/links/:linkId/bench',
    summary: 'Opens a live session on a link',
    role: 'engineer',
    body: nothing,
    answer: benchOpened,
  }),
  browseBench: route({
    method: 'get',
    path: '/api/bench/:benchId/nodes',
    summary: 'Children of a node',
    role: 'engineer',
    query: z.object({ parent: z.string().max(1000).optional() }),
    answer: z.object({ nodes: z.array(benchNode) }),
  }),
  readBench: route({
    method: 'get',
    path: '/api/bench/:benchId/value',
    summary: 'Reads one node',
    role: 'engineer',
    query: z.object({ nodeId: z.string().min(1).max(1000) }),
    answer: benchReading,
  }),
  closeBench: route({
    method: 'delete',
    path: '/api/bench/:benchId',
    summary: 'Closes a live session',
    role: 'engineer',
    answer: done,
  }),

  audit: route({
    method: 'get',
    path: '/api/audit',
    summary: 'The newest entries of the audit trail',
    role: 'viewer',
    query: z.object({ subject: z.string().max(200).optional() }),
    answer: z.object({ entries: z.array(auditEntry) }),
  }),
} as const;
export type RouteName = keyof typeof routes;

export type AnswerOf<Name extends RouteName> = z.infer<(typeof routes)[Name]['answer']>;
export type BodyOf<Name extends RouteName> = (typeof routes)[Name] extends {
  readonly body: infer Body extends z.ZodType;
}
  ? z.infer<Body>
  : undefined;
