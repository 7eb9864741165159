import { z } from 'zod';
import { auditEntry, health, signIn, signedIn } from '../people.js';
import { done, route } from './route.js';

/** Who is signed in, and who did what. */
export const peopleRoutes = {
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
  audit: route({
    method: 'get',
    path: '/api/audit',
    summary: 'The newest entries of the audit trail',
    role: 'viewer',
    query: z.object({ subject: z.string().max(200).optional() }),
    answer: z.object({ entries: z.array(auditEntry) }),
  }),
};
