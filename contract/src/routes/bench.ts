import { z } from 'zod';
import { benchNode, benchOpened, benchReading } from '../bench.js';
import { done, nothing, route } from './route.js';

/** Live sessions by hand. */
export const benchRoutes = {
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
};
