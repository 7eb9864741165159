import * as z from 'zod';
import {
  knownMatches,
  matchesWish,
  rightsChange,
  rightsReportWish,
  rightsServer,
  rightsSnapshot,
  rightsView,
  rightsWish,
  rightsWriters,
  snapshotWish,
} from '../rights.js';
import { at } from './addresses.js';
import { done, nothing, route } from './route.js';

/** Who may do what with the nodes of servers. */
export const rightsRoutes = {
  rightsServers: route(at.rightsServers, {
    summary: 'Servers, and who signs in at them',
    role: 'viewer',
    answer: z.object({ servers: z.array(rightsServer) }),
  }),
  rightsWriters: route(at.rightsWriters, {
    summary: 'Who can write, in the whole plant: a node, what fits a pattern, or everything',
    role: 'viewer',
    query: rightsWish.pick({ find: true }),
    answer: rightsWriters,
  }),
  rightsReport: route(at.rightsReport, {
    summary: 'The same as a PDF file to be printed, of one server or of all',
    role: 'viewer',
    query: rightsReportWish,
    answer: z.string(),
  }),
  rights: route(at.rights, {
    summary: 'The rights on one server, grouped, and compared with what links need',
    role: 'viewer',
    query: rightsWish,
    answer: rightsView,
  }),
  exportRights: route(at.exportRights, {
    summary: 'Every node of a server with what each identity may do with it, as a CSV file',
    role: 'viewer',
    answer: z.string(),
  }),
  rightsMatches: route(at.rightsMatches, {
    summary: 'What paths and patterns stand for among the nodes of a server that snapshots have seen',
    role: 'viewer',
    body: matchesWish,
    answer: knownMatches,
  }),
  takeSnapshots: route(at.takeSnapshots, {
    summary:
      'Signs in as each identity in turn, and walks through all nodes, or through a part; nothing is written at the server',
    role: 'engineer',
    body: snapshotWish,
    answer: z.object({ snapshots: z.array(rightsSnapshot) }),
  }),
  cancelSnapshot: route(at.cancelSnapshot, {
    summary: 'Ends a snapshot that is being taken; what it has seen is kept',
    role: 'engineer',
    body: nothing,
    answer: done,
  }),
  removeSnapshot: route(at.removeSnapshot, {
    summary: 'Removes a snapshot',
    role: 'engineer',
    answer: done,
  }),
  compareSnapshots: route(at.compareSnapshots, {
    summary: 'What somebody may do now and could not before, and the other way round; at most 2,000 nodes',
    role: 'viewer',
    answer: z.object({ changes: z.array(rightsChange), total: z.int() }),
  }),
} as const;
