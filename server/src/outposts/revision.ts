import { createHash } from 'node:crypto';

/** Names what an outpost shall hold: something else has another revision. */
export const revisionOf = (held: unknown): string =>
  createHash('sha256').update(JSON.stringify(held)).digest('hex').slice(0, 32);
