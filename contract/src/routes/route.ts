import { z } from 'zod';
import type { Role } from '../roles.js';

export type Method = 'get' | 'post' | 'put' | 'delete';
/** Method and path of a call, as `addresses.ts` has them. */
export type Address = `${Uppercase<Method>} /${string}`;

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

type Placed<At extends Address> = At extends `${infer Method} ${infer Path}`
  ? { readonly method: Lowercase<Method>; readonly path: Path }
  : never;

export const nothing = z.object({});
export const done = z.object({ done: z.literal(true) });

/** Method and path apart. */
export function placed<At extends Address>(address: At): Placed<At> {
  const [method = '', path = ''] = address.split(' ');
  return { method: method.toLowerCase(), path } as Placed<At>;
}

export const route = <const At extends Address, const Shape extends Terms>(
  at: At,
  terms: Shape,
): Placed<At> & Shape => ({
  ...placed(at),
  ...terms,
});
