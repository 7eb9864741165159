import {
  applicationOfProgram,
  bareName,
  callerOf,
  dcomChangeOf,
  permissionOf,
  programOf,
  judgeLinkUrl,
  sayDecision,
  serviceOf,
  settingsDifference,
  whoMay,
  keysOfChanges,
  registryExportText,
  sayPermission,
  smallestSettings,
  turnedLinks,
} from '@loyal-hinge/core';
import type { CalledBack, DcomApplication, DcomSettings, NeededAccount } from '@loyal-hinge/core';
import type {
  DcomApplicationView,
  DcomDifferences,
  DcomMachine,
  DcomMachines,
  DcomView,
  SmallestView,
} from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';
import { notFound } from '../http/problems.js';
import {
  classicMachines,
  exportsOf,
  findExport,
  neededServers,
  newestExport,
  newestExports,
  placedMachine,
  watchingLinks,
} from './store.js';
import type { KeptExport, NeededServer, WatchingLink } from './store.js';

/** All machines over which DCOM matters, with what their newest exports say. */
export async function dcomMachinesOf(db: Queryable): Promise<DcomMachines> {
  const [newest, servers] = await Promise.all([newestExports(db), neededServers(db)]);
  const byMachine = new Map(newest.map((kept) => [kept.machineId, kept]));
  const placed = await classicMachines(db, [...byMachine.keys()]);
  return {
    machines: placed.map((place): DcomMachine => {
      const kept = byMachine.get(place.machineId);
      const own = servers.filter(({ machineId }) => machineId === place.machineId);
      const applications = kept ? ofPlant(applicationsOf(kept, own)) : [];
      const count = (standing: string): number =>
        applications
          .flatMap(({ rows }) => rows.flatMap(({ cells }) => cells))
          .filter((cell) => cell.standing === standing).length;
      return {
        ...place,
        servers: new Set(own.map(({ server }) => server)).size,
        takenAt: kept?.about.takenAt ?? null,
        takenBy: kept?.about.takenBy ?? null,
        applications: applications.length,
        missing: count('missing'),
        excess: count('excess'),
        wide: count('wide'),
      };
    }),
  };
}

/** What one export of a machine says, or its newest. @throws {ProblemError} where there is no such machine or export */
export async function dcomViewOf(db: Queryable, machineId: string, exportId?: number): Promise<DcomView> {
  const place = await placedMachine(db, machineId);
  if (!place) throw notFound('machine', machineId);
  const [exports, servers] = await Promise.all([exportsOf(db, machineId), neededServers(db, [machineId])]);
  const wanted = exportId ?? exports[0]?.id ?? null;
  const kept = wanted === null ? null : await findExport(db, machineId, wanted);
  const watching = kept ? await watchingLinks(db, machineId) : [];
  const clients = kept ? await calledBack(db, kept, watching) : [];
  if (wanted !== null && !kept) throw notFound('export of this machine', String(wanted));
  return {
    ...place,
    exports: [...exports],
    shown: wanted,
    settings: kept ? settingRows(kept.settings) : [],
    applications: kept ? [...applicationsOf(kept, servers)] : [],
    smallest: kept && smallestOf(kept, servers, clients, watching),
    accounts: (kept?.accounts ?? []).map(({ name, token }) => ({ name, sid: token.user, groups: token.groups.length })),
    faults: kept?.faults ?? [],
  };
}

export async function dcomDifferencesOf(
  db: Queryable,
  machineId: string,
  before: number,
  after: number,
): Promise<DcomDifferences> {
  const [old, now] = await Promise.all([findExport(db, machineId, before), findExport(db, machineId, after)]);
  if (!old) throw notFound('export of this machine', String(before));
  if (!now) throw notFound('export of this machine', String(after));
  return { before: old.about, after: now.about, differences: [...settingsDifference(old.settings, now.settings)] };
}

/** Settings of the whole machine; weak is what lets more in than it should. */
function settingRows({
  isOn,
  authenticationLevel,
  impersonationLevel,
  refusesLowActivation,
  ports,
  logon,
  ...limits
}: DcomSettings): DcomView['settings'] {
  const flag = (value: boolean | null): string | null => (value === null ? null : value ? 'yes' : 'no');
  const limit = (policy: unknown, own: unknown): string | null =>
    policy ? 'set by policy' : own ? 'set on the machine' : null;
  return [
    { what: 'DCOM is on', value: flag(isOn), isWeak: false },
    { what: 'Level by default', value: authenticationLevel, isWeak: authenticationLevel === 'none' },
    { what: 'Impersonation by default', value: impersonationLevel, isWeak: impersonationLevel === 'delegate' },
    {
      what: 'Refuses activation below packet integrity',
      value: flag(refusesLowActivation),
      isWeak: refusesLowActivation === false,
    },
    { what: 'Limit of launch permissions', value: limit(limits.launchPolicy, limits.launchRestriction), isWeak: false },
    { what: 'Limit of access permissions', value: limit(limits.accessPolicy, limits.accessRestriction), isWeak: false },
    { what: 'Ports', value: ports && ports.length > 0 ? ports.join(', ') : null, isWeak: false },
    {
      what: 'Everybody from the network is a guest',
      value: flag(logon.isGuestOnly),
      isWeak: logon.isGuestOnly === true,
    },
    {
      what: 'Everyone includes anonymous',
      value: flag(logon.everyoneIncludesAnonymous),
      isWeak: logon.everyoneIncludesAnonymous === true,
    },
    {
      what: 'LAN Manager level',
      value: logon.lanManagerLevel === null ? null : String(logon.lanManagerLevel),
      isWeak: (logon.lanManagerLevel ?? 5) < 3,
    },
    {
      what: 'Local administrators keep their rights over the network',
      value: flag(logon.localAccountsKeepRights),
      isWeak: logon.localAccountsKeepRights === true,
    },
  ];
}

/** Clients on the machine of an export, with the accounts as which servers elsewhere call them back, by those machines’ exports. */
async function calledBack(
  db: Queryable,
  { settings }: KeptExport,
  watching: readonly WatchingLink[],
): Promise<readonly CalledBack[]> {
  const machineIds = [...new Set(watching.map(({ serverMachineId }) => serverMachineId))];
  const elsewhere = new Map(await Promise.all(machineIds.map(async (id) => [id, await newestExport(db, id)] as const)));
  const byClient = new Map<string, Map<string, string[]>>();
  for (const { client, link, endpointUrl, serverMachineId, userName } of watching) {
    const there = elsewhere.get(serverMachineId)?.settings;
    const application = there && applicationOfProgram(there, programIn(endpointUrl));
    const caller = there && application ? callerOf(there, application, userName) : null;
    if (caller === null) continue;
    const callers = byClient.get(client) ?? new Map<string, string[]>();
    callers.set(caller, [...(callers.get(caller) ?? []), link]);
    byClient.set(client, callers);
  }
  return [...byClient].map(([name, callers]) => ({
    name,
    application: settings.applications.find((one) => one.name.toLowerCase() === name.toLowerCase()) ?? null,
    needed: [...callers].map(([caller, links]) => ({ userName: caller, links })),
  }));
}

/** The least that lets every link of these servers work, and the way back to these clients. */
function smallestOf(
  { machineId, settings, accounts }: KeptExport,
  servers: readonly NeededServer[],
  clients: readonly CalledBack[],
  watching: readonly WatchingLink[],
): SmallestView {
  const applications = settings.applications.map((application) => ({
    application,
    needed: neededBy(serversOf(settings, application, servers)),
  }));
  const { changes, restarts, notes } = smallestSettings(settings, accounts, applications, clients);
  const { apply, undo } = keysOfChanges(changes);
  return {
    changes: changes.map((change) => {
      const application = applications.find(({ application: { appId } }) => change.path.endsWith(appId))?.application;
      const concerned = application ? serversOf(settings, application, servers) : servers;
      return {
        what: change.what,
        before: sayPermission(change.before),
        after: sayPermission(change.after),
        says: [...change.says],
        change: dcomChangeOf(machineId, change),
        linkIds: [
          ...concerned.flatMap(({ linkId }) => linkId ?? []),
          ...watching
            .filter(({ client }) => !application || client.toLowerCase() === application.name.toLowerCase())
            .map(({ linkId }) => linkId),
        ],
      };
    }),
    restarts: [...restarts],
    turns: [...turnedLinks(settings, changes, accounts, applications)],
    notes: [...notes],
    apply: registryExportText(apply),
    undo: registryExportText(undo),
  };
}

/** Servers of the plant, with their links, that an application is. */
function serversOf(
  settings: DcomSettings,
  application: DcomApplication,
  servers: readonly NeededServer[],
): readonly NeededServer[] {
  const names = namesOf(settings, application);
  return servers.filter(({ endpointUrl }) => endpointUrl !== null && names.has(programIn(endpointUrl)));
}

const ofPlant = (applications: readonly DcomApplicationView[]): readonly DcomApplicationView[] =>
  applications.filter(({ servers }) => servers.length > 0);

/** Applications of an export, those that are servers of the plant first. */
function applicationsOf(
  { settings, accounts }: KeptExport,
  servers: readonly NeededServer[],
): readonly DcomApplicationView[] {
  const shown = settings.applications.map((application): DcomApplicationView => {
    const own = serversOf(settings, application, servers);
    return {
      appId: application.appId,
      name: application.name || application.appId,
      progIds: [...new Set(classesOf(settings, application).flatMap(({ progIds }) => progIds))],
      servers: [...new Set(own.map(({ server }) => server))],
      launchFrom: application.launch ? 'own' : settings.defaultLaunch ? 'default' : 'none',
      accessFrom: application.access ? 'own' : settings.defaultAccess ? 'default' : 'none',
      level: application.authenticationLevel,
      runAs: application.runAs ?? serviceOf(settings, application)?.runsAs ?? null,
      endpoints: [...application.endpoints],
      faults: [application.launch, application.access].flatMap((permission) => permission?.fault ?? []),
      rows: whoMay(settings, application, accounts, neededBy(own)).map(({ cells, links, ...row }) => ({
        ...row,
        links: [...links],
        cells: cells.map(({ right, standing, decision }) => ({
          right,
          standing,
          says: sayDecision(decision, permissionOf(right)),
        })),
      })),
    };
  });
  return [...ofPlant(shown), ...shown.filter((one) => one.servers.length === 0)];
}

const classesOf = ({ classes }: DcomSettings, { appId }: DcomApplication) =>
  classes.filter((one) => one.appId?.toLowerCase() === appId.toLowerCase());

/** By which names links call an application’s classes. */
const namesOf = (settings: DcomSettings, application: DcomApplication): ReadonlySet<string> =>
  new Set(
    classesOf(settings, application).flatMap(({ clsid, progIds }) => [bareName(clsid), ...progIds.map(bareName)]),
  );

function programIn(endpointUrl: string): string {
  const { parts } = judgeLinkUrl('classic', endpointUrl);
  return parts ? bareName(programOf(parts)) : '';
}

function neededBy(servers: readonly NeededServer[]): readonly NeededAccount[] {
  const links = new Map<string, string[]>();
  for (const { userName, link } of servers)
    if (userName !== null && link !== null) links.set(userName, [...(links.get(userName) ?? []), link]);
  return [...links].map(([userName, own]) => ({ userName, links: own }));
}
