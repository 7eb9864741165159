import { readFileSync } from 'node:fs';
import {
  ComFailure,
  DataAccessServerObject,
  MachineMapper,
  ObjectExporter,
  RpcFault,
  categories,
  emptyVariant,
  faults,
  goodQuality,
  hresults,
  levels,
  ntlmServer,
  opcErrors,
  passwordHash,
  serverListClass,
  serverListObject,
  services,
} from '@loyal-hinge/classic';
import type { AddressSpace, Agreeing, Caller, MadeObject, SpaceItem, VariantType, Wanted } from '@loyal-hinge/classic';
import { qualityOfStatus } from '@loyal-hinge/core';
import type { Place } from '@loyal-hinge/core';
import type { GatewayConfiguration } from '@loyal-hinge/contract/line';
import type { FaceWrite, GatewayFace } from '../gateway.js';
import type { SourceItem, SourceValue } from '../source.js';
import { builtInOf, classicCodeOf, classicOf, valueOfClassic, variantTypeOf } from './values.js';

type Settings = Extract<GatewayConfiguration['faces'][number], { kind: 'classic' }>;

type User = Settings['users'][number];
const passwordIn = ({ passwordFile }: User): string => readFileSync(passwordFile, 'utf8').trimEnd();

const computer = 'GATEWAY';
const version = { major: 1, minor: 0, build: 1 };
const badQuality = 0x00;
const waitingQuality = 0x20;

interface Shown {
  readonly itemId: string;
  readonly branch: readonly string[];
  readonly name: string;
  readonly type: VariantType;
  readonly isWritable: boolean;
  now: SourceValue | null;
}

/** A server of classic Data Access that shows what a gateway has: single values, named by their places, parted by points. */
export class ClassicFace implements GatewayFace {
  private readonly shown = new Map<string, Shown>();
  private readonly byId = new Map<string, Shown>();
  private readonly servers = new Set<DataAccessServerObject>();
  private users: ReadonlyMap<string, User> = new Map();
  private mapper: MachineMapper | null = null;
  private exporter: ObjectExporter | null = null;

  private constructor(
    private readonly settings: Settings,
    private readonly name: string,
    private readonly write: FaceWrite,
  ) {
    this.letIn(settings.users);
  }

  static async start(settings: Settings, name: string, write: FaceWrite): Promise<ClassicFace> {
    const face = new ClassicFace(settings, name, write);
    try {
      await face.open();
    } catch (error) {
      await face.stop();
      throw error;
    }
    return face;
  }

  get port(): number {
    return this.mapper?.port ?? 0;
  }

  /** Lets others in from now on. */
  letIn(users: Settings['users']): void {
    this.users = new Map(users.map((user) => [user.name.toLowerCase(), user]));
  }

  /** Shows an item from now on, where it is a single value of a type that classic OPC has. */
  add(key: string, { domain, path, isWritable }: Place, { type, valueRank }: SourceItem): void {
    const classic = variantTypeOf(type);
    if (this.shown.has(key) || classic === null || valueRank !== -1) return;
    const parts = [domain, ...path.split('/')].map((part) => part.replaceAll('.', ' '));
    const itemId = parts.join('.');
    if (this.byId.has(itemId)) return;
    const shown: Shown = {
      itemId,
      branch: parts.slice(0, -1),
      name: parts.at(-1) ?? itemId,
      type: classic,
      isWritable,
      now: null,
    };
    this.shown.set(key, shown);
    this.byId.set(itemId, shown);
    this.keys.set(itemId, key);
  }
  private readonly keys = new Map<string, string>();

  show(key: string, value: SourceValue): void {
    const shown = this.shown.get(key);
    if (shown) shown.now = value;
  }

  remove(key: string): void {
    const shown = this.shown.get(key);
    if (!shown) return;
    this.shown.delete(key);
    this.byId.delete(shown.itemId);
    this.keys.delete(shown.itemId);
  }

  async stop(): Promise<void> {
    await Promise.allSettled([...this.servers].map((server) => server.sayEnd('The gateway is stopped.')));
    await Promise.all([this.exporter?.close(), this.mapper?.close()]);
  }

  private async open(): Promise<void> {
    const { address, mapperPort, objectPort } = this.settings;
    const agreeing: Readonly<Record<number, Agreeing>> = {
      [services.ntlm]: ntlmServer({
        computer,
        domain: computer,
        dnsComputer: address,
        now: Date.now,
        refusesAnonymous: this.settings.level !== 'none',
        hashOf: (user) => {
          const known = this.users.get(user.toLowerCase());
          return known ? passwordHash(passwordIn(known)) : null;
        },
      }),
    };
    const exporter = await ObjectExporter.start({
      address,
      port: objectPort,
      hosts: [address],
      agreeing,
      resolver: () => this.mapper?.bindings ?? { strings: [], security: [] },
      admits: (caller) => this.admits(caller),
    });
    this.exporter = exporter;
    this.mapper = await MachineMapper.start({
      address,
      port: mapperPort,
      hosts: [address],
      agreeing,
      exporters: () => [exporter],
      make: (wanted, caller) => Promise.resolve().then(() => this.make(exporter, wanted, caller)),
    });
  }

  private admits(caller: Caller): boolean {
    return levels[caller.level] >= levels[this.settings.level];
  }

  private make(exporter: ObjectExporter, { clsid }: Wanted, caller: Caller): MadeObject {
    if (!this.admits(caller)) throw new RpcFault(faults.accessDenied);
    const { settings } = this;
    const level = levels[settings.level];
    if (clsid === serverListClass) {
      const { program: progId } = settings;
      const own = { clsid: settings.clsid.toLowerCase(), progId, name: this.name, categories: [categories['DA 2']] };
      return { exporter, object: serverListObject(exporter, [own]), level };
    }
    if (clsid !== settings.clsid.toLowerCase()) throw new ComFailure(hresults.classUnknown);
    return { exporter, object: this.serverFor(exporter, caller), level };
  }

  /** A server as one client has it: it writes as the one who made it, and calls back as that account, which both sides know. */
  private serverFor(exporter: ObjectExporter, caller: Caller): DataAccessServerObject {
    const user = this.userOf(caller);
    const server: DataAccessServerObject = new DataAccessServerObject(
      {
        exporter,
        space: this.spaceFor(user?.mayWrite === true),
        vendor: 'Loyal Hinge gateway',
        version,
        state: () => 'running',
        leastUpdateRateMs: 100,
        hasItemIo: false,
        now: Date.now,
        back: {
          identity: {
            account: user ? { user: user.name, domain: '', password: passwordIn(user) } : null,
            level: user ? this.settings.level : 'none',
            workstation: computer,
          },
          localAddress: this.settings.address,
          timeoutMs: 3_000,
          mayDial: () => true,
        },
      },
      () => this.servers.delete(server),
    );
    this.servers.add(server);
    return server;
  }

  private userOf({ account }: Caller): User | undefined {
    return account === null ? undefined : this.users.get(account.user.toLowerCase());
  }

  private spaceFor(mayWrite: boolean): AddressSpace {
    return {
      isFlat: false,
      find: (itemId) => {
        const shown = this.byId.get(itemId);
        return shown ? this.itemOf(shown, mayWrite) : null;
      },
      all: () => [...this.byId.keys()],
      within: (path) => {
        const below = [...this.byId.values()].filter(
          ({ branch }) => branch.length >= path.length && path.every((name, index) => branch[index] === name),
        );
        if (path.length > 0 && below.length === 0) return null;
        return {
          branches: [...new Set(below.flatMap(({ branch }) => branch[path.length] ?? []))],
          items: below
            .filter(({ branch }) => branch.length === path.length)
            .map(({ name, itemId }) => ({ name, itemId })),
        };
      },
    };
  }

  private itemOf(shown: Shown, mayWrite: boolean): SpaceItem {
    const { itemId, type } = shown;
    return {
      itemId,
      type,
      canRead: true,
      canWrite: shown.isWritable && mayWrite,
      read: () => {
        const { now } = shown;
        const value = now ? classicOf(now.value, type) : null;
        return {
          value: value ?? emptyVariant,
          quality: now ? (value ? qualityOfStatus(now.status) : badQuality) : waitingQuality,
          timestamp: now?.sourceTime ?? Date.now(),
        };
      },
      write: async (value) => {
        const key = this.keys.get(itemId);
        if (key === undefined) return opcErrors.unknownItem;
        const { value: plain } = valueOfClassic(value, goodQuality, null);
        if (!classicOf(plain, type)) return opcErrors.badType;
        return classicCodeOf(await this.write(key, plain, builtInOf(type) ?? ''));
      },
    };
  }
}
