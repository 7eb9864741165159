import { accessLevelBits, accessRestrictionBits, bitOf, permissionBits } from '../ua/access-bits.js';
import type { SecurityMode } from '../ua/security-policies.js';

/** What somebody may do with a node, lowest bit first. */
export const rightNames = [
  'read',
  'write',
  'read history',
  'change history',
  'call',
  'change attributes',
  'change permissions',
] as const;
export type RightName = (typeof rightNames)[number];
/** Rights as bits, in the order of their names: nodes are many. */
export type RightBits = number;

/**
 * What the attributes of a node say to one session (Part 3 §5), numbers as they come over the wire; null: the server does
 * not have the attribute, or does not tell it. `User…` are already about the session’s own user.
 */
export interface NodeAttributes {
  readonly nodeClass: 'Variable' | 'Object' | 'Method' | 'other';
  readonly accessLevel: number | null;
  readonly userAccessLevel: number | null;
  /** All permissions of the user’s roles together (UserRolePermissions). */
  readonly userPermissions: number | null;
  readonly accessRestrictions: number | null;
  readonly userWriteMask: number | null;
  readonly userExecutable: boolean | null;
}

const access = (name: (typeof accessLevelBits)[number]): number => bitOf(name, accessLevelBits);
const permission = (name: (typeof permissionBits)[number]): number => bitOf(name, permissionBits);
const restriction = (name: (typeof accessRestrictionBits)[number]): number => bitOf(name, accessRestrictionBits);

/** What a right on a node hangs on. */
interface RightRule {
  readonly classes: readonly NodeAttributes['nodeClass'][] | null;
  /** A bit of UserAccessLevel; null: it does not count. */
  readonly level: number | null;
  /** One of these permissions is needed, where the server tells permissions. */
  readonly permissions: number;
}

const rules: Readonly<Record<RightName, RightRule>> = {
  read: { classes: ['Variable'], level: access('CurrentRead'), permissions: permission('Read') },
  write: { classes: ['Variable'], level: access('CurrentWrite'), permissions: permission('Write') },
  'read history': { classes: ['Variable'], level: access('HistoryRead'), permissions: permission('ReadHistory') },
  'change history': {
    classes: ['Variable'],
    level: access('HistoryWrite'),
    permissions: permission('InsertHistory') | permission('ModifyHistory') | permission('DeleteHistory'),
  },
  call: { classes: ['Method'], level: null, permissions: permission('Call') },
  'change attributes': { classes: null, level: null, permissions: permission('WriteAttribute') },
  'change permissions': { classes: null, level: null, permissions: permission('WriteRolePermissions') },
};

/** The bit of a right. */
export const rightBit = (name: RightName): RightBits => bitOf(name, rightNames);

/** The rights of a session’s user on a node, from the attributes that the session was told. */
export function rightsOn(node: NodeAttributes, mode: SecurityMode): RightBits {
  let rights = 0;
  for (const name of rightNames) if (refusalOf(node, name, mode) === null) rights |= rightBit(name);
  return rights;
}

/** Why a right is not given; by the first thing that is missing. */
export type Refusal =
  | { readonly by: 'node class' }
  /** The node itself does not have it for anybody (AccessLevel). */
  | { readonly by: 'AccessLevel' }
  | { readonly by: 'UserAccessLevel' }
  | { readonly by: 'UserRolePermissions' }
  | { readonly by: 'UserWriteMask' }
  | { readonly by: 'UserExecutable' }
  | { readonly by: 'AccessRestrictions'; readonly needs: 'Sign' | 'SignAndEncrypt' }
  /** The server does not tell what it would take to know. */
  | { readonly by: 'not told' };

/** Why somebody may not do something with a node; null: they may. */
export function refusalOf(node: NodeAttributes, name: RightName, mode: SecurityMode): Refusal | null {
  const { classes, level, permissions } = rules[name];
  if (classes && !classes.includes(node.nodeClass)) return { by: 'node class' };
  if (level !== null) {
    if (node.userAccessLevel === null) return { by: 'not told' };
    if ((node.userAccessLevel & level) === 0)
      return { by: node.accessLevel !== null && (node.accessLevel & level) === 0 ? 'AccessLevel' : 'UserAccessLevel' };
  }
  if (name === 'call' && node.userExecutable !== true)
    return { by: node.userExecutable === null ? 'not told' : 'UserExecutable' };
  if (name === 'change attributes' && !node.userWriteMask)
    return { by: node.userWriteMask === null ? 'not told' : 'UserWriteMask' };
  // Permissions are optional for a server; changing them is nothing that one without them could allow.
  if (node.userPermissions === null) {
    if (name === 'change permissions') return { by: 'not told' };
  } else if ((node.userPermissions & permissions) === 0) return { by: 'UserRolePermissions' };
  return refusedByMode(node.accessRestrictions ?? 0, mode);
}

function refusedByMode(restrictions: number, mode: SecurityMode): Refusal | null {
  if ((restrictions & restriction('EncryptionRequired')) !== 0 && mode !== 'SignAndEncrypt')
    return { by: 'AccessRestrictions', needs: 'SignAndEncrypt' };
  return (restrictions & restriction('SigningRequired')) !== 0 && mode === 'None'
    ? { by: 'AccessRestrictions', needs: 'Sign' }
    : null;
}

/** A refusal in words. */
export function sayRefusal(refusal: Refusal, name: RightName): string {
  switch (refusal.by) {
    case 'node class':
      return 'This is nothing that can be done with such a node.';
    case 'AccessLevel':
      return `Nobody may ${name} here: AccessLevel does not have it.`;
    case 'UserAccessLevel':
      return `Others may ${name} here, this user may not: UserAccessLevel does not have it.`;
    case 'UserRolePermissions':
      return `None of the user’s roles has the permission to ${name}.`;
    case 'UserWriteMask':
      return 'UserWriteMask names no attribute that this user may change.';
    case 'UserExecutable':
      return 'UserExecutable says that this user may not call it.';
    case 'AccessRestrictions':
      return `AccessRestrictions want a channel that is ${refusal.needs === 'Sign' ? 'signed' : 'encrypted'}.`;
    case 'not told':
      return 'The server does not tell the attribute that it depends on.';
  }
}
