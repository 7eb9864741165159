import type { AccessToken } from '@loyal-hinge/core';
import {
  ComFailure,
  DataAccessServerObject,
  MachineMapper,
  ObjectExporter,
  RpcFault,
  categories,
  faults,
  hresults,
  levels,
  ntlmServer,
  passwordHash,
  serverListClass,
  serverListObject,
  services,
} from '@loyal-hinge/classic';
import type { Account, Caller, ComObject, ListEntry, MadeObject, SaidAccount, Wanted } from '@loyal-hinge/classic';
import { DevicePoller } from '../poll-devices.js';
import { tokenOf } from './accounts.js';
import type { LocalAccount } from './accounts.js';
import type { EnforcedSettings } from './enforced-settings.js';
import { processSpace } from './process-space.js';
import type { ClassicItem } from './process-space.js';

/** A server of OPC Data Access on a machine. */
export interface ClassicProgram {
  readonly clsid: string;
  readonly vendor: string;
  readonly version: { readonly major: number; readonly minor: number; readonly build: number };
  readonly items: readonly ClassicItem[];
  readonly isFlat?: boolean;
  readonly leastUpdateRateMs?: number;
  readonly hasItemIo?: boolean;
  /** Its objects’ port; absent: any that is free. */
  readonly objectPort?: number;
  /** A port that it tells instead, and at which nothing lets anybody through. */
  readonly blockedPort?: number;
  /** As whom it calls back; absent: as nobody. */
  readonly runsAs?: Account;
  /** Why it does not start; absent: it does. */
  readonly startFailure?: number;
}

/** Somebody gave a name and a password. */
export interface ToldSignIn {
  readonly user: string;
  readonly domain: string;
  readonly workstation: string;
  readonly address: string;
  readonly outcome: 'let in' | 'unknown or wrong' | 'just locked' | 'locked';
}

export interface ClassicMachineRecord {
  readonly name: string;
  readonly address: string;
  readonly mapperPort: number;
  /** How it advertises itself. */
  readonly hosts: readonly string[];
  readonly accounts: readonly LocalAccount[];
  readonly machineSid: string;
  readonly settings: () => EnforcedSettings;
  readonly programs: readonly ClassicProgram[];
  /** How far its clock is ahead, in milliseconds; it then doesn’t say what time it has, and refuses who has another. */
  readonly clockMs?: number;
  readonly pingPeriodMs?: number;
  /** A firewall of its own lets nothing out: nobody is called back, but on the machine itself. */
  readonly reachesNobody?: boolean;
  /** So many wrong passwords lock an account; absent: none ever does. */
  readonly locksAfter?: number;
  /** Told of everybody who signs in, or tries to. */
  readonly signInTold?: (told: ToldSignIn) => void;
  /** What its list has beside its programs. */
  readonly alsoListed?: readonly ListEntry[];
}

interface RunningProgram {
  readonly exporter: ObjectExporter;
  readonly make: () => ComObject;
  /** Of its items that come from devices. */
  readonly pollers: ReadonlyMap<string, DevicePoller>;
}

const oldCategories = [categories['DA 2']];

/**
 * A machine with classic servers: a stand-in. It speaks the real protocol at its own address, and keeps to the settings that
 * lie in its exports, as COM does.
 */
export class ClassicMachine {
  private readonly running = new Map<string, RunningProgram>();
  private readonly starting = new Map<string, Promise<RunningProgram>>();
  private readonly servers = new Set<DataAccessServerObject>();
  /** How often somebody tried to sign in, by name. */
  readonly signIns: string[] = [];
  private readonly wrongPasswords = new Map<string, number>();
  private mapper: MachineMapper | null = null;
  private readonly agreeing;

  private constructor(private readonly record: ClassicMachineRecord) {
    const { name, accounts, hosts } = record;
    this.agreeing = {
      [services.ntlm]: ntlmServer({
        computer: name,
        domain: name,
        dnsComputer: hosts[0] ?? name,
        now: () => this.now(),
        tellsTime: record.clockMs === undefined,
        hashOf: (user) => {
          this.signIns.push(user);
          if (this.isLocked(user)) return null;
          const known = accounts.find((account) => account.user.toLowerCase() === user.toLowerCase());
          return known ? passwordHash(known.password) : null;
        },
        tried: (account, { address }) => this.noteSignIn(account, address),
      }),
    };
  }

  static async start(record: ClassicMachineRecord): Promise<ClassicMachine> {
    const machine = new ClassicMachine(record);
    const { address, mapperPort: port, hosts } = record;
    machine.mapper = await MachineMapper.start({
      address,
      port,
      hosts,
      agreeing: machine.agreeing,
      ...(record.pingPeriodMs === undefined ? {} : { pingPeriodMs: record.pingPeriodMs }),
      exporters: () => [...machine.running.values()].map(({ exporter }) => exporter),
      make: (wanted, caller) => machine.make(wanted, caller),
    });
    return machine;
  }

  unlock(user: string): void {
    this.wrongPasswords.delete(user.toLowerCase());
  }

  private isLocked(user: string): boolean {
    const { locksAfter = Number.POSITIVE_INFINITY } = this.record;
    return (this.wrongPasswords.get(user.toLowerCase()) ?? 0) >= locksAfter;
  }

  private noteSignIn({ user, domain, workstation, isProven }: SaidAccount, address: string): void {
    const told = { user, domain, workstation, address };
    const wasLocked = this.isLocked(user);
    if (isProven) this.unlock(user);
    else this.wrongPasswords.set(user.toLowerCase(), (this.wrongPasswords.get(user.toLowerCase()) ?? 0) + 1);
    const refused = wasLocked ? 'locked' : this.isLocked(user) ? 'just locked' : 'unknown or wrong';
    this.record.signInTold?.({ ...told, outcome: isProven ? 'let in' : refused });
  }

  get mapperPort(): number {
    return this.mapper?.port ?? this.record.mapperPort;
  }
  /** How many servers clients hold, and how many groups they have in them. */
  get held(): { readonly servers: number; readonly groups: number } {
    const groups = [...this.servers].reduce((sum, server) => sum + server.groupCount, 0);
    return { servers: this.servers.size, groups };
  }

  async stop(): Promise<void> {
    await Promise.all([...this.servers].map((server) => server.sayEnd('The machine is shut down.')));
    await Promise.all([...this.running.keys()].map((clsid) => this.restart(clsid)));
    await this.mapper?.close();
  }

  /** The service is started anew: who holds objects loses them, and settings that count from a start count now. */
  async restart(clsid: string): Promise<void> {
    const process = this.running.get(clsid);
    this.running.delete(clsid);
    for (const poller of process?.pollers.values() ?? []) poller.stop();
    await process?.exporter.close();
  }

  private knows(account: string): boolean {
    const name = account.slice(account.lastIndexOf('\\') + 1).toLowerCase();
    return this.record.accounts.some(({ user }) => user.toLowerCase() === name);
  }

  private now(): number {
    return Date.now() + (this.record.clockMs ?? 0);
  }

  private token(caller: Caller): AccessToken {
    const { accounts, machineSid, settings } = this.record;
    return tokenOf(caller, accounts, machineSid, settings().settings.logon);
  }

  /** Starts what is not running yet, for whoever may (MS-DCOM 3.1.2.5.2.3.2). */
  private async make({ clsid }: Wanted, caller: Caller): Promise<MadeObject> {
    const settings = this.record.settings();
    if (!settings.isOn || !settings.takesActivationAt(caller.level)) throw new RpcFault(faults.accessDenied);
    const isList = clsid === serverListClass;
    const program = this.record.programs.find((one) => one.clsid === clsid);
    const registered = settings.classOf(clsid);
    if ((!program && !isList) || !registered) throw new ComFailure(hresults.classUnknown);
    const token = this.token(caller);
    const may = (right: 'launch far' | 'activate far') => settings.allows(registered.appId, token, right);
    if (!may('activate far') || (!this.running.has(clsid) && !may('launch far')))
      throw new RpcFault(faults.accessDenied);
    if (program?.startFailure !== undefined) throw new ComFailure(program.startFailure);
    const runAs = registered.appId === null ? null : settings.runAsOf(registered.appId);
    if (runAs !== null && !this.knows(runAs)) throw new ComFailure(hresults.runAsFailed);
    const process = this.running.get(clsid) ?? (await this.started(clsid, registered.appId, program ?? null));
    return { exporter: process.exporter, object: process.make(), level: settings.leastLevel(registered.appId) };
  }

  /** A program is started once, however many ask for it at the same time. */
  private started(clsid: string, appId: string | null, program: ClassicProgram | null): Promise<RunningProgram> {
    const under = this.starting.get(clsid);
    if (under) return under;
    const starting = this.startProcess(appId, program)
      .then((process) => {
        this.running.set(clsid, process);
        return process;
      })
      .finally(() => this.starting.delete(clsid));
    this.starting.set(clsid, starting);
    return starting;
  }

  private async startProcess(appId: string | null, program: ClassicProgram | null): Promise<RunningProgram> {
    const { address, hosts, settings } = this.record;
    const exporter = await ObjectExporter.start({
      address,
      port: program?.objectPort ?? 0,
      hosts,
      ...(program?.blockedPort === undefined ? {} : { toldPort: program.blockedPort }),
      ...(this.record.pingPeriodMs === undefined ? {} : { pingPeriodMs: this.record.pingPeriodMs }),
      agreeing: this.agreeing,
      resolver: () => this.mapper?.bindings ?? { strings: [], security: [] },
      // Both who calls and how are looked at with each call, since settings may change meanwhile.
      admits: (caller) =>
        levels[caller.level] >= settings().leastLevel(appId) &&
        settings().allows(appId, this.token(caller), 'access far'),
    });
    if (!program) {
      const list = serverListObject(exporter, this.listed());
      return { exporter, make: () => list, pollers: new Map() };
    }
    const pollers = new Map(
      program.items.flatMap(({ itemId, polled }) => (polled ? [[itemId, new DevicePoller(polled)] as const] : [])),
    );
    // Whoever calls first would find nothing read yet.
    await Promise.all([...pollers.values()].map(({ begun }) => begun));
    const space = processSpace(
      program.items,
      program.isFlat ?? false,
      () => this.now(),
      (itemId) => pollers.get(itemId)?.value ?? null,
    );
    const make = (): ComObject => {
      const server = new DataAccessServerObject(
        {
          exporter,
          space,
          vendor: program.vendor,
          version: program.version,
          state: () => 'running',
          leastUpdateRateMs: program.leastUpdateRateMs ?? 100,
          hasItemIo: program.hasItemIo ?? false,
          now: () => this.now(),
          back: {
            identity: {
              account: program.runsAs ?? null,
              level: program.runsAs ? 'integrity' : 'none',
              workstation: this.record.name,
            },
            localAddress: address,
            timeoutMs: 3000,
            mayDial: (host) => this.record.reachesNobody !== true || host === address,
          },
        },
        () => this.servers.delete(server),
      );
      this.servers.add(server);
      return server;
    };
    return { exporter, make, pollers };
  }

  /** What the machine’s list has: the registered classes of its programs. */
  private listed(): readonly ListEntry[] {
    const settings = this.record.settings();
    const own = this.record.programs.flatMap(({ clsid, hasItemIo }) => {
      const registered = settings.classOf(clsid);
      const [progId] = registered?.progIds ?? [];
      if (!registered || progId === undefined) return [];
      return {
        clsid,
        progId,
        name: registered.name,
        categories: hasItemIo ? [...oldCategories, categories['DA 3']] : oldCategories,
      };
    });
    return [...own, ...(this.record.alsoListed ?? [])];
  }
}
