import { Registry, readRegistryExport } from './registry.js';
import { registryExportText } from './registry-export.js';
import { descriptorBytes } from './descriptor-binary.js';
import { rightsOfLink } from './rights-of-link.js';
import { readSddl } from './sddl.js';
import { dcomSettings } from './settings.js';

const [appId, clsid] = ['{11111111-1111-1111-1111-111111111111}', '{22222222-2222-2222-2222-222222222222}'];
const software = 'HKEY_LOCAL_MACHINE\\SOFTWARE';
const trend = 'S-1-5-21-1-2-3-1001';
const accounts = [
  { name: 'LEHR\\trend', label: null, token: { user: trend, groups: ['S-1-1-0', 'S-1-5-11'], denyOnly: [] } },
];
const open = { MachineLaunchRestriction: 'D:(A;;CCDCLCSWRP;;;WD)', MachineAccessRestriction: 'D:(A;;CCDCLC;;;WD)' };

function bytes(sddl: string): Uint8Array {
  const read = readSddl(sddl);
  if (!read.ok) throw new Error(read.fault.says);
  return descriptorBytes(read.value);
}
const values = (from: Readonly<Record<string, string>>) =>
  Object.entries(from).map(([name, sddl]) => ({ name, bytes: bytes(sddl) }));
const classKey = (classes: string, id: string) => [
  { path: `${classes}\\CLSID\\${id}`, values: [{ name: 'AppID', text: appId }] },
  { path: `${classes}\\CLSID\\${id}\\ProgID`, values: [{ name: '', text: id === clsid ? 'Works.Lehr.1' : 'Other.1' }] },
];

function rightsWith(
  own: Readonly<Record<string, string>>,
  more: Parameters<typeof registryExportText>[0] = [],
  view = `${software}\\Classes`,
) {
  const registry = new Registry();
  const text = registryExportText([
    { path: `${software}\\Microsoft\\Ole`, values: values(open) },
    { path: `${software}\\Classes\\AppID\\${appId}`, values: [{ name: '', text: 'Lehr data' }, ...values(own)] },
    ...classKey(view, clsid),
    ...more,
  ]);
  expect(readRegistryExport(text, registry)).toEqual([]);
  const asked = { program: 'works.lehr.1', userName: 'trend', takenAt: '2026-03-01T10:00:00.000Z' };
  return rightsOfLink(dcomSettings(registry), accounts, asked);
}
const given = { LaunchPermission: 'D:(A;;CCLCRP;;;BA)', AccessPermission: `D:(A;;CCLC;;;${trend})` };
const other = '{33333333-3333-3333-3333-333333333333}';

describe('what an export says of a link', () => {
  it('is by which entry its account may launch and call', () => {
    const rights = rightsWith(given);
    expect(rights?.rights.map(({ right, isAllowed }) => [right, isAllowed])).toEqual([
      ['launch far', false],
      ['activate far', false],
      ['access far', true],
    ]);
    expect(rights).toMatchObject({ application: 'Lehr data', nobodyHas: [], wide: [], portCount: null });
  });

  it('is what nobody has: with an empty list, and not where there is no list at all', () => {
    expect(rightsWith({ ...given, AccessPermission: 'D:' })?.nobodyHas).toEqual(['access far']);
    expect(rightsWith({ ...given, AccessPermission: 'D:(A;;CCDC;;;BA)' })?.nobodyHas).toEqual(['access far']);
    expect(rightsWith({ ...given, AccessPermission: 'O:BAG:BA' })?.nobodyHas).toEqual([]);
  });

  it('is in which view the class stands, once it has classes of both', () => {
    const narrow = `${software}\\WOW6432Node\\Classes`;
    expect(rightsWith(given)?.views).toEqual([]);
    expect(rightsWith(given, classKey(narrow, other))?.views).toEqual(['64']);
    expect(rightsWith(given, classKey(`${software}\\Classes`, other), narrow)?.views).toEqual(['32']);
    expect(rightsWith(given, classKey(narrow, clsid))?.views).toEqual(['64', '32']);
  });

  it('is at how many ports objects may be', () => {
    const ports = (texts: readonly string[]) => [
      { path: `${software}\\Microsoft\\Rpc\\Internet`, values: [{ name: 'Ports', texts }] },
    ];
    expect(rightsWith(given, ports(['5000-7000']))).toMatchObject({ portCount: 2001, hasOwnPort: false });
  });
});
