/** A security identifier as a text: `S-1-5-32-544` (MS-DTYP 2.4.2). */
export type Sid = string;

/** Why something that was read is none, and where: at which byte, or at which letter, counted from 0. */
export interface DescriptorFault {
  readonly at: number;
  readonly says: string;
}

export type ReadPart<Value> =
  { readonly ok: true; readonly value: Value } | { readonly ok: false; readonly fault: DescriptorFault };

/** Sub-authorities of one SID (MS-DTYP 2.4.2.2). */
const mostSubAuthorities = 15;
const headerBytes = 8;

/** Reads a SID at a place of some bytes. @returns with how many bytes it has */
export function readSidBytes(
  bytes: Uint8Array,
  at: number,
  end = bytes.length,
): ReadPart<{ readonly sid: Sid; readonly length: number }> {
  const fault = (says: string, place = at) => ({ ok: false as const, fault: { at: place, says } });
  if (at < 0 || at + headerBytes > end) return fault('A SID is cut off here.');
  if (bytes[at] !== 1) return fault(`A SID of revision ${bytes[at] ?? 0}, where 1 is the only one.`);
  const count = bytes[at + 1] ?? 0;
  if (count > mostSubAuthorities) return fault(`A SID of ${count} sub-authorities, where 15 are the most.`, at + 1);
  const length = headerBytes + 4 * count;
  if (at + length > end) return fault(`A SID of ${length} bytes is cut off after ${end - at}.`);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  // Six bytes, the highest first; below 2^32 it is told in tens, above in hexadecimal.
  const authority = view.getUint16(at + 2) * 2 ** 32 + view.getUint32(at + 4);
  const told = authority < 2 ** 32 ? String(authority) : `0x${authority.toString(16).toUpperCase().padStart(12, '0')}`;
  const parts = Array.from({ length: count }, (_, index) => view.getUint32(at + headerBytes + 4 * index, true));
  return { ok: true, value: { sid: ['S-1', told, ...parts].join('-'), length } };
}

interface SidParts {
  readonly authority: number;
  readonly subAuthorities: readonly number[];
}

/** Takes a SID’s text apart; null: it is none. */
export function sidParts(text: string): SidParts | null {
  const read = /^S-1-(0x[0-9a-f]{1,12}|\d{1,10})((?:-(?:\d{1,10}|0x[0-9a-f]{1,8}))*)$/i.exec(text);
  if (!read) return null;
  const authority = Number(read[1]);
  const subAuthorities = (read[2] ?? '').split('-').slice(1).map(Number);
  const isSound =
    (authority < 2 ** 32 || /^0x/i.test(read[1] ?? '')) &&
    subAuthorities.length <= mostSubAuthorities &&
    subAuthorities.every((part) => part < 2 ** 32);
  return isSound ? { authority, subAuthorities } : null;
}

/** The same SID in its usual text: in capitals, numbers in tens. null: it is none. */
export function usualSid(text: string): Sid | null {
  const parts = sidParts(text);
  const read = parts && readSidBytes(sidBytesOf(parts), 0);
  return read?.ok ? read.value.sid : null;
}

/** @throws where it is no SID: what is written was read before */
export function sidBytes(sid: Sid): Uint8Array {
  const parts = sidParts(sid);
  if (!parts) throw new Error(`no SID: ${sid}`);
  return sidBytesOf(parts);
}

function sidBytesOf({ authority, subAuthorities }: SidParts): Uint8Array {
  const bytes = new Uint8Array(headerBytes + 4 * subAuthorities.length);
  const view = new DataView(bytes.buffer);
  bytes[0] = 1;
  bytes[1] = subAuthorities.length;
  view.setUint16(2, Math.floor(authority / 2 ** 32));
  view.setUint32(4, authority % 2 ** 32);
  subAuthorities.forEach((part, index) => view.setUint32(headerBytes + 4 * index, part, true));
  return bytes;
}

/** Well-known SIDs with their two letters (MS-DTYP 2.5.1.1) and their names (2.4.2.4). */
const wellKnown: readonly (readonly [letters: string | null, sid: Sid, name: string])[] = [
  [null, 'S-1-0-0', 'Nobody'],
  ['WD', 'S-1-1-0', 'Everyone'],
  [null, 'S-1-2-0', 'Local'],
  [null, 'S-1-2-1', 'Console Logon'],
  ['CO', 'S-1-3-0', 'Creator Owner'],
  ['CG', 'S-1-3-1', 'Creator Group'],
  ['OW', 'S-1-3-4', 'Owner Rights'],
  [null, 'S-1-5-1', 'Dialup'],
  ['NU', 'S-1-5-2', 'Network'],
  [null, 'S-1-5-3', 'Batch'],
  ['IU', 'S-1-5-4', 'Interactive'],
  ['SU', 'S-1-5-6', 'Service'],
  ['AN', 'S-1-5-7', 'Anonymous Logon'],
  ['ED', 'S-1-5-9', 'Enterprise Domain Controllers'],
  ['PS', 'S-1-5-10', 'Principal Self'],
  ['AU', 'S-1-5-11', 'Authenticated Users'],
  ['RC', 'S-1-5-12', 'Restricted Code'],
  [null, 'S-1-5-13', 'Terminal Server Users'],
  [null, 'S-1-5-14', 'Remote Interactive Logon'],
  [null, 'S-1-5-15', 'This Organization'],
  [null, 'S-1-5-17', 'IUSR'],
  ['SY', 'S-1-5-18', 'Local System'],
  ['LS', 'S-1-5-19', 'Local Service'],
  ['NS', 'S-1-5-20', 'Network Service'],
  ['WR', 'S-1-5-33', 'Write Restricted Code'],
  [null, 'S-1-5-113', 'Local Account'],
  [null, 'S-1-5-114', 'Local Account and member of Administrators'],
  ['BA', 'S-1-5-32-544', 'Administrators'],
  ['BU', 'S-1-5-32-545', 'Users'],
  ['BG', 'S-1-5-32-546', 'Guests'],
  ['PU', 'S-1-5-32-547', 'Power Users'],
  ['AO', 'S-1-5-32-548', 'Account Operators'],
  ['SO', 'S-1-5-32-549', 'Server Operators'],
  ['PO', 'S-1-5-32-550', 'Print Operators'],
  ['BO', 'S-1-5-32-551', 'Backup Operators'],
  ['RE', 'S-1-5-32-552', 'Replicators'],
  ['RU', 'S-1-5-32-554', 'Pre-Windows 2000 Compatible Access'],
  ['RD', 'S-1-5-32-555', 'Remote Desktop Users'],
  ['NO', 'S-1-5-32-556', 'Network Configuration Operators'],
  ['MU', 'S-1-5-32-558', 'Performance Monitor Users'],
  ['LU', 'S-1-5-32-559', 'Performance Log Users'],
  [null, 'S-1-5-32-562', 'Distributed COM Users'],
  ['IS', 'S-1-5-32-568', 'IIS_IUSRS'],
  ['CY', 'S-1-5-32-569', 'Cryptographic Operators'],
  ['ER', 'S-1-5-32-573', 'Event Log Readers'],
  ['CD', 'S-1-5-32-574', 'Certificate Service DCOM Access'],
  ['RA', 'S-1-5-32-575', 'RDS Remote Access Servers'],
  ['ES', 'S-1-5-32-576', 'RDS Endpoint Servers'],
  ['MS', 'S-1-5-32-577', 'RDS Management Servers'],
  ['HA', 'S-1-5-32-578', 'Hyper-V Administrators'],
  ['AA', 'S-1-5-32-579', 'Access Control Assistance Operators'],
  ['RM', 'S-1-5-32-580', 'Remote Management Users'],
  ['UD', 'S-1-5-84-0-0-0-0-0', 'User-mode Drivers'],
  ['AC', 'S-1-15-2-1', 'All Application Packages'],
  ['LW', 'S-1-16-4096', 'Low Mandatory Level'],
  ['ME', 'S-1-16-8192', 'Medium Mandatory Level'],
  ['MP', 'S-1-16-8448', 'Medium Plus Mandatory Level'],
  ['HI', 'S-1-16-12288', 'High Mandatory Level'],
  ['SI', 'S-1-16-16384', 'System Mandatory Level'],
  ['AS', 'S-1-18-1', 'Authentication Authority Asserted Identity'],
  ['SS', 'S-1-18-2', 'Service Asserted Identity'],
];

/** Accounts of a domain or a machine, by the last part of their SIDs. */
const inDomain: readonly (readonly [letters: string, rid: number, name: string])[] = [
  ['RO', 498, 'Enterprise Read-only Domain Controllers'],
  ['LA', 500, 'Administrator'],
  ['LG', 501, 'Guest'],
  ['DA', 512, 'Domain Admins'],
  ['DU', 513, 'Domain Users'],
  ['DG', 514, 'Domain Guests'],
  ['DC', 515, 'Domain Computers'],
  ['DD', 516, 'Domain Controllers'],
  ['CA', 517, 'Cert Publishers'],
  ['SA', 518, 'Schema Admins'],
  ['EA', 519, 'Enterprise Admins'],
  ['PA', 520, 'Group Policy Creator Owners'],
  ['CN', 522, 'Cloneable Domain Controllers'],
  ['AP', 525, 'Protected Users'],
  ['KA', 526, 'Key Admins'],
  ['EK', 527, 'Enterprise Key Admins'],
  ['RS', 553, 'RAS and IAS Servers'],
];

const byLetters = new Map(wellKnown.flatMap(([letters, sid]) => (letters === null ? [] : [[letters, sid] as const])));
const lettersOf = new Map(wellKnown.flatMap(([letters, sid]) => (letters === null ? [] : [[sid, letters] as const])));
const names = new Map(wellKnown.map(([, sid, name]) => [sid, name]));
const ridByLetters = new Map(inDomain.map(([letters, rid]) => [letters, rid]));
const lettersByRid = new Map(inDomain.map(([letters, rid]) => [rid, letters]));
const namesByRid = new Map(inDomain.map(([, rid, name]) => [rid, name]));

/** The SID that two letters stand for; null: they stand for none, or for an account of a domain that is not known. */
export function sidOfLetters(letters: string, domainSid: Sid | null): Sid | null {
  const rid = ridByLetters.get(letters);
  if (rid !== undefined) return domainSid === null ? null : `${domainSid}-${rid}`;
  return byLetters.get(letters) ?? null;
}

/** Whether two letters stand for somebody only where a domain is known. */
export const needsDomain = (letters: string): boolean => ridByLetters.has(letters);

/** The two letters that stand for a SID, or the SID itself. */
export function lettersForSid(sid: Sid, domainSid: Sid | null): string {
  const known = lettersOf.get(sid);
  if (known !== undefined) return known;
  const rid = domainSid !== null && sid.startsWith(`${domainSid}-`) ? sid.slice(domainSid.length + 1) : '';
  return (/^\d+$/.test(rid) && lettersByRid.get(Number(rid))) || sid;
}

/** What a SID is called where it is well known; null: it is somebody’s own. Accounts of a domain are known by their last part. */
export function nameOfSid(sid: Sid): string | null {
  const known = names.get(sid);
  if (known !== undefined) return known;
  const rid = /^S-1-5-21-\d+-\d+-\d+-(\d+)$/.exec(sid)?.[1];
  return rid === undefined ? null : (namesByRid.get(Number(rid)) ?? null);
}
