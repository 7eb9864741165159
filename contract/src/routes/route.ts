import * as z from 'zod';
import type { Role } from '../roles.js';
import { placed } from './addresses.js';
import type { Address, Method, Placed } from './addresses.js';

/** What a call asks and answers. */
interface Terms {
  readonly summary: string;
  /** The least role that may call it; null: anyone. */
  readonly role: Role | null;
  /** It may be called by somebody who must change their password first. */
  readonly beforePassword?: true;
  readonly query?: z.ZodType;
  readonly body?: z.ZodType;
  readonly answer: z.ZodType;
}

/** One call of the HTTP interface. */
export interface Route extends Terms {
  readonly method: Method;
  readonly path: string;
}

export const nothing = z.object({});
export const done = z.object({ done: z.literal(true) });

export const route = <const At extends Address, const Shape extends Terms>(
  at: At,
  terms: Shape,
): Placed<At> & Shape => ({
  ...placed(at),
  ...terms,
});
