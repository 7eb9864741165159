import { variantTypes } from '../automation/variant.js';
import { ComFailure, hresults } from '../dcom/interfaces.js';
import { carryOut, comInterface } from '../dcom/objects.js';
import type { ComInterface, ComObject } from '../dcom/objects.js';
import { opcErrorWords, opcErrors } from './errors.js';
import { rightsOf, sampleOf, someFailed } from './address-space.js';
import type { DataAccessServing } from './address-space.js';
import { DataAccessGroupObject } from './server-group.js';
import {
  browse2,
  browseKinds,
  common,
  directions,
  itemIo,
  nameSpaces,
  opcIids,
  server,
  serverStates,
  shutdown,
} from './interfaces.js';
import { propertiesOf } from './item-properties.js';
import { Sinks, pointsOf, stringEnumerator } from './server-parts.js';

const mostGroups = 200;
const localeEnglish = 0x0409;

/** A server of Data Access as one client has it: with groups, and a place in the items, of its own. */
export class DataAccessServerObject implements ComObject {
  readonly interfaces: readonly ComInterface[];
  private readonly groups = new Map<number, DataAccessGroupObject>();
  private readonly shutdowns: Sinks;
  private readonly startTime: number;
  private path: readonly string[] = [];
  private lastHandle = 0;

  constructor(
    private readonly serving: DataAccessServing,
    private readonly over: () => void = () => undefined,
  ) {
    this.startTime = serving.now();
    this.shutdowns = new Sinks(opcIids.shutdown, serving.back);
    this.interfaces = [
      this.main(),
      this.browsing(),
      this.shared(),
      propertiesOf(serving.space),
      pointsOf(serving.exporter, new Map([[opcIids.shutdown, this.shutdowns]])),
      ...(serving.hasItemIo ? [this.itemIo()] : []),
    ];
  }

  get groupCount(): number {
    return this.groups.size;
  }

  /** Tells clients that they should let go. */
  async sayEnd(reason: string): Promise<void> {
    await Promise.allSettled(this.shutdowns.all.map(({ object }) => object.call(shutdown.shutdownRequest, { reason })));
  }

  /** Nobody holds it any more: its groups go with it. */
  letGo(): void {
    for (const handle of [...this.groups.keys()]) this.remove(handle);
    this.shutdowns.end();
    this.over();
  }

  private main(): ComInterface {
    const { exporter } = this.serving;
    return comInterface(
      opcIids.server,
      carryOut(
        server.addGroup,
        ({ name, isActive, updateRateMs, clientHandle, iid }) => {
          const group = this.add(name, isActive, updateRateMs, clientHandle);
          const { serverHandle, updateRateMs: revised } = group;
          return { serverHandle, revisedUpdateRateMs: revised, group: exporter.marshal(group, iid) };
        },
        // Whether the rate is another one shows in the revised rate; that it was changed is a success of its own.
        () => hresults.ok,
      ),
      carryOut(server.getErrorString, ({ error }) => {
        const text = opcErrorWords[error];
        if (text === undefined) throw new ComFailure(hresults.invalidArgument);
        return { text };
      }),
      carryOut(server.getGroupByName, ({ name, iid }) => {
        const group = [...this.groups.values()].find((one) => one.name === name);
        if (!group) throw new ComFailure(hresults.invalidArgument);
        return { group: exporter.marshal(group, iid) };
      }),
      carryOut(server.getStatus, () => ({ status: this.status() })),
      carryOut(server.removeGroup, ({ serverHandle }) => {
        if (!this.remove(serverHandle)) throw new ComFailure(opcErrors.invalidHandle);
        return {};
      }),
      carryOut(server.createGroupEnumerator, () => {
        throw new ComFailure(hresults.notImplemented);
      }),
    );
  }

  private status() {
    const { vendor, version, state, now } = this.serving;
    const updates = [...this.groups.values()].flatMap(({ lastUpdateTime }) => lastUpdateTime ?? []);
    return {
      startTime: this.startTime,
      currentTime: now(),
      lastUpdateTime: updates.length > 0 ? Math.max(...updates) : null,
      state: serverStates.indexOf(state()) + 1,
      groupCount: this.groups.size,
      bandwidth: 0xffffffff,
      ...version,
      reserved: 0,
      vendor,
    };
  }

  private add(name: string, isActive: boolean, updateRateMs: number, clientHandle: number): DataAccessGroupObject {
    if (this.groups.size >= mostGroups) throw new ComFailure(hresults.unexpected);
    const serverHandle = ++this.lastHandle;
    const own = name === '' ? `group ${serverHandle}` : name;
    if ([...this.groups.values()].some((group) => group.name === own)) throw new ComFailure(opcErrors.duplicateName);
    const group = new DataAccessGroupObject(this.serving, {
      name: own,
      serverHandle,
      clientHandle,
      isActive,
      updateRateMs,
    });
    this.groups.set(serverHandle, group);
    return group;
  }

  private remove(serverHandle: number): boolean {
    const group = this.groups.get(serverHandle);
    if (!group) return false;
    this.groups.delete(serverHandle);
    group.end();
    this.serving.exporter.revoke(group);
    return true;
  }

  private browsing(): ComInterface {
    const { space, exporter } = this.serving;
    return comInterface(
      opcIids.browse2,
      carryOut(browse2.queryOrganization, () => ({
        nameSpace: space.isFlat ? nameSpaces.flat : nameSpaces.hierarchical,
      })),
      carryOut(browse2.changeBrowsePosition, ({ direction, to }) => {
        this.path = this.moved(direction, to);
        return {};
      }),
      carryOut(browse2.browseItemIds, ({ kind, filter, type, accessRights }) => {
        const names = this.named(kind).filter(
          ({ name, itemId }) => fits(name, filter) && this.isOf(itemId, type, accessRights),
        );
        return { enumerator: exporter.marshal(stringEnumerator(names.map(({ name }) => name)), opcIids.enumString) };
      }),
      carryOut(browse2.getItemId, ({ name }) => {
        const found =
          space.within(this.path)?.items.find((item) => item.name === name)?.itemId ?? (space.find(name) ? name : null);
        if (found === null) throw new ComFailure(opcErrors.unknownItem);
        return { itemId: found };
      }),
      carryOut(browse2.browseAccessPaths, () => {
        throw new ComFailure(hresults.notImplemented);
      }),
    );
  }

  private moved(direction: number, to: string): readonly string[] {
    const { space } = this.serving;
    if (space.isFlat) throw new ComFailure(hresults.fail);
    if (direction === directions.up) {
      if (this.path.length === 0) throw new ComFailure(hresults.fail);
      return this.path.slice(0, -1);
    }
    const path = direction === directions.to ? (to === '' ? [] : to.split('.')) : [...this.path, to];
    if (!space.within(path)) throw new ComFailure(hresults.invalidArgument);
    return path;
  }

  private named(kind: number): readonly { readonly name: string; readonly itemId: string | null }[] {
    const { space } = this.serving;
    if (kind === browseKinds.flat || (space.isFlat && kind === browseKinds.leaf))
      return space.all().map((itemId) => ({ name: itemId, itemId }));
    const here = space.within(this.path);
    // In one list, there is no branch.
    if (kind === browseKinds.branch && space.isFlat) return [];
    if (kind === browseKinds.branch) return (here?.branches ?? []).map((name) => ({ name, itemId: null }));
    if (kind === browseKinds.leaf) return here?.items ?? [];
    throw new ComFailure(hresults.invalidArgument);
  }

  private isOf(itemId: string | null, type: number, accessRights: number): boolean {
    if (itemId === null || (type === 0 && accessRights === 0)) return true;
    const item = this.serving.space.find(itemId);
    const rights = item ? rightsOf(item) : 0;
    return (
      item !== null &&
      (type === 0 || variantTypes[item.type] === type) &&
      (accessRights === 0 || (rights & accessRights) !== 0)
    );
  }

  private shared(): ComInterface {
    return comInterface(
      opcIids.common,
      carryOut(common.setLocale, ({ locale }) => {
        if (locale !== localeEnglish && locale !== 0) throw new ComFailure(hresults.invalidArgument);
        return {};
      }),
      carryOut(common.getLocale, () => ({ locale: localeEnglish })),
      carryOut(common.availableLocales, () => ({ count: 1, locales: [localeEnglish] })),
      carryOut(common.getErrorString, ({ error }) => {
        const text = opcErrorWords[error];
        if (text === undefined) throw new ComFailure(hresults.invalidArgument);
        return { text };
      }),
      carryOut(common.setClientName, () => ({})),
    );
  }

  private itemIo(): ComInterface {
    const { space } = this.serving;
    return comInterface(
      opcIids.itemIo,
      carryOut(
        itemIo.read,
        ({ itemIds }) => {
          const samples = itemIds.map((itemId) => sampleOf(itemId === null ? null : space.find(itemId)));
          return {
            values: samples.map(({ sample }) => sample?.value ?? { type: 'empty' as const, value: null }),
            qualities: samples.map(({ sample }) => sample?.quality ?? 0),
            timestamps: samples.map(({ sample }) => sample?.timestamp ?? null),
            errors: samples.map(({ error }) => error),
          };
        },
        ({ errors }) => someFailed(errors),
      ),
      carryOut(
        itemIo.write,
        async ({ itemIds, values }) => ({
          errors: await Promise.all(
            itemIds.map((itemId, index) => {
              const item = itemId === null ? null : space.find(itemId);
              const value = values[index]?.value;
              if (!item || !value) return opcErrors.unknownItem;
              return item.canWrite ? item.write(value) : opcErrors.badRights;
            }),
          ),
        }),
        ({ errors }) => someFailed(errors),
      ),
    );
  }
}

/** Whether a name fits a filter of `*` and `?`; an empty one fits all. */
function fits(name: string, filter: string): boolean {
  if (filter === '' || filter === '*') return true;
  const pattern = filter
    .replace(/[.+^${}()|[\]\\]/g, '\\$&')
    .replace(/\*+/g, '.*')
    .replace(/\?/g, '.');
  return new RegExp(`^${pattern}$`, 'iu').test(name);
}
