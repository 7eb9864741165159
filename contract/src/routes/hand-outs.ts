import * as z from 'zod';
import { handOutQuery } from '../hand-outs.js';
import { at } from './addresses.js';
import { route } from './route.js';

/** Reports that are handed to people. */
export const handOutRoutes = {
  handOut: route(at.handOut, {
    summary: 'A report on the plant, a zone, a link or a case, as a page, as a PDF file, or its tables as CSV',
    role: 'viewer',
    query: handOutQuery,
    answer: z.string(),
  }),
};
