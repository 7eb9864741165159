import type { ToldAccount } from './account-token.js';
import type { DcomApplication, DcomSettings } from './settings.js';
import { usualSid } from './sid.js';
import type { Sid } from './sid.js';

/** A service, as its machine lists it. */
export interface DcomService {
  readonly name: string;
  /** The account that it runs as, as it is written there. */
  readonly runsAs: string;
  /** `Running`, `Stopped`, … */
  readonly state: string;
  /** `Auto`, `Manual`, `Disabled`, … */
  readonly startMode: string;
}

/** Somebody in a group of the machine. */
export interface GroupMember {
  readonly group: Sid;
  readonly name: string;
  readonly sid: Sid;
  /** An account of the machine itself, and of no domain; null: it is not told. */
  readonly isLocal: boolean | null;
}

const mostRows = 50_000;
type Row = Readonly<Record<string, string>>;

/** Services in the rows of a table (`Name`, `StartName`, `State`, `StartMode`); null: it is no such table. */
export function servicesIn(rows: readonly Row[]): readonly DcomService[] | null {
  if (!hasColumns(rows, 'Name', 'StartName')) return null;
  return rows.slice(0, mostRows).flatMap((row) => {
    const name = row['Name']?.trim() ?? '';
    return name === ''
      ? []
      : [{ name, runsAs: row['StartName'] ?? '', state: row['State'] ?? '', startMode: row['StartMode'] ?? '' }];
  });
}

/** Members of groups in the rows of a table (`Group`, `GroupSid`, `Name`, `SID`, `PrincipalSource`); null: it is no such table. */
export function membersIn(rows: readonly Row[]): readonly GroupMember[] | null {
  if (!hasColumns(rows, 'GroupSid', 'Name', 'SID')) return null;
  return rows.slice(0, mostRows).flatMap((row) => {
    const [group, sid] = [usualSid(row['GroupSid'] ?? ''), usualSid(row['SID'] ?? '')];
    const source = row['PrincipalSource'] ?? '';
    const isLocal = source === '' ? null : source === 'Local';
    return group && sid ? [{ group, name: row['Name'] ?? '', sid, isLocal }] : [];
  });
}

const hasColumns = ([first]: readonly Row[], ...names: readonly string[]): boolean =>
  first !== undefined && names.every((name) => name in first);

const [administrators, localAccount] = ['S-1-5-32-544', 'S-1-5-113'] as const;
/** Whoever comes over the network with a password. */
const fromNetwork: readonly Sid[] = ['S-1-1-0', 'S-1-5-2', 'S-1-5-11'];
/** Accounts of machines and domains; others, such as “Authenticated Users”, are groups themselves. */
const isAccount = (sid: Sid): boolean => sid.startsWith('S-1-5-21-');

/**
 * Accounts by the groups that the machine lists them in, as they are when they come over the network. A group of a domain is
 * not looked into. A local administrator is one over the network only where the machine keeps that right (MS-DTYP 2.5.3.1;
 * LocalAccountTokenFilterPolicy).
 */
export function accountsInGroups(
  members: readonly GroupMember[],
  { logon }: Pick<DcomSettings, 'logon'>,
): readonly ToldAccount[] {
  const bySid = new Map<Sid, GroupMember[]>();
  for (const member of members.filter(({ sid }) => isAccount(sid)))
    bySid.set(member.sid, [...(bySid.get(member.sid) ?? []), member]);
  return [...bySid].map(([user, rows]): ToldAccount => {
    const isLocal = rows.some((row) => row.isLocal === true);
    const isFiltered = isLocal && logon.localAccountsKeepRights !== true;
    const groups = [...new Set(rows.map(({ group }) => group))];
    const denied = groups.filter((group) => isFiltered && group === administrators);
    return {
      name: rows[0]?.name ?? '',
      token: {
        user,
        groups: [...fromNetwork, ...(isLocal ? [localAccount] : []), ...groups.filter((one) => !denied.includes(one))],
        denyOnly: denied,
      },
      label: null,
    };
  });
}

/** The service that an application is started as; null: it is none, or the machine’s services are not known. */
export const serviceOf = (
  { services }: Pick<DcomSettings, 'services'>,
  { service }: Pick<DcomApplication, 'service'>,
): DcomService | null =>
  service === null ? null : (services.find(({ name }) => name.toLowerCase() === service.toLowerCase()) ?? null);
