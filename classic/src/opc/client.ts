import { emptyVariant } from '../automation/variant.js';
import type { Variant } from '../automation/variant.js';
import type { ComClient, RemoteObject } from '../dcom/client.js';
import { ComFailure, hasFailed, hresults } from '../dcom/interfaces.js';
import type { Guid } from '../octets/guid.js';
import { RpcProblem } from '../rpc/problems.js';
import {
  browse2,
  browseKinds,
  categories,
  common,
  connectionPoint,
  connectionPoints,
  directions,
  enumGuid,
  enumString,
  groupState,
  itemIo,
  itemManagement,
  nameSpaces,
  opcIids,
  server,
  serverList,
  serverListClass,
  serverStates,
  sources,
  syncIo,
} from './interfaces.js';
import type { Category, ServerState } from './interfaces.js';
import { readProperties } from './item-properties.js';
import type { ItemProperty } from './item-properties.js';

/** What a server says of itself. Times in milliseconds since 1970. */
export interface ServerStatus {
  readonly state: ServerState | null;
  readonly vendor: string;
  readonly version: string;
  readonly startTime: number | null;
  readonly currentTime: number | null;
  readonly lastUpdateTime: number | null;
  readonly groupCount: number;
}

/** An item in a group, or why it could not be added. */
export type AddedItem =
  | {
      readonly itemId: string;
      readonly error: null;
      readonly serverHandle: number;
      readonly type: number;
      readonly accessRights: number;
    }
  | { readonly itemId: string; readonly error: number };

/** A value as it was read. */
export interface ItemValue {
  readonly error: number;
  readonly value: Variant;
  readonly quality: number;
  readonly timestamp: number | null;
}
const noValue = (error: number): ItemValue => ({ error, value: emptyVariant, quality: 0, timestamp: null });

const mostAtOnce = 1000;
/** What an enumerator gives at most, so that one that never ends is left. */
const mostEnumerated = 100_000;
export const itemRights = { read: 1, write: 2 } as const;

/** A server of OPC Data Access, in use. */
export class DataAccessServer {
  private constructor(
    private readonly com: ComClient,
    private readonly server: RemoteObject,
  ) {}

  /** @param object the server’s IOPCServer */
  static of(com: ComClient, object: RemoteObject): DataAccessServer {
    return new DataAccessServer(com, object);
  }

  async status(): Promise<ServerStatus> {
    const { status } = await this.server.call(server.getStatus, {});
    if (!status) throw new RpcProblem('malformed', 'The server says nothing of its state.');
    const { state, vendor, major, minor, build, ...rest } = status;
    return {
      state: serverStates[state - 1] ?? null,
      vendor: vendor ?? '',
      version: `${major}.${minor}.${build}`,
      startTime: rest.startTime,
      currentTime: rest.currentTime,
      lastUpdateTime: rest.lastUpdateTime,
      groupCount: rest.groupCount,
    };
  }

  /** Tells the server who is there: nothing depends on it. */
  async nameClient(name: string): Promise<void> {
    const object = await this.server.query(opcIids.common);
    await object.call(common.setClientName, { name });
    await object.release();
  }

  async addGroup(name: string, updateRateMs: number, isActive: boolean): Promise<DataAccessGroup> {
    const answer = await this.server.call(server.addGroup, {
      name,
      isActive,
      updateRateMs,
      clientHandle: 1,
      timeBias: null,
      deadband: null,
      locale: 0,
      iid: opcIids.itemManagement,
    });
    if (!answer.group) throw new RpcProblem('malformed', 'The server says that there is a group, and not where.');
    const object = await this.com.unmarshal(answer.group);
    return new DataAccessGroup(this, this.com, object, answer.serverHandle, answer.revisedUpdateRateMs);
  }

  async removeGroup(serverHandle: number): Promise<void> {
    await this.server.call(server.removeGroup, { serverHandle, force: false });
  }

  /** Whether items lie in branches, or all in one list. */
  async nameSpace(): Promise<'hierarchical' | 'flat'> {
    const { nameSpace } = await (await this.browser()).call(browse2.queryOrganization, {});
    return nameSpace === nameSpaces.flat ? 'flat' : 'hierarchical';
  }

  /**
   * What lies in a branch. Moves the session’s place in the server’s items, so that browsing goes one at a time.
   * @param path branches from the top
   */
  async browse(path: readonly string[]): Promise<{
    readonly branches: readonly string[];
    readonly items: readonly { readonly name: string; readonly itemId: string }[];
  }> {
    const object = await this.browser();
    await this.goTo(object, path);
    const branches = await this.names(object, browseKinds.branch);
    const names = await this.names(object, browseKinds.leaf);
    const items: { readonly name: string; readonly itemId: string }[] = [];
    for (const name of names) {
      const { itemId } = await object.call(browse2.getItemId, { name });
      items.push({ name, itemId: itemId ?? name });
    }
    return { branches, items };
  }

  /** All items from a place downwards, by their full names, up to a number. */
  async allItems(most: number): Promise<readonly string[]> {
    const object = await this.browser();
    await this.goTo(object, []).catch(() => undefined);
    return this.names(object, browseKinds.flat, most);
  }

  /** Values by their names, without a group: Data Access 3 alone. */
  async readItems(itemIds: readonly string[], maxAgeMs: number): Promise<readonly ItemValue[]> {
    const object = await this.server.query(opcIids.itemIo);
    const answer = await object.call(itemIo.read, {
      count: itemIds.length,
      itemIds,
      maxAges: itemIds.map(() => maxAgeMs),
    });
    await object.release();
    return itemIds.map((_, index) => ({
      error: answer.errors?.[index] ?? hresults.fail,
      value: answer.values?.[index] ?? emptyVariant,
      quality: answer.qualities?.[index] ?? 0,
      timestamp: answer.timestamps?.[index] ?? null,
    }));
  }

  /** What the server tells of an item beside its value; empty where it tells nothing. @throws {ComFailure} where there is no such item */
  async properties(itemId: string): Promise<readonly ItemProperty[]> {
    const object = await this.server.query(opcIids.itemProperties).catch((error: unknown) => {
      if (error instanceof ComFailure) return null;
      throw error;
    });
    if (!object) return [];
    try {
      return await readProperties(object, itemId);
    } finally {
      await object.release();
    }
  }

  /**
   * Has the server tell an object of ours when it goes away.
   * @param sink the octets of a reference to it
   */
  async adviseOfEnd(sink: Uint8Array): Promise<void> {
    await advised(this.com, await this.server.query(opcIids.connectionPoints), opcIids.shutdown, sink);
  }

  /** What the server says that a code means; null: it says nothing. */
  async errorText(error: number): Promise<string | null> {
    try {
      return (await this.server.call(server.getErrorString, { error, locale: 0 })).text;
    } catch (failed) {
      if (failed instanceof ComFailure) return null;
      throw failed;
    }
  }

  /** Gives the server back. Groups that were added are removed before, by whoever added them. */
  async release(): Promise<void> {
    await this.browsing?.then((object) => object.release()).catch(() => undefined);
    await this.server.release();
  }

  private browsing: Promise<RemoteObject> | null = null;
  private browser(): Promise<RemoteObject> {
    this.browsing ??= this.server.query(opcIids.browse2);
    return this.browsing;
  }

  /** Goes to a branch: from the top where the server can (Data Access 2), else step by step. */
  private async goTo(object: RemoteObject, path: readonly string[]): Promise<void> {
    try {
      await object.call(browse2.changeBrowsePosition, { direction: directions.to, to: '' });
    } catch (error) {
      if (!(error instanceof ComFailure)) throw error;
      if ((await this.nameSpace()) === 'flat') return;
      for (let up = 0; up < 64; up += 1) {
        const isUp = await object.call(browse2.changeBrowsePosition, { direction: directions.up, to: '' }).then(
          () => true,
          (failed: unknown) => {
            if (failed instanceof ComFailure) return false;
            throw failed;
          },
        );
        if (!isUp) break;
      }
    }
    for (const to of path) await object.call(browse2.changeBrowsePosition, { direction: directions.down, to });
  }

  private async names(object: RemoteObject, kind: number, most = mostEnumerated): Promise<readonly string[]> {
    const { enumerator, hresult } = await object.call(browse2.browseItemIds, {
      kind,
      filter: '',
      type: 0,
      accessRights: 0,
    });
    // S_FALSE: there are none.
    if (!enumerator || (hresult === hresults.false && enumerator.length === 0)) return [];
    const names = await this.com.unmarshal(enumerator);
    const found: string[] = [];
    for (;;) {
      const { found: some, hresult: more } = await names.call(enumString.next, { count: mostAtOnce });
      for (const name of some.part) if (name !== null) found.push(name);
      if (more !== hresults.ok || some.part.length === 0 || found.length >= most) break;
    }
    await names.release();
    return found.slice(0, most);
  }
}

/** A group of a server: its items are read together, and their changes are told together. */
export class DataAccessGroup {
  private readonly parts = new Map<Guid, Promise<RemoteObject>>();

  constructor(
    private readonly server: DataAccessServer,
    private readonly com: ComClient,
    private readonly object: RemoteObject,
    private readonly serverHandle: number,
    readonly revisedUpdateRateMs: number,
  ) {}

  /** @param items each with the handle by which its changes are told */
  async add(
    items: readonly { readonly itemId: string; readonly clientHandle: number }[],
    isActive: boolean,
  ): Promise<readonly AddedItem[]> {
    const definitions = items.map(({ itemId, clientHandle }) => ({
      accessPath: '',
      itemId,
      isActive,
      clientHandle,
      blobSize: 0,
      blob: null,
      type: 0,
      reserved: 0,
    }));
    const { results, errors } = await this.object.call(itemManagement.addItems, {
      count: items.length,
      items: definitions,
    });
    return items.map(({ itemId }, index) => {
      const error = errors?.[index] ?? hresults.fail;
      const result = results?.[index];
      if (hasFailed(error) || !result) return { itemId, error };
      const { serverHandle, type, accessRights } = result;
      return { itemId, error: null, serverHandle, type, accessRights };
    });
  }

  async remove(serverHandles: readonly number[]): Promise<void> {
    await this.object.call(itemManagement.removeItems, { count: serverHandles.length, serverHandles });
  }

  async read(serverHandles: readonly number[], source: keyof typeof sources): Promise<readonly ItemValue[]> {
    const object = await this.part(opcIids.syncIo);
    const { values, errors } = await object.call(syncIo.read, {
      source: sources[source],
      count: serverHandles.length,
      serverHandles,
    });
    return serverHandles.map((_, index) => {
      const error = errors?.[index] ?? hresults.fail;
      const found = values?.[index];
      return found && !hasFailed(error) ? { error, ...found } : noValue(error);
    });
  }

  /** @returns a code for each */
  async write(serverHandles: readonly number[], values: readonly Variant[]): Promise<readonly number[]> {
    const object = await this.part(opcIids.syncIo);
    const { errors } = await object.call(syncIo.write, { count: serverHandles.length, serverHandles, values });
    return serverHandles.map((_, index) => errors?.[index] ?? hresults.fail);
  }

  /** Sets it going or lets it rest, at a rate. @returns the rate that the server keeps */
  async setState(updateRateMs: number, isActive: boolean): Promise<number> {
    const object = await this.part(opcIids.groupState);
    const nothing = { timeBias: null, deadband: null, locale: null, clientHandle: null };
    return (await object.call(groupState.setState, { ...nothing, updateRateMs, isActive })).revisedUpdateRateMs;
  }

  /**
   * Has changes told to an object of ours.
   * @param sink the octets of a reference to it
   * @returns by which the telling is ended
   */
  async advise(sink: Uint8Array): Promise<() => Promise<void>> {
    return advised(this.com, await this.part(opcIids.connectionPoints), opcIids.dataCallback, sink);
  }

  /** Removes the group and gives back what was held of it. */
  async release(): Promise<void> {
    for (const part of this.parts.values()) await part.then((object) => object.release()).catch(() => undefined);
    await this.object.release();
    await this.server.removeGroup(this.serverHandle);
  }

  private part(iid: Guid): Promise<RemoteObject> {
    const known = this.parts.get(iid) ?? this.object.query(iid);
    this.parts.set(iid, known);
    return known;
  }
}

/** Leaves an object of ours at one of the places where a server has objects to call back. @returns by which it is taken away */
async function advised(com: ComClient, container: RemoteObject, iid: Guid, sink: Uint8Array) {
  const { point } = await container.call(connectionPoints.find, { iid });
  if (!point) throw new ComFailure(hresults.noInterface);
  const object = await com.unmarshal(point);
  const { cookie } = await object.call(connectionPoint.advise, { sink });
  return async (): Promise<void> => {
    await object.call(connectionPoint.unadvise, { cookie });
    await object.release();
  };
}

/** A server as its machine’s list has it. */
export interface ListedServer {
  readonly clsid: Guid;
  readonly progId: string;
  readonly name: string;
  readonly categories: readonly Category[];
}

/** A machine’s list of OPC servers (OPC Common 6). It is a server of its own, with permissions of its own. */
export class ServerList {
  private constructor(
    private readonly com: ComClient,
    private readonly list: RemoteObject,
  ) {}

  /** @throws {ComFailure} where it is not there, or may not be launched */
  static async open(com: ComClient): Promise<ServerList> {
    const made = await com.make(serverListClass, [opcIids.serverList]);
    return new ServerList(com, await com.objectOf(made, opcIids.serverList));
  }

  /** @throws {ComFailure} 0x800401f3 where there is no such program */
  async classOf(progId: string): Promise<Guid> {
    return (await this.list.call(serverList.clsidFromProgId, { progId })).clsid;
  }

  /** All servers of the categories that are known here. */
  async servers(most = 500): Promise<readonly ListedServer[]> {
    const found = new Map<Guid, Category[]>();
    for (const category of Object.keys(categories) as Category[])
      for (const clsid of await this.classesOf(category)) found.set(clsid, [...(found.get(clsid) ?? []), category]);
    const servers: ListedServer[] = [];
    for (const [clsid, listed] of [...found].slice(0, most)) {
      const { progId, userType } = await this.list.call(serverList.classDetails, { clsid });
      servers.push({ clsid, progId: progId ?? '', name: userType ?? '', categories: listed });
    }
    return servers.sort((left, right) => left.progId.localeCompare(right.progId, 'en'));
  }

  release(): Promise<void> {
    return this.list.release();
  }

  private async classesOf(category: Category): Promise<readonly Guid[]> {
    const wanted = { implementedCount: 1, implemented: [categories[category]], requiredCount: 0, required: [] };
    const { enumerator } = await this.list.call(serverList.classesOfCategories, wanted);
    if (!enumerator) return [];
    const classes = await this.com.unmarshal(enumerator);
    const found: Guid[] = [];
    for (;;) {
      const { found: some, hresult } = await classes.call(enumGuid.next, { count: 100 });
      found.push(...some.part);
      if (hresult !== hresults.ok || some.part.length === 0 || found.length > mostAtOnce) break;
    }
    await classes.release();
    return found;
  }
}
