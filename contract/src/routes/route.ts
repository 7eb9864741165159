import { z } from 'zod';
import type { Role } from '../roles.js';

/** One call of the HTTP interface. */
export interface Route {
  readonly method: 'get' | 'post' | 'put' | 'delete';
  readonly path: string;
  readonly summary: string;
  /** The least role that may call it; null: anyone. */
  readonly role: Role | null;
  /** It may be called by somebody who must change their password first. */
  readonly beforePassword?: true;
  readonly query?: z.ZodType;
  readonly body?: z.ZodType;
  readonly answer: z.ZodType;
}

export const nothing = z.object({});
export const done = z.object({ done: z.literal(true) });
export const route = <const Shape extends Route>(shape: Shape): Shape => shape;
