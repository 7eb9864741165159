import {
  Registry,
  dcomSettings,
  descriptorBytes,
  readRegistryExport,
  readSddl,
  registryExportText,
  smallestSettings,
} from '../../core/dist/index.js';
import { timedOver } from './timing.mjs';

const sizes = [50, 500, 2000];
const rounds = 3;
const linksAMachine = 10;
const serversAMachine = 4;

/** The smallest settings of many machines, each with four servers and ten links under accounts of their own. */
export function smallest(say) {
  say(
    `\nSmallest settings of machines with ${serversAMachine} classic servers and ${linksAMachine} links each, exports read before (medians of ${rounds}):`,
  );
  const machine = machineOf();
  measured(machine, sizes[0]);
  const results = sizes.map((machines) => ({ machines, ...measured(machine, machines) }));
  const [first] = results;
  for (const { machines, ms, changes } of results) {
    const growth = (ms / machines / (first.ms / first.machines)).toFixed(2);
    say(
      `  ${String(machines).padStart(6)} machines, ${machines * linksAMachine} links  ${Math.round(ms)} ms, ${changes} changes; ${growth} times the time per machine at ${first.machines}`,
    );
  }
}

function measured({ settings, accounts, applications }, machines) {
  let changes = 0;
  const ms = timedOver(rounds, () => {
    changes = 0;
    for (let index = 0; index < machines; index += 1)
      changes += smallestSettings(settings, accounts, applications).changes.length;
  });
  return { ms, changes };
}

const sid = (rid) => `S-1-5-21-1-2-3-${rid}`;
const permission = (name, sddl) => ({ name, bytes: descriptorBytes(readSddl(sddl).value) });

function machineOf() {
  const numbers = Array.from({ length: serversAMachine }, (_, index) => index);
  const appId = (index) => `{00000000-0000-4000-8000-00000000000${index}}`;
  const registry = new Registry();
  readRegistryExport(
    registryExportText([
      {
        path: 'HKEY_LOCAL_MACHINE\\SOFTWARE\\Microsoft\\Ole',
        values: [
          permission('DefaultLaunchPermission', 'D:(A;;CCDCLCSWRP;;;BA)(A;;CCDCLCSWRP;;;AU)'),
          permission('DefaultAccessPermission', 'D:(A;;CCDCLC;;;BA)'),
          permission('MachineLaunchRestriction', 'D:(A;;CCDCLCSWRP;;;WD)'),
          permission('MachineAccessRestriction', 'D:(A;;CCDCLC;;;WD)'),
        ],
      },
      ...numbers.map((index) => ({
        path: `HKEY_LOCAL_MACHINE\\SOFTWARE\\Classes\\AppID\\${appId(index)}`,
        values: [
          { name: '', text: `Server ${index}` },
          permission(
            'LaunchPermission',
            `D:(A;;CCDCLCSWRP;;;WD)${numbers.map((at) => `(A;;CCLC;;;${sid(2000 + at)})`).join('')}`,
          ),
        ],
      })),
    ]),
    registry,
  );
  const settings = dcomSettings(registry);
  const accounts = Array.from({ length: linksAMachine }, (_, index) => ({
    name: `works\\reader${index}`,
    label: null,
    token: { user: sid(1000 + index), groups: ['S-1-1-0', 'S-1-5-11', sid(3000 + (index % 3))], denyOnly: [] },
  }));
  const applications = settings.applications.map((application, at) => ({
    application,
    needed: accounts
      .filter((_, index) => index % serversAMachine === at)
      .map(({ name }) => ({ userName: name, links: [`link of ${name}`] })),
  }));
  return { settings, accounts, applications };
}
