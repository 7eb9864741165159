import {
  Registry,
  aceTypes,
  checkComRight,
  comRights,
  dcomSettings,
  nameOfSid,
  oneLine,
  permissionOf,
  readAccount,
  readRegistryExport,
  rightsInMask,
  sddlOf,
  textOf,
} from '@loyal-hinge/core';
import type {
  AccessToken,
  Ace,
  ComLimits,
  ComPermission,
  DcomApplication,
  DcomSettings,
  KeptPermission,
  RegistryFault,
  ToldAccount,
} from '@loyal-hinge/core';
import { CannotRun } from '../cannot-run.js';
import type { Command, Out } from '../command.js';
import { readExport } from '../files.js';
import { readOptions } from '../options.js';

const usage = `hinge dcom settings FILE… [--account TOKENFILE] [--class PROGID] [--json]
  Reads exports of one machine’s registry (.reg), all taken together, and says what they set for DCOM: who may launch,
  activate and access which application, and how far the machine’s limit lets that be. With an account, as its machine
  prints it with all its groups, it says what that one may, and which entry decides; with a name of a class, of its
  application alone. Exit code 0, 3 where something could not be read or is refused, 2 when it could not run.`;

export const settings: Command = {
  usage,
  run(args, out, errors) {
    const { options, rest } = readOptions(args, { account: 'text', class: 'text', json: 'flag' }, usage);
    if (rest.length === 0) throw new CannotRun(`Say which export.\n\n${usage}`);
    const registry = new Registry();
    const faults: (RegistryFault & { readonly file: string })[] = [];
    for (const file of rest) {
      const found = readRegistryExport(textOf(readExport(file)), registry);
      if (!found) throw new CannotRun(`${file} is no export of a registry: its first line says so.`);
      faults.push(...found.map((fault) => ({ file, ...fault })));
    }
    for (const { file, line, says } of faults) errors.write(`${oneLine(file)}, line ${line}: ${oneLine(says)}\n`);
    const all = dcomSettings(registry);
    const told = options.class === null ? all : { ...all, applications: applicationsOf(all, options.class) };
    const account = options.account === null ? null : accountIn(options.account);
    const decisions = account && told.applications.map((application) => decidedFor(told, application, account.token));
    if (options.json)
      out.write(`${JSON.stringify({ ...shown(told), ...(decisions && { account, decisions }), faults }, null, 2)}\n`);
    else {
      inWords(told, out);
      if (decisions) decisionsInWords(account.name || account.token.user, decisions, out);
    }
    const isAmiss = faults.length > 0 || permissionsOf(told).some(({ fault }) => fault !== null);
    const isRefused = (decisions ?? []).some(({ rights }) => rights.some(({ isAllowed }) => isAllowed === false));
    return Promise.resolve(isAmiss || isRefused ? 3 : 0);
  },
};

function accountIn(file: string): ToldAccount {
  const account = readAccount(textOf(readExport(file)));
  if (!account) throw new CannotRun(`${file} names no account: a SID (S-1-…) must stand in it.`);
  return account;
}

/** The applications of classes that go by a name. */
function applicationsOf(told: DcomSettings, progId: string): readonly DcomApplication[] {
  const wanted = progId.toLowerCase();
  const ids = told.classes
    .filter(({ progIds, clsid }) => [...progIds, clsid].some((name) => name.toLowerCase() === wanted))
    .flatMap(({ appId }) => appId?.toLowerCase() ?? []);
  if (ids.length > 0) return told.applications.filter(({ appId }) => ids.includes(appId.toLowerCase()));
  const known = told.classes.flatMap(({ progIds }) => progIds);
  throw new CannotRun(
    `No class in these exports goes by “${progId}”${known.length === 0 ? '' : `; there are ${known.slice(0, 10).join(', ')}`}.`,
  );
}

/** What somebody may with an application; of a permission that can’t be read, nothing is known. */
function decidedFor(told: DcomSettings, application: DcomApplication, token: AccessToken) {
  const limitsOf = (permission: ComPermission): ComLimits => {
    const isLaunch = permission === 'launch';
    return {
      own: (isLaunch ? application.launch : application.access)?.descriptor ?? null,
      byDefault: (isLaunch ? told.defaultLaunch : told.defaultAccess)?.descriptor ?? null,
      restriction: (isLaunch ? told.launchRestriction : told.accessRestriction)?.descriptor ?? null,
      policy: (isLaunch ? told.launchPolicy : told.accessPolicy)?.descriptor ?? null,
    };
  };
  return {
    appId: application.appId,
    name: application.name,
    rights: comRights.map((right) => {
      const { isAllowed, by, entry } = checkComRight(limitsOf(permissionOf(right)), token, right);
      return {
        right,
        isAllowed,
        by,
        entry: entry && { index: entry.index, sid: entry.ace.sid, name: nameOfSid(entry.ace.sid) },
      };
    }),
  };
}

function decisionsInWords(account: string, decisions: readonly ReturnType<typeof decidedFor>[], out: Out): void {
  for (const { name, appId, rights } of decisions) {
    out.write(`\n${oneLine(`${account} and ${name || appId}:`)}\n`);
    for (const { right, isAllowed, by, entry } of rights) {
      const why =
        isAllowed === null
          ? `the export has no ${by}`
          : entry
            ? `by the ${by}, entry ${entry.index + 1} (${entry.name ?? entry.sid})`
            : `by the ${by}, which has no entry that ${isAllowed ? 'is against it' : 'gives it'}`;
      const verdict = isAllowed === null ? 'is not known' : isAllowed ? 'may' : 'may not';
      out.write(`${oneLine(`  ${right.padEnd(14)}${verdict}: ${why}`)}\n`);
    }
  }
}

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
