import type { SecurityDescriptor } from './descriptor.js';
import type { DcomService } from './machine-lists.js';
import { readDescriptorBytes } from './descriptor-binary.js';
import { bytesOfValue, numberOfValue, textOfValue, textsOfValue } from './registry.js';
import type { Registry, RegistryKey } from './registry.js';
import { readSddl } from './sddl.js';

/** Authentication levels of RPC (MS-RPCE 2.2.1.1.8), by their numbers. */
export const authenticationLevels = [
  'default',
  'none',
  'connect',
  'call',
  'packet',
  'packet integrity',
  'packet privacy',
] as const;
export type AuthenticationLevel = (typeof authenticationLevels)[number];

/** Levels of impersonation (MS-RPCE 2.2.1.1.9), by their numbers. */
export const impersonationLevels = ['default', 'anonymous', 'identify', 'impersonate', 'delegate'] as const;
export type ImpersonationLevel = (typeof impersonationLevels)[number];

/** A permission as it stands in an export. */
export interface KeptPermission {
  readonly descriptor: SecurityDescriptor | null;
  /** Why it could not be read; null: it was. */
  readonly fault: string | null;
}

/** The registry’s two views of a machine of 64 bits. */
export type RegistryView = '64' | '32';

export interface DcomApplication {
  readonly appId: string;
  readonly name: string;
  readonly views: readonly RegistryView[];
  /** null: it has none of its own. */
  readonly launch: KeptPermission | null;
  readonly access: KeptPermission | null;
  readonly authenticationLevel: AuthenticationLevel | null;
  /** The account that it runs as; null: that of whoever launches it. */
  readonly runAs: string | null;
  readonly service: string | null;
  /** Ports and protocols of its own, as they are written. */
  readonly endpoints: readonly string[];
}

export interface DcomClass {
  readonly clsid: string;
  readonly name: string;
  readonly progIds: readonly string[];
  readonly appId: string | null;
  readonly views: readonly RegistryView[];
}

/** What an export says of a machine’s DCOM; null: it has no such value. */
export interface DcomSettings {
  readonly isOn: boolean | null;
  readonly authenticationLevel: AuthenticationLevel | null;
  /** How far servers may act as their callers, by default. */
  readonly impersonationLevel: ImpersonationLevel | null;
  readonly defaultLaunch: KeptPermission | null;
  readonly defaultAccess: KeptPermission | null;
  readonly launchRestriction: KeptPermission | null;
  readonly accessRestriction: KeptPermission | null;
  readonly launchPolicy: KeptPermission | null;
  readonly accessPolicy: KeptPermission | null;
  /** Activation below packet integrity is refused. */
  readonly refusesLowActivation: boolean | null;
  /** Ranges of ports for RPC, as they are written. */
  readonly ports: readonly string[] | null;
  readonly applications: readonly DcomApplication[];
  readonly classes: readonly DcomClass[];
  /** As the machine lists them beside its registry; empty: that was not brought. */
  readonly services: readonly DcomService[];
  readonly logon: {
    /** Whoever comes over the network is let in as a guest. */
    readonly isGuestOnly: boolean | null;
    readonly everyoneIncludesAnonymous: boolean | null;
    /** LmCompatibilityLevel, 0 to 5. */
    readonly lanManagerLevel: number | null;
    /** Local administrators keep their rights over the network. */
    readonly localAccountsKeepRights: boolean | null;
  };
}

const machine = 'HKEY_LOCAL_MACHINE';
const ole = `${machine}\\SOFTWARE\\Microsoft\\Ole`;
const policies = `${machine}\\SOFTWARE\\Policies\\Microsoft\\Windows NT\\DCOM`;
const lsa = `${machine}\\SYSTEM\\CurrentControlSet\\Control\\Lsa`;
const system = `${machine}\\SOFTWARE\\Microsoft\\Windows\\CurrentVersion\\Policies\\System`;
const views: readonly (readonly [view: RegistryView, classes: string])[] = [
  ['64', `${machine}\\SOFTWARE\\Classes`],
  ['64', 'HKEY_CLASSES_ROOT'],
  ['32', `${machine}\\SOFTWARE\\WOW6432Node\\Classes`],
  ['32', `${machine}\\SOFTWARE\\Classes\\WOW6432Node`],
  ['32', 'HKEY_CLASSES_ROOT\\WOW6432Node'],
];
const guid = /^\{[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}\}$/i;

/** What the exports of one machine say of DCOM, all taken together. */
export function dcomSettings(registry: Registry, services: readonly DcomService[] = []): DcomSettings {
  const of = (path: string, name: string) => registry.value(path, name);
  const flag = (path: string, name: string): boolean | null => {
    const value = numberOfValue(of(path, name));
    return value === null ? null : value !== 0;
  };
  const enabled = textOfValue(of(ole, 'EnableDCOM'));
  return {
    isOn: enabled === null ? null : enabled.toUpperCase() === 'Y',
    authenticationLevel: levelOf(numberOfValue(of(ole, 'LegacyAuthenticationLevel'))),
    impersonationLevel: impersonationOf(numberOfValue(of(ole, 'LegacyImpersonationLevel'))),
    defaultLaunch: binaryPermission(registry, ole, 'DefaultLaunchPermission'),
    defaultAccess: binaryPermission(registry, ole, 'DefaultAccessPermission'),
    launchRestriction: binaryPermission(registry, ole, 'MachineLaunchRestriction'),
    accessRestriction: binaryPermission(registry, ole, 'MachineAccessRestriction'),
    launchPolicy: textPermission(registry, policies, 'MachineLaunchRestriction'),
    accessPolicy: textPermission(registry, policies, 'MachineAccessRestriction'),
    refusesLowActivation: flag(`${ole}\\AppCompat`, 'RequireIntegrityActivationAuthenticationLevel'),
    ports: textsOfValue(of(`${machine}\\SOFTWARE\\Microsoft\\Rpc\\Internet`, 'Ports')),
    applications: applicationsIn(registry),
    classes: classesIn(registry),
    services,
    logon: {
      isGuestOnly: flag(lsa, 'forceguest'),
      everyoneIncludesAnonymous: flag(lsa, 'everyoneincludesanonymous'),
      lanManagerLevel: numberOfValue(of(lsa, 'LmCompatibilityLevel')),
      localAccountsKeepRights: flag(system, 'LocalAccountTokenFilterPolicy'),
    },
  };
}

const levelOf = (number: number | null): AuthenticationLevel | null =>
  number === null ? null : (authenticationLevels[number] ?? null);

const impersonationOf = (number: number | null): ImpersonationLevel | null =>
  number === null ? null : (impersonationLevels[number] ?? null);

function binaryPermission(registry: Registry, path: string, name: string): KeptPermission | null {
  const value = registry.value(path, name);
  if (!value) return null;
  const bytes = bytesOfValue(value);
  if (!bytes) return { descriptor: null, fault: 'It is no binary value.' };
  const read = readDescriptorBytes(bytes);
  return read.ok
    ? { descriptor: read.value, fault: null }
    : { descriptor: null, fault: `At byte ${read.fault.at}: ${read.fault.says}` };
}

function textPermission(registry: Registry, path: string, name: string): KeptPermission | null {
  const text = textOfValue(registry.value(path, name));
  // An empty policy is none.
  if (text === null || text.trim() === '') return null;
  const read = readSddl(text);
  return read.ok
    ? { descriptor: read.value, fault: null }
    : { descriptor: null, fault: `At character ${read.fault.at}: ${read.fault.says}` };
}

const lastPart = ({ path }: RegistryKey): string => path.slice(path.lastIndexOf('\\') + 1);

function applicationsIn(registry: Registry): readonly DcomApplication[] {
  const found = new Map<string, DcomApplication>();
  for (const [view, classes] of views)
    for (const key of registry.keysBelow(`${classes}\\AppID`)) {
      const appId = lastPart(key);
      if (!guid.test(appId)) continue;
      const known = found.get(appId.toLowerCase());
      const text = (name: string): string | null => textOfValue(registry.value(key.path, name));
      const own: DcomApplication = {
        appId,
        name: text('') ?? '',
        views: [view],
        launch: binaryPermission(registry, key.path, 'LaunchPermission'),
        access: binaryPermission(registry, key.path, 'AccessPermission'),
        authenticationLevel: levelOf(numberOfValue(registry.value(key.path, 'AuthenticationLevel'))),
        runAs: text('RunAs'),
        service: text('LocalService'),
        endpoints: textsOfValue(registry.value(key.path, 'Endpoints')) ?? [],
      };
      // Both views of an AppID are one key to the system; an export may have it once or twice.
      found.set(appId.toLowerCase(), known ? { ...known, views: withView(known.views, view) } : own);
    }
  return [...found.values()].sort((left, right) => left.name.localeCompare(right.name, 'en'));
}

function classesIn(registry: Registry): readonly DcomClass[] {
  const found = new Map<string, DcomClass>();
  for (const [view, classes] of views)
    for (const key of registry.keysBelow(`${classes}\\CLSID`)) {
      const clsid = lastPart(key);
      const appId = textOfValue(registry.value(key.path, 'AppID'));
      const progId = textOfValue(registry.value(`${key.path}\\ProgID`, ''));
      const independent = textOfValue(registry.value(`${key.path}\\VersionIndependentProgID`, ''));
      if (!guid.test(clsid) || (appId === null && progId === null)) continue;
      const known = found.get(clsid.toLowerCase());
      const progIds = [...new Set([...(known?.progIds ?? []), progId, independent])].flatMap((name) => name ?? []);
      found.set(clsid.toLowerCase(), {
        clsid,
        name: known?.name || (textOfValue(registry.value(key.path, '')) ?? ''),
        progIds,
        appId: known?.appId ?? appId,
        views: withView(known?.views ?? [], view),
      });
    }
  return [...found.values()].sort((left, right) => left.name.localeCompare(right.name, 'en'));
}

const withView = (views: readonly RegistryView[], view: RegistryView): readonly RegistryView[] =>
  views.includes(view) ? views : [...views, view];
