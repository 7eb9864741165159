import { checkAccess } from './access-check.js';
import type { AccessToken, DecidingEntry } from './access-check.js';
import type { SecurityDescriptor } from './descriptor.js';

/** What COM asks for (MS-DCOM 2.2.28.2.1, COM_RIGHTS): near, from the same machine, or far, from another one. */
export const comRights = [
  'launch near',
  'launch far',
  'activate near',
  'activate far',
  'access near',
  'access far',
] as const;
export type ComRight = (typeof comRights)[number];

/** Which permission a right stands in: who may start a server and get objects of it, or who may call them. */
export type ComPermission = 'launch' | 'access';

const bits: Readonly<Record<ComRight, number>> = {
  'launch near': 0x02,
  'launch far': 0x04,
  'activate near': 0x08,
  'activate far': 0x10,
  'access near': 0x02,
  'access far': 0x04,
};
const execute = 0x01;
const [ofLaunch, ofAccess] = [0x1e, 0x06];

export const permissionOf = (right: ComRight): ComPermission =>
  right === 'access near' || right === 'access far' ? 'access' : 'launch';

/** The rights that a mask gives; an older one that has the first bit alone gives all (MS-DCOM 2.2.28.2.1). */
export function rightsInMask(mask: number, permission: ComPermission): readonly ComRight[] {
  const whole = expanded(mask, permission);
  return comRights.filter((right) => permissionOf(right) === permission && (whole & bits[right]) !== 0);
}

function expanded(mask: number, permission: ComPermission): number {
  const own = permission === 'launch' ? ofLaunch : ofAccess;
  return (mask & execute) !== 0 && (mask & own) === 0 ? mask | own : mask;
}

/** A descriptor as COM reads it: with the rights that older entries mean. */
const asComReads = ({ dacl, ...rest }: SecurityDescriptor, permission: ComPermission): SecurityDescriptor => ({
  ...rest,
  dacl: dacl && dacl.map((ace) => ({ ...ace, mask: expanded(ace.mask, permission) })),
});

/** What a permission of a machine is made of; null: the export has no such value. */
export interface ComLimits {
  /** The application’s own, which stands before the default. */
  readonly own: SecurityDescriptor | null;
  readonly byDefault: SecurityDescriptor | null;
  /** The machine’s limit over all applications. */
  readonly restriction: SecurityDescriptor | null;
  /** The same by policy, which stands before it. */
  readonly policy: SecurityDescriptor | null;
}

export interface ComDecision {
  /** null: what decides is not known, since the export has no such value. */
  readonly isAllowed: boolean | null;
  /** Which descriptor decided. */
  readonly by: 'own permission' | 'default permission' | 'restriction' | 'policy';
  /** The entry that decided; null: none gives it. */
  readonly entry: DecidingEntry | null;
}

/**
 * Whether COM lets somebody do something with an application: its own permission or else the default one must give it, and
 * the machine’s limit must, too. The limit is looked at last: it overrules what the application says.
 */
export function checkComRight(limits: ComLimits, token: AccessToken, right: ComRight): ComDecision {
  const permission = permissionOf(right);
  const within = (descriptor: SecurityDescriptor) =>
    checkAccess(asComReads(descriptor, permission), token, bits[right]);
  const [by, given] =
    limits.own === null
      ? (['default permission', limits.byDefault] as const)
      : (['own permission', limits.own] as const);
  const first = given && within(given);
  if (first && !first.isAllowed) return { isAllowed: false, by, entry: first.decidedBy };
  const [limitedBy, limit] =
    limits.policy === null ? (['restriction', limits.restriction] as const) : (['policy', limits.policy] as const);
  const second = limit && within(limit);
  if (second && !second.isAllowed) return { isAllowed: false, by: limitedBy, entry: second.decidedBy };
  if (!first) return { isAllowed: null, by, entry: null };
  return { isAllowed: second ? true : null, by: second ? by : limitedBy, entry: first.decidedBy };
}
