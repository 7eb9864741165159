import { z } from 'zod';
import { benchNode, benchOpened, benchReading } from './bench.js';
import { certificateView, check, checkDetail, judgedUrl, linkDetail, linkRow, mended, mending } from './links.js';
import { auditEntry, health, signIn, signedIn } from './people.js';
import { carryOutOrder, proposedOrder, trustChange, workOrder, workOrderRow } from './orders.js';
import type { Role } from './roles.js';
import { clientIdentity, clientIdentityView, plantSettings } from './settings.js';
import {
  authorityView,
  certificatePage,
  createAuthority,
  droppedFile,
  holderDetail,
  horizon,
  importAuthority,
  issueCrlRequest,
  issueRequest,
  issuedCertificate,
  linkTurn,
  readingOutcome,
  recognisedFile,
  reportedBundle,
  revokeRequest,
  setAsideEntry,
  trustOverview,
  trustPlans,
  trustWay,
} from './trust.js';
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

  trust: route({
    method: 'get',
    path: '/api/trust',
    summary: 'Who trusts whom in the whole plant',
    role: 'viewer',
    answer: trustOverview,
  }),
  trustHolder: route({
    method: 'get',
    path: '/api/trust/holders/:id',
    summary: 'The lists of one application, with their history',
    role: 'viewer',
    answer: holderDetail,
  }),
  readTrust: route({
    method: 'post',
    path: '/api/trust/holders/:id/readings',
    summary: 'Reads the lists of a running server',
    role: 'engineer',
    body: nothing,
    answer: readingOutcome,
  }),
  readAllTrust: route({
    method: 'post',
    path: '/api/trust/readings',
    summary: 'Begins to read the lists of all servers that speak push management',
    role: 'engineer',
    body: nothing,
    answer: z.object({ applicationIds: z.array(z.string()) }),
  }),
  exportBundle: route({
    method: 'get',
    path: '/api/trust/holders/:id/bundle',
    summary: 'The lists of an application as a zip (Part 12 Annex F), with what its work orders still want',
    role: 'engineer',
    answer: z.string(),
  }),
  importBundle: route({
    method: 'post',
    path: '/api/trust/holders/:id/bundle',
    summary: 'Takes over a PKI folder that was copied from the machine',
    role: 'engineer',
    body: z.object({ file: droppedFile, copiedAt: z.iso.datetime() }),
    answer: reportedBundle,
  }),
  recognise: route({
    method: 'post',
    path: '/api/trust/recognised-files',
    summary: 'Says what files are, and keeps the certificates and CRLs in them',
    role: 'engineer',
    body: z.object({ files: z.array(droppedFile).min(1).max(200) }),
    answer: z.object({ files: z.array(recognisedFile) }),
  }),
  certificatePage: route({
    method: 'get',
    path: '/api/certificates/:thumbprint/page',
    summary: 'A certificate with its chain, where it lies and what stands on it',
    role: 'viewer',
    answer: certificatePage,
  }),
  setTrustWay: route({
    method: 'put',
    path: '/api/trust/holders/:id/way',
    summary: 'Says how the lists of an application are changed',
    role: 'engineer',
    body: trustWay,
    answer: done,
  }),
  stepBack: route({
    method: 'post',
    path: '/api/trust/holders/:id/history/:entry/back',
    summary: 'Proposes a work order that takes lists one step back',
    role: 'engineer',
    body: nothing,
    answer: workOrder,
  }),
  trustPlans: route({
    method: 'get',
    path: '/api/trust/plans',
    summary: 'The smallest changes after which every link is trusted, by both strategies',
    role: 'viewer',
    answer: trustPlans,
  }),
  trustWhatIf: route({
    method: 'post',
    path: '/api/trust/what-if',
    summary: 'Which links turn by changes; nothing is changed',
    role: 'viewer',
    body: z.object({ changes: z.array(trustChange).max(20_000) }),
    answer: z.object({ turns: z.array(linkTurn) }),
  }),
  setAside: route({
    method: 'get',
    path: '/api/trust/set-aside',
    summary: 'All certificates that lie in rejected lists',
    role: 'viewer',
    answer: z.object({ entries: z.array(setAsideEntry) }),
  }),
  dismissSetAside: route({
    method: 'post',
    path: '/api/trust/set-aside/dismissals',
    summary: 'Puts a certificate that lies set aside off, or takes it up again',
    role: 'engineer',
    body: z.object({ holderId: z.string().max(80), thumbprint: z.string().max(80), dismissed: z.boolean() }),
    answer: done,
  }),
  horizon: route({
    method: 'get',
    path: '/api/trust/horizon',
    summary: 'What ends when, and which links fall with it',
    role: 'viewer',
    answer: horizon,
  }),

  authorities: route({
    method: 'get',
    path: '/api/authorities',
    summary: 'The plant’s authorities',
    role: 'viewer',
    answer: z.object({ authorities: z.array(authorityView) }),
  }),
  createAuthority: route({
    method: 'post',
    path: '/api/authorities',
    summary: 'Makes an authority',
    role: 'administrator',
    body: createAuthority,
    answer: authorityView,
  }),
  importAuthority: route({
    method: 'post',
    path: '/api/authorities/imports',
    summary: 'Takes an existing authority over',
    role: 'administrator',
    body: importAuthority,
    answer: authorityView,
  }),
  issueCertificate: route({
    method: 'post',
    path: '/api/authorities/:thumbprint/certificates',
    summary: 'Signs a certificate request',
    role: 'engineer',
    body: issueRequest,
    answer: issuedCertificate,
  }),
  revokeCertificate: route({
    method: 'post',
    path: '/api/authorities/:thumbprint/revocations',
    summary: 'Revokes a certificate, and issues a CRL that says so',
    role: 'approver',
    body: revokeRequest,
    answer: authorityView,
  }),
  issueCrl: route({
    method: 'post',
    path: '/api/authorities/:thumbprint/crls',
    summary: 'Issues the next CRL',
    role: 'engineer',
    body: issueCrlRequest,
    answer: authorityView,
  }),

  orders: route({
    method: 'get',
    path: '/api/orders',
    summary: 'All work orders',
    role: 'viewer',
    answer: z.object({ orders: z.array(workOrderRow) }),
  }),
  order: route({
    method: 'get',
    path: '/api/orders/:id',
    summary: 'One work order with its lines',
    role: 'viewer',
    answer: workOrder,
  }),
  proposeOrder: route({
    method: 'post',
    path: '/api/orders',
    summary: 'Proposes a work order',
    role: 'engineer',
    body: proposedOrder,
    answer: workOrder,
  }),
  approveOrder: route({
    method: 'post',
    path: '/api/orders/:id/approval',
    summary: 'Approves a work order',
    role: 'approver',
    body: nothing,
    answer: workOrder,
  }),
  withdrawOrder: route({
    method: 'post',
    path: '/api/orders/:id/withdrawal',
    summary: 'Withdraws a work order that was not begun',
    role: 'engineer',
    body: nothing,
    answer: workOrder,
  }),
  carryOutOrder: route({
    method: 'post',
    path: '/api/orders/:id/carrying-out',
    summary: 'Carries an approved work order out, or goes on with one that stopped',
    role: 'engineer',
    body: carryOutOrder,
    answer: workOrder,
  }),
  lineDoneByHand: route({
    method: 'post',
    path: '/api/orders/:id/lines/:position/done',
    summary: 'Says that a line was done at the machine',
    role: 'engineer',
    body: nothing,
    answer: workOrder,
  }),
  undoLine: route({
    method: 'post',
    path: '/api/orders/:id/lines/:position/undoing',
    summary: 'Carries the way back of a line out',
    role: 'engineer',
    body: nothing,
    answer: workOrder,
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
