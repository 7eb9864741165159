import * as z from 'zod';
import { endpointUrl, id } from '../plant.js';

/** How the lists of an application are to be changed. */
export const trustWay = z.discriminatedUnion('way', [
  z.object({
    way: z.literal('push'),
    clientId: id,
    endpointUrl,
    userName: z.string().trim().min(1, 'A user name is needed.').max(200),
    /** Left out: the one that is kept stays. */
    password: z.string().min(1, 'A password is needed.').max(500).optional(),
  }),
  z.object({ way: z.literal('files') }),
  z.object({ way: z.literal('unknown') }),
]);
export type TrustWayBody = z.infer<typeof trustWay>;
