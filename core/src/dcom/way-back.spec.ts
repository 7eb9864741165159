import { Registry, readRegistryExport } from './registry.js';
import { registryExportText } from './registry-export.js';
import { descriptorBytes } from './descriptor-binary.js';
import { readSddl } from './sddl.js';
import { dcomSettings } from './settings.js';
import type { DcomApplication } from './settings.js';
import { sayPermission, smallestSettings } from './smallest-settings.js';
import { callerOf } from './way-back.js';

const software = 'HKEY_LOCAL_MACHINE\\SOFTWARE';
const appId = '{11111111-1111-1111-1111-111111111111}';
const service = {
  name: 'LEHR\\opc',
  label: null,
  token: { user: 'S-1-5-21-1-2-3-1002', groups: ['S-1-1-0', 'S-1-5-11'], denyOnly: [] },
};
const needed = [{ userName: 'opc', links: ['Trends'] }];
const open = { MachineLaunchRestriction: 'D:(A;;CCDCLCSWRP;;;WD)', MachineAccessRestriction: 'D:(A;;CCDCLC;;;WD)' };
const narrow = { ...open, MachineAccessRestriction: 'D:(A;;CCDC;;;WD)' };

function values(from: Readonly<Record<string, string>>) {
  return Object.entries(from).map(([name, sddl]) => {
    const read = readSddl(sddl);
    if (!read.ok) throw new Error(read.fault.says);
    return { name, bytes: descriptorBytes(read.value) };
  });
}
function settingsWith(machine: Readonly<Record<string, string>>, own: Readonly<Record<string, string>> = {}) {
  const registry = new Registry();
  const text = registryExportText([
    { path: `${software}\\Microsoft\\Ole`, values: values(machine) },
    { path: `${software}\\Classes\\AppID\\${appId}`, values: [{ name: '', text: 'Trend display' }, ...values(own)] },
  ]);
  expect(readRegistryExport(text, registry)).toEqual([]);
  return dcomSettings(registry);
}
function changesOf(settings: ReturnType<typeof settingsWith>, application: DcomApplication | null, who = needed) {
  const client = { name: 'Trend display', application, needed: who };
  const { changes, notes } = smallestSettings(settings, [service], [], [client]);
  return { changes: changes.map(({ name, after }) => [name, sayPermission(after)]), notes };
}

describe('the way back', () => {
  it('is given by the machine’s default where the client has no application, and nothing is taken away', () => {
    expect(changesOf(settingsWith({ ...open, DefaultAccessPermission: 'D:(A;;CCDCLC;;;BA)' }), null).changes).toEqual([
      ['DefaultAccessPermission', 'D:(A;;CCDCLC;;;BA)(A;;CCLC;;;S-1-5-21-1-2-3-1002)'],
    ]);
    // Without a default permission COM’s own counts, and goes on to count beside what is added.
    expect(changesOf(settingsWith(open), null).changes[0]?.[1]).toMatch(
      /\(A;;CCDCLC;;;PS\).*\(A;;CCDC;;;SY\).*\(A;;CCDCLC;;;BA\)\(A;;CCLC;;;S-1-5-21-1-2-3-1002\)$/,
    );
  });

  it('is given by the client’s own permission where it has one', () => {
    const settings = settingsWith(open, { AccessPermission: 'D:(A;;CCDCLC;;;BA)' });
    expect(changesOf(settings, settings.applications[0] ?? null).changes).toEqual([
      ['AccessPermission', 'D:(A;;CCDCLC;;;BA)(A;;CCLC;;;S-1-5-21-1-2-3-1002)'],
    ]);
  });

  it('takes nothing from anybody else, and begins with the default where the client has none of its own', async () => {
    const wide = settingsWith({ ...open, DefaultAccessPermission: 'D:(A;;CCDCLC;;;S-1-5-21-1-2-3-1099)' });
    expect(changesOf(wide, wide.applications[0] ?? null).changes).toEqual([
      ['AccessPermission', 'D:(A;;CCDCLC;;;S-1-5-21-1-2-3-1099)(A;;CCLC;;;S-1-5-21-1-2-3-1002)'],
    ]);
  });

  it('needs nothing where callers are let in, and the machine’s limit where that holds them back', () => {
    const byDefault = { DefaultAccessPermission: 'D:(A;;CCDCLC;;;AU)' };
    expect(changesOf(settingsWith({ ...open, ...byDefault }), null)).toEqual({ changes: [], notes: [] });
    expect(changesOf(settingsWith({ ...narrow, ...byDefault }), null).changes).toEqual([
      ['MachineAccessRestriction', 'D:(A;;CCDC;;;WD)(A;;CCLC;;;S-1-5-21-1-2-3-1002)'],
    ]);
  });

  it('says of whom nothing is known, and of accounts that only their own machine has', () => {
    const notesFor = (userName: string) =>
      changesOf(settingsWith(open), null, [{ userName, links: ['Trends'] }]).notes[0];
    expect(notesFor('stranger')).toContain('no export of this machine tells who that is');
    expect(notesFor('LocalSystem')).toContain('its machine’s own account over the network');
  });

  it('is come by as the account that the server runs as, or that launched it', () => {
    const settings = { services: [{ name: 'LehrOpc', runsAs: '.\\opc', state: 'Running', startMode: 'Auto' }] };
    const [made] = settingsWith(open).applications;
    if (!made) throw new Error('no application');
    const callers = [
      made,
      { ...made, runAs: 'LEHR\\lab' },
      { ...made, service: 'lehropc' },
      { ...made, runAs: 'Interactive User' },
    ].map((application) => callerOf(settings, application, 'trend'));
    expect(callers).toEqual(['trend', 'LEHR\\lab', 'opc', null]);
  });
});
