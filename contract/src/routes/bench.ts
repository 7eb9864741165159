import * as z from 'zod';
import { benchNode, benchOpened, benchReading } from '../bench.js';
import { at } from './addresses.js';
import { done, nothing, route } from './route.js';

/** Live sessions by hand. */
export const benchRoutes = {
  openBench: route(at.openBench, {
    summary: 'Opens a live session on a link',
    role: 'engineer',
    body: nothing,
    answer: benchOpened,
  }),
  browseBench: route(at.browseBench, {
    summary: 'Children of a node',
    role: 'engineer',
    query: z.object({ parent: z.string().max(1000).optional() }),
    answer: z.object({ nodes: z.array(benchNode) }),
  }),
  readBench: route(at.readBench, {
    summary: 'Reads one node',
    role: 'engineer',
    query: z.object({ nodeId: z.string().min(1).max(1000) }),
    answer: benchReading,
  }),
  closeBench: route(at.closeBench, {
    summary: 'Closes a live session',
    role: 'engineer',
    answer: done,
  }),
};
