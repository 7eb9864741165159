import {
  Registry,
  aceTypes,
  dcomSettings,
  nameOfSid,
  oneLine,
  readRegistryExport,
  rightsInMask,
  sddlOf,
  textOf,
} from '@loyal-hinge/core';
import type { Ace, ComPermission, DcomSettings, KeptPermission, RegistryFault } from '@loyal-hinge/core';
import { CannotRun } from '../cannot-run.js';
import type { Command, Out } from '../command.js';
import { readExport } from '../files.js';
import { readOptions } from '../options.js';

const usage = `hinge dcom settings FILE… [--json]
  Reads exports of one machine’s registry (.reg), all taken together, and says what they set for DCOM: who may launch,
  activate and access which application, and how far the machine’s limit lets that be. Exit code 0, 3 where something could
  not be read, 2 when it could not run.`;

export const settings: Command = {
  usage,
  run(args, out, errors) {
    const { options, rest } = readOptions(args, { json: 'flag' }, usage);
    if (rest.length === 0) throw new CannotRun(`Say which export.\n\n${usage}`);
    const registry = new Registry();
    const faults: (RegistryFault & { readonly file: string })[] = [];
    for (const file of rest) {
      const found = readRegistryExport(textOf(readExport(file)), registry);
      if (!found) throw new CannotRun(`${file} is no export of a registry: its first line says so.`);
      faults.push(...found.map((fault) => ({ file, ...fault })));
    }
    for (const { file, line, says } of faults) errors.write(`${oneLine(file)}, line ${line}: ${oneLine(says)}\n`);
    const told = dcomSettings(registry);
    if (options.json) out.write(`${JSON.stringify({ ...shown(told), faults }, null, 2)}\n`);
    else inWords(told, out);
    return Promise.resolve(faults.length > 0 || permissionsOf(told).some(({ fault }) => fault !== null) ? 3 : 0);
  },
};

const permissionsOf = (told: DcomSettings): readonly KeptPermission[] =>
  [
    told.defaultLaunch,
    told.defaultAccess,
    told.launchRestriction,
    told.accessRestriction,
    told.launchPolicy,
    told.accessPolicy,
    ...told.applications.flatMap(({ launch, access }) => [launch, access]),
  ].flatMap((permission) => permission ?? []);

function shown({ applications, ...told }: DcomSettings) {
  return {
    ...told,
    defaultLaunch: shownPermission(told.defaultLaunch, 'launch'),
    defaultAccess: shownPermission(told.defaultAccess, 'access'),
    launchRestriction: shownPermission(told.launchRestriction, 'launch'),
    accessRestriction: shownPermission(told.accessRestriction, 'access'),
    launchPolicy: shownPermission(told.launchPolicy, 'launch'),
    accessPolicy: shownPermission(told.accessPolicy, 'access'),
    applications: applications.map((application) => ({
      ...application,
      launch: shownPermission(application.launch, 'launch'),
      access: shownPermission(application.access, 'access'),
    })),
  };
}

const shownPermission = (permission: KeptPermission | null, of: ComPermission) =>
  permission && {
    fault: permission.fault,
    sddl: permission.descriptor && sddlOf(permission.descriptor),
    entries: permission.descriptor?.dacl?.map((ace, index) => ({ index, ...entryOf(ace, of) })) ?? null,
  };

const entryOf = (ace: Ace, of: ComPermission) => ({
  gives: ace.type === aceTypes.allowed,
  sid: ace.sid,
  name: nameOfSid(ace.sid),
  rights: rightsInMask(ace.mask, of),
});

function inWords(told: DcomSettings, out: Out): void {
  const line = (words: string): unknown => out.write(`${oneLine(words)}\n`);
  line(`DCOM: ${told.isOn === null ? 'not said' : told.isOn ? 'on' : 'off'}`);
  line(`Authentication level: ${told.authenticationLevel ?? 'not said'}`);
  if (told.refusesLowActivation !== null)
    line(`Activation below packet integrity: ${told.refusesLowActivation ? 'refused' : 'let through'}`);
  if (told.ports) line(`Ports of RPC: ${told.ports.join(', ')}`);
  for (const [words, permission, of] of [
    ['By default', told.defaultLaunch, 'launch'],
    ['By default', told.defaultAccess, 'access'],
    ['The machine’s limit', told.launchRestriction, 'launch'],
    ['The machine’s limit', told.accessRestriction, 'access'],
    ['The limit by policy', told.launchPolicy, 'launch'],
    ['The limit by policy', told.accessPolicy, 'access'],
  ] as const)
    whoMay(words, permission, of, line);
  for (const { name, appId, launch, access, runAs } of told.applications) {
    line('');
    line(`${name || 'without a name'} ${appId}${runAs === null ? '' : `, runs as ${runAs}`}`);
    whoMay('  Own', launch, 'launch', line);
    whoMay('  Own', access, 'access', line);
  }
}

function whoMay(
  words: string,
  permission: KeptPermission | null,
  of: ComPermission,
  line: (words: string) => unknown,
): void {
  if (!permission) return;
  if (permission.fault !== null) return void line(`${words}, ${of}: can’t be read. ${permission.fault}`);
  const entries = permission.descriptor?.dacl ?? null;
  if (entries === null) return void line(`${words}, ${of}: everybody may everything, since there is no list`);
  for (const { gives, sid, name, rights } of entries.map((ace) => entryOf(ace, of)))
    line(`${words}, ${of}: ${name ?? sid} ${gives ? 'may' : 'may not'} ${rights.join(', ') || 'do anything'}`);
}
