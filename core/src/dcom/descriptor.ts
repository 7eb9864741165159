import type { Sid } from './sid.js';

/** What an entry of an access control list is (AceType, MS-DTYP 2.4.4.1). */
export const aceTypes = {
  allowed: 0x00,
  denied: 0x01,
  audit: 0x02,
  alarm: 0x03,
  allowedObject: 0x05,
  deniedObject: 0x06,
  auditObject: 0x07,
  alarmObject: 0x08,
  allowedCallback: 0x09,
  deniedCallback: 0x0a,
  allowedCallbackObject: 0x0b,
  deniedCallbackObject: 0x0c,
  auditCallback: 0x0d,
  alarmCallback: 0x0e,
  auditCallbackObject: 0x0f,
  alarmCallbackObject: 0x10,
  mandatoryLabel: 0x11,
  resourceAttribute: 0x12,
  scopedPolicy: 0x13,
} as const;

/** Entries that may name kinds of objects (MS-DTYP 2.4.4.3). */
export const objectAceTypes: ReadonlySet<number> = new Set([
  aceTypes.allowedObject,
  aceTypes.deniedObject,
  aceTypes.auditObject,
  aceTypes.alarmObject,
  aceTypes.allowedCallbackObject,
  aceTypes.deniedCallbackObject,
  aceTypes.auditCallbackObject,
  aceTypes.alarmCallbackObject,
]);

/** Entries that stand in a SACL (MS-DTYP 2.4.4). */
export const systemAceTypes: ReadonlySet<number> = new Set([
  aceTypes.audit,
  aceTypes.alarm,
  aceTypes.auditObject,
  aceTypes.alarmObject,
  aceTypes.auditCallback,
  aceTypes.alarmCallback,
  aceTypes.auditCallbackObject,
  aceTypes.alarmCallbackObject,
  aceTypes.mandatoryLabel,
  aceTypes.resourceAttribute,
  aceTypes.scopedPolicy,
]);

/** AceFlags (MS-DTYP 2.4.4.1). */
export const aceFlags = {
  objectInherit: 0x01,
  containerInherit: 0x02,
  noPropagate: 0x04,
  inheritOnly: 0x08,
  inherited: 0x10,
  success: 0x40,
  failure: 0x80,
} as const;

/** An entry of an access control list. */
export interface Ace {
  readonly type: number;
  readonly flags: number;
  readonly mask: number;
  readonly sid: Sid;
  /** Of an entry that may name kinds of objects, as `bf967aba-0de6-11d0-a285-00aa003049e2`; null: of all. */
  readonly objectType: string | null;
  readonly inheritedObjectType: string | null;
  /** What stands behind the SID, such as a condition; as it came. */
  readonly data: Uint8Array;
}

/** Control (MS-DTYP 2.4.6). */
export const controlBits = {
  ownerDefaulted: 0x0001,
  groupDefaulted: 0x0002,
  daclPresent: 0x0004,
  daclDefaulted: 0x0008,
  saclPresent: 0x0010,
  saclDefaulted: 0x0020,
  daclInheritRequired: 0x0100,
  saclInheritRequired: 0x0200,
  daclInherited: 0x0400,
  saclInherited: 0x0800,
  daclProtected: 0x1000,
  saclProtected: 0x2000,
  selfRelative: 0x8000,
} as const;

/** Who owns something, and who may do what with it (MS-DTYP 2.4.6). */
export interface SecurityDescriptor {
  readonly control: number;
  readonly owner: Sid | null;
  readonly group: Sid | null;
  /** null: there is none, and everybody may do everything. An empty one lets nobody do anything. */
  readonly dacl: readonly Ace[] | null;
  readonly sacl: readonly Ace[] | null;
}

export const noData = new Uint8Array(0);
