import { lookup } from 'node:dns/promises';
import { readFile } from 'node:fs/promises';
import { setTimeout as pause } from 'node:timers/promises';
import {
  arrayFlag,
  emptyVariant,
  itemRights,
  problemOf,
  usualGuid,
  variantTypeName,
  walkClassic,
} from '@loyal-hinge/classic';
import type {
  DataAccessGroup,
  DataChange,
  HeldServer,
  ItemValue,
  Observation,
  Problem,
  VariantType,
} from '@loyal-hinge/classic';
import { fitsPattern, mayFitBelow, sayCode } from '@loyal-hinge/core';
import type { SourceSettings } from '../gateway.js';
import { patternsIn } from '../patterns.js';
import { Redial } from '../redial.js';
import type { GatewaySource, SourceEars, SourceItem } from '../source.js';
import { builtInOf, classicOf, statusNameOf, valueOfClassic } from './values.js';

type Settings = Extract<SourceSettings, { kind: 'classic' }>;

const together = 1_000;
const mostItems = 50_000;
const mostDepth = 60;
/** A first call of the server is waited for so long, at least, before it is asked. */
const patienceMs = 2_500;
const patiencePeriods = 3;

interface Added {
  readonly path: string;
  /** By which its changes are told. */
  readonly clientHandle: number;
  /** By which the server has it. */
  readonly handle: number;
  readonly type: VariantType;
  readonly isArray: boolean;
  readonly isWritable: boolean;
}

/** What stands while the server is used. */
interface Standing {
  readonly group: DataAccessGroup;
  readonly byPath: ReadonlyMap<string, Added>;
  readonly byClient: ReadonlyMap<number, Added>;
  readonly watched: Map<number, Added>;
  readonly over: AbortController;
  /** Since it was last asked how it is. */
  wasCalled: boolean;
}

/** A classic server (Data Access) that is read through a group of its own, and dialled again whenever it is gone. */
export class ClassicSource implements GatewaySource {
  private ears: SourceEars | null = null;
  private standing: Standing | null = null;
  private readonly redial = new Redial(() => void this.dial());
  private readonly stopping = new AbortController();
  private walk: Promise<void> = Promise.resolve();
  /** Why the walk that is under way went no further. */
  private fault: string | null = null;
  private wasRefused = false;

  constructor(
    private readonly settings: Settings,
    /** Patterns of items that are looked for, or paths. */
    private readonly wanted: readonly string[],
  ) {}

  get name(): string {
    return this.settings.name;
  }

  start(ears: SourceEars): void {
    this.ears = ears;
    void this.dial();
  }

  async stop(): Promise<void> {
    this.ears = null;
    this.redial.stop();
    // What is held of the server is given back, unless it is silent.
    this.standing?.over.abort();
    const silent = setTimeout(() => this.stopping.abort(), this.standing ? patienceMs : 0);
    await this.walk.catch(() => undefined);
    clearTimeout(silent);
  }

  async watch(paths: readonly string[]): Promise<void> {
    const { standing } = this;
    if (!standing) return;
    const wanted = new Set(paths);
    for (const item of standing.byPath.values()) if (wanted.has(item.path)) standing.watched.set(item.handle, item);
    const others = [...standing.byPath.values()].filter(({ path }) => !wanted.has(path));
    for (let from = 0; from < others.length; from += together)
      await standing.group.remove(others.slice(from, from + together).map(({ handle }) => handle));
    await this.read(standing);
  }

  async write(path: string, value: unknown): Promise<string> {
    const { standing } = this;
    const item = standing?.byPath.get(path);
    if (!standing) return 'BadNoCommunication';
    if (!item) return 'BadNodeIdUnknown';
    if (!item.isWritable) return 'BadNotWritable';
    const variant = item.isArray ? null : classicOf(value, item.type);
    if (!variant) return 'BadTypeMismatch';
    try {
      const [code = 0] = await standing.group.write([item.handle], [variant]);
      return statusNameOf(code);
    } catch {
      return 'BadNoCommunication';
    }
  }

  private async dial(): Promise<void> {
    if (!this.ears) return;
    this.walk = this.walkOnce();
    const says = await this.walk.then(
      () => this.fault,
      (error: unknown) => (error instanceof Error ? error.message : String(error)),
    );
    this.standing = null;
    this.ears?.gone(says ?? 'The server ended the session.');
    if (this.ears) this.redial.later(this.wasRefused);
  }

  private async walkOnce(): Promise<void> {
    const { host, mapperPort, program, user, level, back, silenceMs } = this.settings;
    this.fault = null;
    this.wasRefused = false;
    const clsid = usualGuid(program);
    const password = user ? (await readFile(user.passwordFile, 'utf8')).trimEnd() : '';
    const named = /^([^\\]+)\\(.+)$/.exec(user?.name ?? '');
    await walkClassic(
      {
        host,
        mapperPort,
        identity: {
          account: user ? { user: named?.[2] ?? user.name, domain: named?.[1] ?? '', password } : null,
          level,
          workstation: 'GATEWAY',
        },
        server: clsid === null ? { progId: program } : { clsid },
        needs: { items: [], browse: false, read: false, watch: null },
        timeoutMs: silenceMs,
        signal: this.stopping.signal,
        resolve: async (name) => (await lookup(name, { all: true }).catch(() => [])).map(({ address }) => address),
        mayDial: () => true,
        ...(back ? { back: { hosts: back.hosts, ports: { resolver: 0, objects: back.port } } } : {}),
        use: (held) => this.use(held),
      },
      (observation) => {
        this.fault = faultIn(observation) ?? this.fault;
        if (observation.step === 'sign-in' && observation.problem && observation.problem.by !== 'way')
          this.wasRefused = true;
      },
    );
  }

  /** Uses the server until it is gone. */
  private async use(held: HeldServer): Promise<void> {
    const over = new AbortController();
    const group = await held.server.addGroup('', this.settings.publishingMs, true);
    try {
      const added = await addedTo(group, await this.find(held));
      const standing: Standing = {
        group,
        byPath: new Map(added.map((item) => [item.path, item])),
        byClient: new Map(added.map((item) => [item.clientHandle, item])),
        watched: new Map(),
        over,
        wasCalled: false,
      };
      this.standing = standing;
      const items = added.map(({ path, type, isArray }): SourceItem => ({
        path: path.split('/'),
        type: builtInOf(type),
        valueRank: isArray ? 1 : -1,
      }));
      await this.ears?.there(items);
      this.redial.wasThere();
      const unadvise = await this.listen(held, standing);
      void held.ended.then(() => this.end(standing, 'The server goes away.'));
      await this.beat(held, standing);
      await unadvise().catch(() => undefined);
    } finally {
      this.standing = null;
      await group.release().catch(() => undefined);
    }
  }

  /**
   * Asks the server for its time again and again: one that is silent is gone. Where it did not call meanwhile, its values are read: a
   * way back that was closed shows no other way.
   */
  private async beat(held: HeldServer, standing: Standing): Promise<void> {
    const { signal } = standing.over;
    while (!signal.aborted) {
      await pause(this.settings.silenceMs / 2, undefined, { signal }).catch(() => undefined);
      if (signal.aborted) return;
      await held.server.status().catch((error: unknown) => this.end(standing, problemWords(problemOf(error))));
      if (!standing.wasCalled && !signal.aborted) await this.read(standing);
      standing.wasCalled = false;
    }
  }

  private end(standing: Standing, says: string): void {
    this.fault ??= says;
    standing.over.abort();
  }

  /** Has changes told; where the server does not come back to us, it is asked at the same rate. */
  private async listen(held: HeldServer, standing: Standing): Promise<() => Promise<void>> {
    const { group, over } = standing;
    let asking: NodeJS.Timeout | undefined;
    const ask = (): void => {
      asking ??= setInterval(() => void this.read(standing), group.revisedUpdateRateMs).unref();
    };
    over.signal.addEventListener('abort', () => clearInterval(asking), { once: true });
    const waitMs = Math.max(patienceMs, patiencePeriods * group.revisedUpdateRateMs);
    const silence = setTimeout(() => {
      if (!standing.wasCalled && !over.signal.aborted) ask();
    }, waitMs).unref();
    try {
      return await held.watch(group, (change) => {
        standing.wasCalled = true;
        clearTimeout(silence);
        clearInterval(asking);
        this.called(standing, change);
      });
    } catch (error) {
      problemOf(error);
      ask();
      return () => Promise.resolve();
    }
  }

  private called({ byClient, watched }: Standing, change: DataChange): void {
    change.clientHandles.forEach((key, index) => {
      const item = byClient.get(key);
      if (!item || !watched.has(item.handle)) return;
      this.tell(item, {
        value: change.values[index] ?? emptyVariant,
        quality: change.qualities[index] ?? 0,
        timestamp: change.timestamps[index] ?? null,
        error: change.errors[index] ?? 0,
      });
    });
  }

  private async read(standing: Standing): Promise<void> {
    const items = [...standing.watched.values()];
    try {
      for (let from = 0; from < items.length && !standing.over.signal.aborted; from += together) {
        const some = items.slice(from, from + together);
        const values = await standing.group.read(
          some.map(({ handle }) => handle),
          'cache',
        );
        some.forEach((item, index) => {
          const value = values[index];
          if (value) this.tell(item, value);
        });
      }
    } catch {
      // Whether the server is gone shows where it is asked for its time.
    }
  }

  private tell({ path }: Added, { value, quality, timestamp, error }: ItemValue): void {
    if (error !== 0) return;
    this.ears?.changed(path, valueOfClassic(value, quality, timestamp));
  }

  /** Looks for items branch by branch, only where something can fit; of a flat server’s, points part the names. */
  private async find({ server }: HeldServer): Promise<readonly Found[]> {
    const patterns = patternsIn(this.wanted);
    const fits = (path: readonly string[]): boolean => patterns.some((pattern) => fitsPattern(pattern, path));
    if ((await server.nameSpace()) === 'flat')
      return (await server.allItems(mostItems)).flatMap((itemId) => {
        const path = itemId.split('.');
        return fits(path) ? [{ path, itemId }] : [];
      });
    const found: Found[] = [];
    const open: (readonly string[])[] = [[]];
    for (const path of open) {
      const { branches, items } = await server.browse(path);
      for (const { name, itemId } of items) if (fits([...path, name])) found.push({ path: [...path, name], itemId });
      if (found.length >= mostItems) break;
      for (const name of branches) {
        const below = [...path, name];
        if (below.length < mostDepth && patterns.some((pattern) => mayFitBelow(pattern, below))) open.push(below);
      }
    }
    return found;
  }
}

interface Found {
  readonly path: readonly string[];
  readonly itemId: string;
}

/** Adds items to a group; those that the server does not give are left out. */
async function addedTo(group: DataAccessGroup, found: readonly Found[]): Promise<readonly Added[]> {
  const all: Added[] = [];
  for (let from = 0; from < found.length; from += together) {
    const some = found.slice(from, from + together);
    const answers = await group.add(
      some.map(({ itemId }, index) => ({ itemId, clientHandle: from + index })),
      true,
    );
    answers.forEach((answer, index) => {
      const item = some[index];
      if (answer.error !== null || !item) return;
      all.push({
        path: item.path.join('/'),
        clientHandle: from + index,
        handle: answer.serverHandle,
        type: variantTypeName(answer.type & ~arrayFlag) as VariantType,
        isArray: (answer.type & arrayFlag) !== 0,
        isWritable: (answer.accessRights & itemRights.write) !== 0,
      });
    });
  }
  return all;
}

/** Why a walk went no further, as far as this observation tells; null: it tells of no fault. */
function faultIn(observation: Observation): string | null {
  if (observation.step === 'name') return observation.addresses.length > 0 ? null : 'Its name leads to no address.';
  if (observation.step === 'reach') {
    const tried = observation.tried.at(-1);
    return tried?.outcome === 'open' ? null : `Its mapper can’t be reached${tried ? `: ${tried.outcome}` : ''}.`;
  }
  const problem = 'problem' in observation ? observation.problem : null;
  return problem ? `It stopped at ${observation.step}: ${problemWords(problem)}` : null;
}

const problemWords = (problem: Problem): string => (problem.by === 'way' ? problem.says : `${sayCode(problem.code)}.`);
