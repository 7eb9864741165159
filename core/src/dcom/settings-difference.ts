import { sddlOf } from './sddl.js';
import type { DcomSettings, KeptPermission } from './settings.js';

/** Something that two exports of a machine say differently; null: one of them does not say it. */
export interface SettingsDifference {
  readonly what: string;
  readonly before: string | null;
  readonly after: string | null;
}

/** In what two exports differ, in the order in which settings are read. */
export function settingsDifference(before: DcomSettings, after: DcomSettings): readonly SettingsDifference[] {
  const [old, now] = [told(before), told(after)];
  return [...new Set([...old.keys(), ...now.keys()])]
    .map((what) => ({ what, before: old.get(what) ?? null, after: now.get(what) ?? null }))
    .filter((one) => one.before !== one.after);
}

const permissionText = (kept: KeptPermission | null): string | null =>
  kept &&
  (kept.descriptor ? (sddlOf(kept.descriptor) ?? 'a permission with conditions') : `not readable: ${kept.fault ?? ''}`);
const flagText = (flag: boolean | null): string | null => (flag === null ? null : flag ? 'on' : 'off');

/** Each setting with its value as a text. */
function told(settings: DcomSettings): ReadonlyMap<string, string> {
  const { logon } = settings;
  const rows: readonly (readonly [what: string, value: string | null])[] = [
    ['DCOM', flagText(settings.isOn)],
    ['Default level', settings.authenticationLevel],
    ['Default impersonation', settings.impersonationLevel],
    ['Default launch permission', permissionText(settings.defaultLaunch)],
    ['Default access permission', permissionText(settings.defaultAccess)],
    ['Limit of launch permissions', permissionText(settings.launchRestriction)],
    ['Limit of access permissions', permissionText(settings.accessRestriction)],
    ['Limit of launch permissions by policy', permissionText(settings.launchPolicy)],
    ['Limit of access permissions by policy', permissionText(settings.accessPolicy)],
    ['Refuses activation below packet integrity', flagText(settings.refusesLowActivation)],
    ['Ports', settings.ports && settings.ports.join(', ')],
    ['Everybody from the network is a guest', flagText(logon.isGuestOnly)],
    ['Everyone includes anonymous', flagText(logon.everyoneIncludesAnonymous)],
    ['LAN Manager level', logon.lanManagerLevel === null ? null : String(logon.lanManagerLevel)],
    ['Local administrators keep their rights over the network', flagText(logon.localAccountsKeepRights)],
    ...settings.applications.flatMap((application) => {
      const of = (what: string) => `${application.name || application.appId}: ${what}`;
      return [
        [of('launch permission'), permissionText(application.launch)],
        [of('access permission'), permissionText(application.access)],
        [of('level'), application.authenticationLevel],
        [of('runs as'), application.runAs],
        [of('service'), application.service],
        [of('endpoints'), application.endpoints.length === 0 ? null : application.endpoints.join(', ')],
      ] as const;
    }),
    ...settings.services.map(
      ({ name, runsAs, state, startMode }) => [`Service ${name}`, `${runsAs}, ${state}, ${startMode}`] as const,
    ),
    ...settings.classes.map(
      ({ clsid, name, progIds }) => [`Class ${name || clsid}`, `${clsid} ${progIds.join(', ')}`.trim()] as const,
    ),
  ];
  return new Map(rows.flatMap(([what, value]) => (value === null ? [] : [[what, value] as const])));
}
