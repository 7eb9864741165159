import * as z from 'zod';
import { searchHit } from '../search.js';
import { at } from './addresses.js';
import { route } from './route.js';

/** Looking for anything that has a name. */
export const searchRoutes = {
  search: route(at.search, {
    summary: 'Machines, applications, links, certificates and work orders by words of their names; a few of each',
    role: 'viewer',
    query: z.object({ find: z.string().min(1, 'Type at least one letter.').max(200, 'At most 200 letters.') }),
    answer: z.object({ hits: z.array(searchHit) }),
  }),
} as const;
