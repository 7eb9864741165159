import { Registry, readRegistryExport } from './registry.js';
import { registryExportText } from './registry-export.js';
import { descriptorBytes } from './descriptor-binary.js';
import { readSddl } from './sddl.js';
import { dcomSettings } from './settings.js';
import type { DcomSettings } from './settings.js';
import { settingsDifference } from './settings-difference.js';
import { isSameName, sayDecision, whoMay } from './who-may.js';

const ole = 'HKEY_LOCAL_MACHINE\\SOFTWARE\\Microsoft\\Ole';
const app = 'HKEY_LOCAL_MACHINE\\SOFTWARE\\Classes\\AppID\\{11111111-1111-1111-1111-111111111111}';
const trend = 'S-1-5-21-1-2-3-1001';
const accounts = [
  { name: 'LEHR\\trend', label: null, token: { user: trend, groups: ['S-1-1-0', 'S-1-5-11'], denyOnly: [] } },
];
const needed = [{ userName: 'trend', links: ['Trends of lehr data'] }];

function bytes(sddl: string): Uint8Array {
  const read = readSddl(sddl);
  if (!read.ok) throw new Error(read.fault.says);
  return descriptorBytes(read.value);
}
function settingsWith(
  permissions: Readonly<Record<string, string>>,
  own: Readonly<Record<string, string>> = {},
): DcomSettings {
  const registry = new Registry();
  const values = (from: Readonly<Record<string, string>>) =>
    Object.entries(from).map(([name, sddl]) => ({ name, bytes: bytes(sddl) }));
  const text = registryExportText([
    { path: ole, values: [{ name: 'EnableDCOM', text: 'Y' }, ...values(permissions)] },
    { path: app, values: [{ name: '', text: 'Lehr data' }, ...values(own)] },
  ]);
  readRegistryExport(text, registry);
  return dcomSettings(registry);
}
const rowsOf = (settings: DcomSettings, told = accounts) => {
  const [application] = settings.applications;
  if (!application) throw new Error('no application');
  return whoMay(settings, application, told, needed);
};
const standings = (row: ReturnType<typeof rowsOf>[number] | undefined) =>
  row?.cells.map(({ right, standing }) => `${right} ${standing}`);
const open = { MachineLaunchRestriction: 'D:(A;;CCDCLCSWRP;;;WD)', MachineAccessRestriction: 'D:(A;;CCDCLC;;;WD)' };

describe('who may do what with an application', () => {
  it('tells needed, missing and excess apart', () => {
    const rows = rowsOf(
      settingsWith(open, {
        LaunchPermission: `D:(A;;CCLCRP;;;${trend})(A;;CCDCLCSWRP;;;BA)(A;;CCLC;;;S-1-5-21-1-2-3-1007)`,
        AccessPermission: 'D:(A;;CCDCLC;;;BA)',
      }),
    );
    expect(rows.map(({ name }) => name)).toEqual(['LEHR\\trend', 'Administrators', 'S-1-5-21-1-2-3-1007', 'Everyone']);
    expect(standings(rows[0])).toEqual([
      'launch near none',
      'launch far needed',
      'activate near none',
      'activate far needed',
      'access near none',
      'access far missing',
    ]);
    expect(standings(rows[1])).toContain('launch far given');
    expect(standings(rows[2])).toContain('launch far excess');
    expect(rows[0]?.links).toEqual(['Trends of lehr data']);
  });

  it('calls what nearly everybody has wide, whoever needs it', () => {
    const rows = rowsOf(
      settingsWith({
        ...open,
        DefaultLaunchPermission: 'D:(A;;CCDCLCSWRP;;;AU)',
        DefaultAccessPermission: 'D:(A;;CCDCLC;;;AU)',
      }),
    );
    expect(standings(rows.find(({ name }) => name === 'Authenticated Users'))).toEqual([
      'launch near given',
      'launch far wide',
      'activate near given',
      'activate far wide',
      'access near given',
      'access far wide',
    ]);
    expect(standings(rows[0])).toContain('launch far needed');
  });

  it('knows nothing of an account that no export tells of', () => {
    const [row] = rowsOf(settingsWith(open, { LaunchPermission: 'D:(A;;CCDCLCSWRP;;;AU)' }), []);
    expect(row).toMatchObject({ sid: null, name: 'trend', links: ['Trends of lehr data'] });
    expect(new Set(row?.cells.map(({ standing }) => standing))).toEqual(new Set(['unknown']));
  });

  it('says why, down to the entry', () => {
    const [row] = rowsOf(
      settingsWith(
        { ...open, MachineAccessRestriction: 'D:(A;;CCDC;;;WD)' },
        { LaunchPermission: `D:(D;;RP;;;${trend})(A;;CCDCLCSWRP;;;AU)`, AccessPermission: 'D:(A;;CCDCLC;;;AU)' },
      ),
    );
    const says = Object.fromEntries(
      (row?.cells ?? []).map(({ right, decision }) => [
        right,
        sayDecision(decision, right.startsWith('access') ? 'access' : 'launch'),
      ]),
    );
    expect(says['launch far']).toBe(
      'Given by entry 2 of the application’s own permission, for Authenticated Users; the machine’s limit lets it through.',
    );
    expect(says['activate far']).toBe(`Denied by entry 1 of the application’s own permission, for ${trend}.`);
    expect(says['access far']).toBe('No entry of the machine’s limit gives it.');
  });

  it('knows names with and without a domain', () => {
    expect(isSameName('trend', 'LEHR\\Trend')).toBe(true);
    expect(isSameName('works\\trend', 'LEHR\\trend')).toBe(false);
    expect(isSameName('trend', 'trends')).toBe(false);
  });
});

describe('two exports of a machine', () => {
  it('are compared setting by setting', () => {
    const before = settingsWith(open);
    const after = settingsWith(
      { ...open, DefaultLaunchPermission: 'D:(A;;CCDCLCSWRP;;;WD)' },
      { AccessPermission: 'D:(A;;CCDCLC;;;AU)' },
    );
    expect(settingsDifference(before, after)).toEqual([
      { what: 'Default launch permission', before: null, after: 'D:(A;;CCDCLCSWRP;;;WD)' },
      { what: 'Lehr data: access permission', before: null, after: 'D:(A;;CCDCLC;;;AU)' },
    ]);
    expect(settingsDifference(after, after)).toEqual([]);
  });
});
