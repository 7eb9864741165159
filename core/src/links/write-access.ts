import type { SecurityMode } from '../ua/security-policies.js';
import type { FactOf } from './facts.js';

export type ItemRights = FactOf<'item-rights'>;

/** Whether this session’s user may write an item, as its attributes say; nothing was written to find out. */
export type WriteAccess =
  | { readonly may: 'allowed'; readonly says: string }
  | { readonly may: 'denied'; readonly says: string; readonly missing: string }
  | { readonly may: 'unknown'; readonly says: string };

/**
 * Calculates write access from UserAccessLevel (Part 3 §5.6.2), UserRolePermissions (§5.2.10) and AccessRestrictions
 * (§5.2.11). UserRolePermissions and AccessRestrictions are optional attributes: where a server does not have them,
 * UserAccessLevel alone counts; without UserAccessLevel nothing is known.
 */
export function writeAccess(rights: ItemRights, mode: SecurityMode): WriteAccess {
  const { path, userAccessLevel, userPermissions, accessRestrictions, unread } = rights;
  if (userAccessLevel === null)
    return {
      may: 'unknown',
      says: `${path}: the server does not report UserAccessLevel (${unread.join('; ') || 'not read'}).`,
    };
  if (!userAccessLevel.includes('CurrentWrite'))
    return {
      may: 'denied',
      says: `${path}: UserAccessLevel has no CurrentWrite.`,
      missing: 'CurrentWrite in UserAccessLevel',
    };
  if (userPermissions !== null && !userPermissions.includes('Write'))
    return {
      may: 'denied',
      says: `${path}: none of the user’s roles has the permission Write.`,
      missing: 'a role with the permission Write',
    };
  const needsEncryption = accessRestrictions?.includes('EncryptionRequired') ?? false;
  if (needsEncryption && mode !== 'SignAndEncrypt')
    return {
      may: 'denied',
      says: `${path} accepts only encrypted sessions, and this one is ${modeWords[mode]}.`,
      missing: 'an encrypted channel (SignAndEncrypt)',
    };
  if (accessRestrictions?.includes('SigningRequired') && mode === 'None')
    return {
      may: 'denied',
      says: `${path} accepts only signed sessions, and this one is unsecured.`,
      missing: 'a signed channel',
    };
  return {
    may: 'allowed',
    says:
      userPermissions === null
        ? `${path}: UserAccessLevel has CurrentWrite.`
        : `${path}: UserAccessLevel has CurrentWrite, and a role has the permission Write.`,
  };
}

const modeWords: Readonly<Record<SecurityMode, string>> = {
  None: 'unsecured',
  Sign: 'only signed',
  SignAndEncrypt: 'encrypted',
};
