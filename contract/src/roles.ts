/** Each role may do what the ones before it may. */
export const roles = ['viewer', 'engineer', 'approver', 'administrator'] as const;
export type Role = (typeof roles)[number];

/** True where a role may do what another one may. */
export const mayActAs = (held: Role, needed: Role): boolean => roles.indexOf(held) >= roles.indexOf(needed);
