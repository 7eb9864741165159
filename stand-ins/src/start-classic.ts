import { mkdir, readFile, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { registryFileBytes } from '@loyal-hinge/core';
import { ClassicMachine } from './classic/classic-machine.js';
import type { ClassicMachineRecord } from './classic/classic-machine.js';
import { FolderOfSettings } from './classic/enforced-settings.js';
import { settingsText, signedInAccess, signedInLaunch } from './classic/settings-text.js';
import { appIdOf, classicUsers, clsidOf, mapperPort } from './marrowby/classic.js';
import type { ClassicStandIn } from './marrowby/classic.js';

const [readerRid, serviceRid] = [1001, 1002];
const machineSid = 'S-1-5-21-41-41-41';
/** What a machine’s limits let through, where it says nothing else. */
const usualLimits = { launchRestriction: signedInLaunch, accessRestriction: signedInAccess };
const version = { major: 1, minor: 4, build: 2 };

/**
 * Starts a classic machine. Its settings lie in a folder as its exports would, and it keeps to whatever lies there.
 * @param passwords by user name
 */
export async function startClassicMachine(
  { machine, settings, programs, alsoListed, reachesNobody, hasOwnService }: ClassicStandIn,
  folder: string,
  passwords: ReadonlyMap<string, string>,
  more: Pick<ClassicMachineRecord, 'locksAfter' | 'signInTold'> = {},
): Promise<ClassicMachine> {
  await mkdir(folder, { recursive: true, mode: 0o700 });
  const applications = programs.map(({ number, name, progId, launch, access, runAs }) => ({
    appId: appIdOf(number),
    clsid: clsidOf(number),
    name,
    progId,
    ...(launch === undefined ? {} : { launch }),
    ...(access === undefined ? {} : { access }),
    ...(runAs === undefined ? {} : { runAs }),
  }));
  const file = join(folder, 'settings.reg');
  const isThere = await stat(file).then(
    () => true,
    () => false,
  );
  if (!isThere)
    await writeFile(file, registryFileBytes(settingsText({ ...usualLimits, ...settings, applications })), {
      mode: 0o600,
    });
  const enforced = new FolderOfSettings(folder);
  const account = (user: string, rid: number) => ({ user, password: passwords.get(user) ?? '', rid, groups: [] });
  const user = hasOwnService ? classicUsers.service : classicUsers.reader;
  const service = { user, domain: '', password: passwords.get(user) ?? '' };
  return ClassicMachine.start({
    ...more,
    name: machine.id.toUpperCase(),
    address: machine.addresses[0] ?? '',
    mapperPort,
    hosts: machine.addresses,
    accounts: [account(classicUsers.reader, readerRid), account(classicUsers.service, serviceRid)],
    machineSid,
    settings: () => enforced.now(),
    reachesNobody: reachesNobody === true,
    alsoListed: alsoListed ?? [],
    programs: programs.map(
      ({
        number,
        id: _id,
        name: _name,
        progId: _progId,
        launch: _launch,
        access: _access,
        runAs: _runAs,
        ...program
      }) => ({
        ...program,
        clsid: clsidOf(number),
        vendor: 'Marrowby Glass, made up',
        version,
        runsAs: service,
      }),
    ),
  });
}

/** What somebody brought along from a classic machine: its settings as they lay there, and what it prints of the account. */
export async function broughtFrom({ machine }: ClassicStandIn, folder: string) {
  const settings = await readFile(join(folder, 'settings.reg'));
  const account = accountText(machine.id.toUpperCase());
  return {
    machineId: machine.id,
    files: [
      { name: 'settings.reg', base64: settings.toString('base64') },
      { name: 'account.csv', base64: Buffer.from(account).toString('base64') },
    ],
  };
}

const usual = 'Mandatory group, Enabled by default, Enabled group';

/** An account as a machine prints it as CSV. */
const accountText = (computer: string): string =>
  [
    '"User Name","SID"',
    `"${computer.toLowerCase()}\\${classicUsers.reader}","${machineSid}-${readerRid}"`,
    '',
    '"Group Name","Type","SID","Attributes"',
    `"Everyone","Well-known group","S-1-1-0","${usual}"`,
    `"BUILTIN\\Users","Alias","S-1-5-32-545","${usual}"`,
    `"NT AUTHORITY\\NETWORK","Well-known group","S-1-5-2","${usual}"`,
    `"NT AUTHORITY\\Authenticated Users","Well-known group","S-1-5-11","${usual}"`,
    `"NT AUTHORITY\\Local account","Well-known group","S-1-5-113","${usual}"`,
    '',
  ].join('\r\n');
