import { checkComRight, rightsInMask } from './com-rights.js';
import type { ComLimits, ComRight } from './com-rights.js';
import { descriptorBytes } from './descriptor-binary.js';
import { Registry, readRegistryExport } from './registry.js';
import { readSddl } from './sddl.js';
import { dcomSettings } from './settings.js';

const described = (sddl: string) => {
  const read = readSddl(sddl);
  if (!read.ok) throw new Error(read.fault.says);
  return read.value;
};
const hexOf = (sddl: string): string =>
  [...descriptorBytes(described(sddl))].map((byte) => byte.toString(16).padStart(2, '0')).join(',');
const machine = 'HKEY_LOCAL_MACHINE\\SOFTWARE';
const scales = '{0B5A2C4E-7D1F-4C3A-9E21-6F8B5D2A1C30}';
const scalesClass = '{5E7C1A92-3B4D-4F6E-8A10-2C9D7B6E5F41}';

function settingsOf(...lines: readonly string[]) {
  const registry = new Registry();
  const faults = readRegistryExport(['Windows Registry Editor Version 5.00', ...lines].join('\r\n'), registry);
  expect(faults).toEqual([]);
  return dcomSettings(registry);
}

describe('what an export says of DCOM', () => {
  it('is told apart from what it does not say', () => {
    expect(settingsOf()).toMatchObject({
      isOn: null,
      authenticationLevel: null,
      defaultLaunch: null,
      refusesLowActivation: null,
      ports: null,
      applications: [],
      classes: [],
      logon: { isGuestOnly: null, lanManagerLevel: null },
    });
  });

  it('is on or off, levels, permissions, limits, ports and what counts when somebody signs in', () => {
    const told = settingsOf(
      `[${machine}\\Microsoft\\Ole]`,
      '"EnableDCOM"="n"',
      '"LegacyAuthenticationLevel"=dword:00000005',
      `"DefaultLaunchPermission"=hex:${hexOf('O:BAG:BAD:(A;;0x1f;;;BA)')}`,
      '"DefaultAccessPermission"=hex:01,00',
      '"MachineAccessRestriction"="not binary"',
      `[${machine}\\Microsoft\\Ole\\AppCompat]`,
      '"RequireIntegrityActivationAuthenticationLevel"=dword:1',
      `[${machine}\\Policies\\Microsoft\\Windows NT\\DCOM]`,
      '"MachineLaunchRestriction"="O:BAG:BAD:(A;;CCDCLCSWRP;;;WD)"',
      '"MachineAccessRestriction"=""',
      `[${machine}\\Microsoft\\Rpc\\Internet]`,
      '"Ports"=hex(7):35,00,30,00,00,00,00,00',
      '[HKEY_LOCAL_MACHINE\\SYSTEM\\CurrentControlSet\\Control\\Lsa]',
      '"forceguest"=dword:1',
      '"LmCompatibilityLevel"=dword:3',
    );
    expect(told).toMatchObject({
      isOn: false,
      authenticationLevel: 'packet integrity',
      defaultLaunch: { fault: null },
      defaultAccess: { descriptor: null, fault: 'At byte 2: A descriptor has 20 bytes before its parts; this has 2.' },
      accessRestriction: { descriptor: null, fault: 'It is no binary value.' },
      launchRestriction: null,
      accessPolicy: null,
      refusesLowActivation: true,
      ports: ['50'],
      logon: { isGuestOnly: true, lanManagerLevel: 3, everyoneIncludesAnonymous: null },
    });
    expect(told.launchPolicy?.descriptor?.dacl).toMatchObject([{ sid: 'S-1-1-0', mask: 0x1f }]);
  });

  it('is which applications and classes there are, in both views', () => {
    const told = settingsOf(
      `[${machine}\\Classes\\AppID\\${scales}]`,
      '@="Batch scales"',
      '"RunAs"="Interactive User"',
      `"LaunchPermission"=hex:${hexOf('D:(A;;1;;;AU)')}`,
      `[${machine}\\Classes\\AppID\\scales.exe]`,
      `"AppID"="${scales}"`,
      `[${machine}\\WOW6432Node\\Classes\\AppID\\${scales}]`,
      `[${machine}\\WOW6432Node\\Classes\\CLSID\\${scalesClass}]`,
      '@="Batch scales data"',
      `"AppID"="${scales}"`,
      `[${machine}\\WOW6432Node\\Classes\\CLSID\\${scalesClass}\\ProgID]`,
      '@="Marrowby.BatchScales.1"',
      `[${machine}\\WOW6432Node\\Classes\\CLSID\\${scalesClass}\\VersionIndependentProgID]`,
      '@="Marrowby.BatchScales"',
      `[${machine}\\Classes\\CLSID\\{00000000-0000-0000-0000-000000000001}]`,
      '@="of no application, and without a name to be called by"',
    );
    expect(told.applications).toMatchObject([
      { appId: scales, name: 'Batch scales', views: ['64', '32'], runAs: 'Interactive User', access: null },
    ]);
    expect(told.classes).toEqual([
      {
        clsid: scalesClass,
        name: 'Batch scales data',
        progIds: ['Marrowby.BatchScales.1', 'Marrowby.BatchScales'],
        appId: scales,
        views: ['32'],
      },
    ]);
  });
});

describe('what COM reads in a mask', () => {
  it('is each of its rights, and all of them in an older entry that has the first bit alone', () => {
    expect(rightsInMask(0x15, 'launch')).toEqual(['launch far', 'activate far']);
    expect(rightsInMask(0x01, 'launch')).toEqual(['launch near', 'launch far', 'activate near', 'activate far']);
    expect(rightsInMask(0x01, 'access')).toEqual(['access near', 'access far']);
    expect(rightsInMask(0x03, 'access')).toEqual(['access near']);
    expect(rightsInMask(0x00, 'access')).toEqual([]);
  });
});

describe('whether COM lets somebody in', () => {
  const me = { user: 'S-1-5-21-1-2-3-1001', groups: ['S-1-1-0', 'S-1-5-11'], denyOnly: [] };
  const limits = (differs: Partial<Record<keyof ComLimits, string>>): ComLimits => ({
    own: null,
    byDefault: null,
    restriction: null,
    policy: null,
    ...Object.fromEntries(Object.entries(differs).map(([name, sddl]) => [name, described(sddl)])),
  });
  const decided = (differs: Partial<Record<keyof ComLimits, string>>, right: ComRight = 'activate far') => {
    const { isAllowed, by, entry } = checkComRight(limits(differs), me, right);
    return [isAllowed, by, entry?.index ?? null];
  };
  const all = 'D:(A;;0x1f;;;WD)';

  it.each<[string, Partial<Record<keyof ComLimits, string>>, (boolean | string | number | null)[]]>([
    ['by the default, within the limit', { byDefault: all, restriction: all }, [true, 'default permission', 0]],
    [
      'by its own, whatever the default says',
      { own: all, byDefault: 'D:', restriction: all },
      [true, 'own permission', 0],
    ],
    [
      'not by its own, whatever the default says',
      { own: 'D:', byDefault: all, restriction: all },
      [false, 'own permission', null],
    ],
    ['not beyond the limit', { own: all, restriction: 'D:(D;;0x10;;;AU)(A;;0x1f;;;WD)' }, [false, 'restriction', 0]],
    [
      'a policy stands before the limit',
      { own: all, restriction: all, policy: 'D:(A;;0xb;;;WD)' },
      [false, 'policy', null],
    ],
    ['far needs its own bit', { own: 'D:(A;;0xb;;;WD)', restriction: all }, [false, 'own permission', null]],
    ['an older entry means all', { own: 'D:(A;;1;;;WD)', restriction: all }, [true, 'own permission', 0]],
    [
      'an older entry that denies means all, too',
      { own: `D:(D;;1;;;AU)(A;;0x1f;;;WD)`, restriction: all },
      [false, 'own permission', 0],
    ],
    ['no list gives all', { own: 'O:BA', restriction: all }, [true, 'own permission', null]],
    ['it is not known without the default', { restriction: all }, [null, 'default permission', null]],
    ['nor without the limit', { own: all }, [null, 'restriction', 0]],
    ['but refused is refused', { restriction: 'D:' }, [false, 'restriction', null]],
  ])('%s', (_, differs, told) => {
    expect(decided(differs)).toEqual(told);
  });

  it('by another permission where objects are called', () => {
    expect(decided({ own: 'D:(A;;0x5;;;WD)', restriction: 'D:(A;;0x7;;;WD)' }, 'access far')).toEqual([
      true,
      'own permission',
      0,
    ]);
    expect(decided({ own: 'D:(A;;0x3;;;WD)', restriction: 'D:(A;;0x7;;;WD)' }, 'access far')[0]).toBe(false);
  });
});
