import fc from 'fast-check';
import { descriptorBytes } from './descriptor-binary.js';
import { Registry, readRegistryExport } from './registry.js';
import { registryExportText } from './registry-export.js';
import { readSddl } from './sddl.js';
import { dcomSettings } from './settings.js';
import type { DcomSettings } from './settings.js';
import { settingsAfter, turnedLinks } from './settings-what-if.js';
import { keysOfChanges, sayPermission, smallestSettings } from './smallest-settings.js';
import { whoMay } from './who-may.js';

const appId = '{11111111-1111-1111-1111-111111111111}';
const app = `HKEY_LOCAL_MACHINE\\SOFTWARE\\Classes\\AppID\\${appId}`;
const ole = 'HKEY_LOCAL_MACHINE\\SOFTWARE\\Microsoft\\Ole';
const domain = 'S-1-5-21-1-2-3';
const account = (name: string, rid: number, ...groups: readonly string[]) => ({
  name: `LEHR\\${name}`,
  label: null,
  token: { user: `${domain}-${rid}`, groups: ['S-1-1-0', 'S-1-5-2', 'S-1-5-11', ...groups], denyOnly: [] },
});
const trend = account('trend', 1001);
const needed = [{ userName: 'trend', links: ['Trends'] }];

type Permissions = Readonly<Record<string, string>>;
function exportOf(machine: Permissions, own: Permissions): string {
  const values = (from: Permissions) =>
    Object.entries(from).map(([name, sddl]) => {
      const read = readSddl(sddl);
      if (!read.ok) throw new Error(read.fault.says);
      return { name, bytes: descriptorBytes(read.value) };
    });
  return registryExportText([
    { path: ole, values: values(machine) },
    { path: app, values: [{ name: '', text: 'Lehr data' }, { name: 'LocalService', text: 'LehrSvc' }, ...values(own)] },
  ]);
}
function settingsOf(...texts: readonly string[]): DcomSettings {
  const registry = new Registry();
  for (const text of texts) expect(readRegistryExport(text, registry)).toEqual([]);
  return dcomSettings(registry);
}
const applicationIn = (settings: DcomSettings) => {
  const [application] = settings.applications;
  if (!application) throw new Error('no application');
  return application;
};
const smallest = (settings: DcomSettings, accounts = [trend], who = needed) =>
  smallestSettings(settings, accounts, [{ application: applicationIn(settings), needed: who }]);
const standingsOf = (settings: DcomSettings, accounts = [trend], who = needed) =>
  new Set(
    whoMay(settings, applicationIn(settings), accounts, who).flatMap(({ cells }) =>
      cells.map(({ standing }) => standing),
    ),
  );

const open = { MachineLaunchRestriction: 'D:(A;;CCDCLCSWRP;;;WD)', MachineAccessRestriction: 'D:(A;;CCDCLC;;;WD)' };
const wide = { LaunchPermission: 'D:(A;;CCDCLCSWRP;;;WD)(A;;CCDCLCSWRP;;;SY)', AccessPermission: 'D:(A;;CCDCLC;;;AU)' };

describe('the smallest settings of a machine', () => {
  it('give what is needed to the account that needs it, and take what is too wide away', () => {
    const { changes, restarts, notes } = smallest(settingsOf(exportOf(open, wide)));
    expect(notes).toEqual([]);
    expect(restarts).toEqual(['the service LehrSvc (Lehr data)']);
    expect(changes.map(({ what, after, says }) => ({ what, after: sayPermission(after), says }))).toEqual([
      {
        what: 'Launch permission of Lehr data',
        after: `O:BAG:BAD:(A;;CCDCSW;;;WD)(A;;CCDCLCSWRP;;;SY)(A;;CCLCRP;;;${domain}-1001)(A;;CCDCLCSWRP;;;BA)`,
        says: [
          `LEHR\\trend is given launch and activation from other machines.`,
          'Everyone loses launch and activation from other machines, which no link needs.',
        ],
      },
      {
        what: 'Access permission of Lehr data',
        after: `O:BAG:BAD:(A;;CCDC;;;AU)(A;;CCLC;;;${domain}-1001)(A;;CCDCLC;;;BA)`,
        says: [
          `LEHR\\trend is given access from other machines.`,
          'Authenticated Users loses access from other machines, which no link needs.',
        ],
      },
    ]);
  });

  it('are there already where nothing is missing and nothing too wide', () => {
    const own = {
      LaunchPermission: `D:(A;;CCLCRP;;;${domain}-1001)(A;;CCDCLCSWRP;;;BA)`,
      AccessPermission: `D:(A;;CCLC;;;${domain}-1001)(A;;CCDCLC;;;BA)`,
    };
    expect(smallest(settingsOf(exportOf(open, own)))).toEqual({ changes: [], restarts: [], notes: [] });
  });

  it('hold once they are put in force, and go back byte by byte', () => {
    const before = exportOf(
      { ...open, DefaultLaunchPermission: 'D:(A;;CCDCLCSWRP;;;BA)', DefaultAccessPermission: 'D:(A;;CCDCLC;;;BA)' },
      {},
    );
    const { changes } = smallest(settingsOf(before));
    const { apply, undo } = keysOfChanges(changes);
    const after = settingsOf(before, registryExportText(apply));
    const standings = standingsOf(after);
    expect(standings.has('needed')).toBe(true);
    for (const bad of ['missing', 'excess', 'wide', 'unknown'] as const) expect(standings.has(bad)).toBe(false);
    expect(smallest(after).changes).toEqual([]);
    expect(settingsOf(before, registryExportText(apply), registryExportText(undo))).toEqual(settingsOf(before));
  });

  it('widen the machine’s limit only where it stands in the way, and say where a policy does', () => {
    const limited = { ...open, MachineAccessRestriction: 'D:(A;;CCDC;;;WD)(A;;CCDCLC;;;BA)' };
    const { changes } = smallest(settingsOf(exportOf(limited, wide)));
    expect(changes.at(-1)).toMatchObject({
      what: 'The machine’s limit of access permissions',
      name: 'MachineAccessRestriction',
    });
    expect(changes.filter(({ path }) => path === ole)).toHaveLength(1);
    const policy = registryExportText([
      {
        path: 'HKEY_LOCAL_MACHINE\\SOFTWARE\\Policies\\Microsoft\\Windows NT\\DCOM',
        values: [{ name: 'MachineLaunchRestriction', text: 'D:(A;;CCDCSW;;;WD)' }],
      },
    ]);
    expect(smallest(settingsOf(exportOf(open, wide), policy)).notes).toEqual([
      `A policy limits launch permissions and holds back LEHR\\trend: it must be changed where policies are made.`,
    ]);
  });

  it('use a group of just those who need it', () => {
    const group = `${domain}-2000`;
    const accounts = [account('trend', 1001, group), account('alarms', 1002, group), account('guest', 1003)];
    const who = [...needed, { userName: 'alarms', links: ['Alarms'] }];
    const of = (told: typeof accounts) => smallest(settingsOf(exportOf(open, wide)), told, who).changes[0]?.says[0];
    expect(of(accounts)).toBe(`${group} is given launch and activation from other machines.`);
    expect(of([...accounts, account('stranger', 1004, group)])).toBe(
      `LEHR\\trend is given launch and activation from other machines.`,
    );
  });

  it('say where the denial of a group keeps an account out, and let the denial stand', () => {
    const guest = account('trend', 1001, 'S-1-5-32-546');
    const own = { ...wide, LaunchPermission: `D:(D;;CCDCLCSWRP;;;BG)(A;;CCDCLCSWRP;;;${trend.token.user})` };
    const says = 'LEHR\\trend belongs to that: take the account out of the group, or the denial away.';
    const byOwn = smallest(settingsOf(exportOf(open, own)), [guest]);
    expect(byOwn.notes).toEqual([`The launch permission of Lehr data denies Guests, and ${says}`]);
    expect(byOwn.changes.map(({ name }) => name)).not.toContain('LaunchPermission');
    const limited = { ...open, MachineAccessRestriction: 'D:(D;;CCDCLC;;;BG)(A;;CCDCLC;;;WD)' };
    const byLimit = smallest(settingsOf(exportOf(limited, wide)), [guest]);
    expect(byLimit.notes).toEqual([`The machine’s limit of access permissions denies Guests, and ${says}`]);
    expect(byLimit.changes.filter(({ path }) => path === ole)).toEqual([]);
    expect(smallest(settingsOf(exportOf(limited, own))).notes).toEqual([]);
  });

  it('leave alone what they can’t work out', () => {
    const { changes, notes } = smallest(settingsOf(exportOf(open, wide)), []);
    expect(changes).toEqual([]);
    expect(notes).toEqual(['Of “trend” no export tells who it is: Lehr data is left as it is.']);
  });

  it('let every account in that needs it and nobody else, whatever the permissions were', () => {
    const sids = ['WD', 'AU', 'AN', 'BA', 'SY', 'BU', `${domain}-1001`, `${domain}-1009`];
    const entry = fc.tuple(
      fc.constantFrom('A', 'D'),
      fc.constantFrom('CC', 'CCDCLC', 'CCLC', 'CCDC', 'CCDCLCSWRP', 'RP'),
      fc.constantFrom(...sids),
    );
    const list = fc
      .array(entry, { maxLength: 5 })
      .map((entries) => `D:${entries.map(([type, rights, sid]) => `(${type};;${rights};;;${sid})`).join('')}`);
    fc.assert(
      fc.property(list, list, fc.boolean(), (launch, access, isOwn) => {
        const own: Permissions = isOwn ? { LaunchPermission: launch, AccessPermission: access } : {};
        const machine = isOwn ? open : { ...open, DefaultLaunchPermission: launch, DefaultAccessPermission: access };
        const before = exportOf(machine, own);
        const { apply } = keysOfChanges(smallest(settingsOf(before)).changes);
        const standings = standingsOf(settingsOf(before, registryExportText(apply)));
        expect([standings.has('excess'), standings.has('wide')]).toEqual([false, false]);
        // A denial of a group that the account is in is left to a person.
        const denies = /\(D;;[A-Z]+;;;(WD|AU|BU)\)/.test(launch + access);
        if (!denies) expect(standings.has('missing')).toBe(false);
      }),
    );
  });

  it('tell which links turn by them', () => {
    const turnsOf = (own: Permissions, accounts = [trend]) => {
      const settings = settingsOf(exportOf(open, own));
      const applications = [{ application: applicationIn(settings), needed }];
      const { changes } = smallestSettings(settings, accounts, applications);
      // What is told of the settings afterwards is what an export of them says.
      const exported = settingsOf(exportOf(open, own), registryExportText(keysOfChanges(changes).apply));
      const permissionsIn = ({ applications: [one] }: DcomSettings) =>
        [one?.launch, one?.access].map((kept) => sayPermission(kept?.descriptor ?? null));
      expect(permissionsIn(settingsAfter(settings, changes))).toEqual(permissionsIn(exported));
      return turnedLinks(settings, changes, accounts, applications);
    };
    const closed = { LaunchPermission: 'D:(A;;CCDCLCSWRP;;;SY)', AccessPermission: 'D:(A;;CCDCLC;;;SY)' };
    expect(turnsOf(closed)).toEqual([{ link: 'Trends', isGained: true }]);
    expect(turnsOf(wide)).toEqual([]);
    expect(turnsOf(closed, [])).toEqual([]);
    expect(
      turnedLinks(
        settingsOf(exportOf(open, wide)),
        [
          {
            what: 'Access permission of Lehr data',
            path: app,
            name: 'AccessPermission',
            before: null,
            after: { control: 0x8004, owner: null, group: null, dacl: [], sacl: null },
            says: [],
          },
        ],
        [trend],
        [{ application: applicationIn(settingsOf(exportOf(open, wide))), needed }],
      ),
    ).toEqual([{ link: 'Trends', isGained: false }]);
  });

  it('leave what can’t be read as it is, since nobody could give it back', () => {
    const broken = registryExportText([
      {
        path: app,
        values: [
          { name: '', text: 'Lehr data' },
          { name: 'LaunchPermission', bytes: Uint8Array.of(1, 2) },
        ],
      },
      { path: ole, values: [{ name: 'MachineAccessRestriction', bytes: Uint8Array.of(3) }] },
    ]);
    const { changes, notes } = smallest(settingsOf(broken));
    expect(changes).toEqual([]);
    expect(notes).toEqual([
      'The launch permission of Lehr data can’t be read, so that nobody could give it back: it is left as it is.',
      'The machine’s limit of access permissions can’t be read: see that it lets links through.',
    ]);
  });
});
