import type { TrustChange } from '../trust/plant-trust/trust-change.js';

/** Changes of trust where only their kind and whom they are made on matters. */

const at = (holderId: string) => ({ holderId, list: 'trusted', thumbprint: 'AA' }) as const;

export const give = (holderId: string): TrustChange => ({ kind: 'list-certificate', ...at(holderId), until: null });
export const take = (holderId: string): TrustChange => ({ kind: 'unlist-certificate', ...at(holderId) });
export const renew = (applicationId: string): TrustChange => ({
  kind: 'renew-certificate',
  applicationId,
  authority: 'BB',
  before: null,
});
