import { authenticationLevels, descriptorBytes, readSddl, registryExportText } from '@loyal-hinge/core';
import type { AuthenticationLevel, WrittenKey, WrittenValue } from '@loyal-hinge/core';
import { serverListClass } from '@loyal-hinge/classic';

/** What a made-up machine’s exports say, with permissions as SDDL. */
export interface ClassicSettings {
  readonly isOn?: boolean;
  readonly level?: AuthenticationLevel;
  readonly defaultLaunch?: string;
  readonly defaultAccess?: string;
  readonly launchRestriction?: string;
  readonly accessRestriction?: string;
  readonly isHardened?: boolean;
  readonly isGuestOnly?: boolean;
  readonly applications: readonly {
    readonly appId: string;
    readonly name: string;
    readonly clsid: string;
    /** By which name the class goes; absent: it is not registered by name. */
    readonly progId?: string;
    readonly launch?: string;
    readonly access?: string;
    readonly level?: AuthenticationLevel;
    readonly runAs?: string;
    readonly service?: string;
  }[];
}

const machine = 'HKEY_LOCAL_MACHINE';
const ole = `${machine}\\SOFTWARE\\Microsoft\\Ole`;
const classes = `${machine}\\SOFTWARE\\Classes`;
/** The server list’s own application. */
const listAppId = '13486d44-4821-11d2-a494-3cb306c10000';

/** Everybody who has signed in may launch and call; nobody else may. */
export const signedInLaunch = 'O:BAG:BAD:(A;;CCDCLCSWRP;;;AU)';
export const signedInAccess = 'O:BAG:BAD:(A;;CCDCLC;;;AU)';

function permission(name: string, sddl: string | undefined): readonly WrittenValue[] {
  if (sddl === undefined) return [];
  const read = readSddl(sddl);
  if (!read.ok) throw new Error(`${name}: ${read.fault.says}`);
  return [{ name, bytes: descriptorBytes(read.value) }];
}
const flag = (name: string, value: boolean | undefined): readonly WrittenValue[] =>
  value === undefined ? [] : [{ name, number: value ? 1 : 0 }];
const text = (name: string, value: string | undefined): readonly WrittenValue[] =>
  value === undefined ? [] : [{ name, text: value }];
const level = (name: string, value: AuthenticationLevel | undefined): readonly WrittenValue[] =>
  value === undefined ? [] : [{ name, number: authenticationLevels.indexOf(value) }];

/** The text of an export that says so. */
export function settingsText(settings: ClassicSettings): string {
  const list = {
    appId: listAppId,
    name: 'OPC server list',
    clsid: serverListClass,
    progId: 'OPC.ServerList.1',
    launch: signedInLaunch,
    access: signedInAccess,
  };
  return registryExportText([
    {
      path: ole,
      values: [
        { name: 'EnableDCOM', text: settings.isOn === false ? 'N' : 'Y' },
        ...level('LegacyAuthenticationLevel', settings.level ?? 'connect'),
        ...permission('DefaultLaunchPermission', settings.defaultLaunch),
        ...permission('DefaultAccessPermission', settings.defaultAccess),
        ...permission('MachineLaunchRestriction', settings.launchRestriction),
        ...permission('MachineAccessRestriction', settings.accessRestriction),
      ],
    },
    { path: `${ole}\\AppCompat`, values: flag('RequireIntegrityActivationAuthenticationLevel', settings.isHardened) },
    { path: `${machine}\\SYSTEM\\CurrentControlSet\\Control\\Lsa`, values: flag('forceguest', settings.isGuestOnly) },
    ...[list, ...settings.applications].flatMap(keysOf),
  ]);
}

function keysOf(application: ClassicSettings['applications'][number]): readonly WrittenKey[] {
  const { appId, name, clsid, progId, launch, access, runAs, service } = application;
  return [
    {
      path: `${classes}\\AppID\\{${appId}}`,
      values: [
        { name: '', text: name },
        ...permission('LaunchPermission', launch),
        ...permission('AccessPermission', access),
        ...level('AuthenticationLevel', application.level),
        ...text('RunAs', runAs),
        ...text('LocalService', service),
      ],
    },
    {
      path: `${classes}\\CLSID\\{${clsid}}`,
      values: [
        { name: '', text: name },
        { name: 'AppID', text: `{${appId}}` },
      ],
    },
    ...(progId === undefined
      ? []
      : [
          { path: `${classes}\\CLSID\\{${clsid}}\\ProgID`, values: [{ name: '', text: progId }] },
          { path: `${classes}\\${progId}\\CLSID`, values: [{ name: '', text: `{${clsid}}` }] },
        ]),
  ];
}
