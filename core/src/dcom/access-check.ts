import { aceFlags, aceTypes, objectAceTypes } from './descriptor.js';
import type { Ace, SecurityDescriptor } from './descriptor.js';
import type { Sid } from './sid.js';

/** Who somebody is when access is checked (MS-DTYP 2.5.2, without privileges). */
export interface AccessToken {
  readonly user: Sid;
  readonly groups: readonly Sid[];
  /** Groups that count only where something is denied. */
  readonly denyOnly: readonly Sid[];
}

/** The entry of a DACL by which access was decided. */
export interface DecidingEntry {
  readonly index: number;
  readonly ace: Ace;
}

export interface AccessDecision {
  readonly isAllowed: boolean;
  /** What was asked for, where it is allowed; where as much as possible was asked for, what that is. */
  readonly granted: number;
  /** The entry that denied, or that gave what was still missing; null: none did. */
  readonly decidedBy: DecidingEntry | null;
}

const readControl = 0x00020000;
const writeDac = 0x00040000;
const maximumAllowed = 0x02000000;
const ownerRights = 'S-1-3-4';
const principalSelf = 'S-1-5-10';
/** As many bits as rights have. */
const everything = 0xffffffff;

const allowing: ReadonlySet<number> = new Set([aceTypes.allowed, aceTypes.allowedObject]);
const denying: ReadonlySet<number> = new Set([aceTypes.denied, aceTypes.deniedObject]);

/**
 * Whether a token is given what it asks for: the check of MS-DTYP 2.5.3.2 without privileges, mandatory labels, kinds of
 * objects and conditions. Entries are looked at in their order, until one denies something that is still missing, or nothing
 * is missing any more.
 * @param mask what is asked for; MAXIMUM_ALLOWED (0x02000000) asks for as much as there is
 */
export function checkAccess(
  { owner, dacl }: Pick<SecurityDescriptor, 'owner' | 'dacl'>,
  token: AccessToken,
  mask: number,
): AccessDecision {
  const isForMost = (mask & maximumAllowed) !== 0;
  const asked = (mask & ~maximumAllowed) >>> 0;
  // Where there is no list, everybody may do everything.
  if (dacl === null) return { isAllowed: true, granted: isForMost ? everything : asked, decidedBy: null };
  const isOwner = owner !== null && holds(token, owner, false);
  const has = (sid: Sid, isDenied: boolean): boolean =>
    sid === ownerRights ? isOwner : sid !== principalSelf && holds(token, sid, isDenied);
  let [missing, granted, denied] = [asked, 0, 0];
  let decidedBy: DecidingEntry | null = null;
  // Its owner may always read and change who may do what, unless an entry says what owners may.
  if (isOwner && !dacl.some((ace) => ace.sid === ownerRights && counts(ace))) {
    missing &= ~(readControl | writeDac);
    granted = readControl | writeDac;
  }
  for (const [index, ace] of dacl.entries()) {
    if (!counts(ace)) continue;
    if (allowing.has(ace.type) && has(ace.sid, false)) {
      granted |= ace.mask & ~denied;
      if (missing !== 0 && (missing & ace.mask) !== 0) {
        missing &= ~ace.mask;
        if (missing === 0) decidedBy = { index, ace };
      }
    } else if (denying.has(ace.type) && has(ace.sid, true)) {
      // What was given before stays given: the order is the meaning.
      denied |= ace.mask & ~granted;
      if ((missing & ace.mask) !== 0) return { isAllowed: false, granted: 0, decidedBy: { index, ace } };
    }
    if (missing === 0 && !isForMost) break;
  }
  if (missing !== 0) return { isAllowed: false, granted: 0, decidedBy: null };
  return { isAllowed: isForMost ? granted !== 0 : true, granted: (isForMost ? granted : asked) >>> 0, decidedBy };
}

/** Entries that are only there to be inherited say nothing of the thing itself; kinds of objects are none of those that are checked here. */
const counts = ({ type, flags, objectType }: Ace): boolean =>
  (flags & aceFlags.inheritOnly) === 0 && (!objectAceTypes.has(type) || objectType === null);

const holds = ({ user, groups, denyOnly }: AccessToken, sid: Sid, isDenied: boolean): boolean =>
  user === sid || groups.includes(sid) || (isDenied && denyOnly.includes(sid));
