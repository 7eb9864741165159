import { variantTypes } from '../automation/variant.js';
import type { Variant } from '../automation/variant.js';
import { ComFailure, hresults } from '../dcom/interfaces.js';
import { carryOut, comInterface } from '../dcom/objects.js';
import type { ComInterface, ComObject } from '../dcom/objects.js';
import { opcErrors } from './errors.js';
import { asyncIo2, dataCallback, groupState, itemManagement, opcIids, syncIo } from './interfaces.js';
import type { DataChange, ItemDefinition } from './interfaces.js';
import { rightsOf, sampleOf, someFailed } from './address-space.js';
import type { DataAccessServing, Sample, SpaceItem } from './address-space.js';
import { Sinks, pointsOf } from './server-parts.js';
import type { Sink } from './server-parts.js';

interface GroupItem {
  readonly item: SpaceItem;
  clientHandle: number;
  isActive: boolean;
  /** What was told last; null: nothing yet. */
  told: Sample | null;
}

interface Beginning {
  readonly name: string;
  readonly serverHandle: number;
  readonly clientHandle: number;
  readonly isActive: boolean;
  readonly updateRateMs: number;
}

const mostItems = 20_000;
const slowestMs = 24 * 3_600_000;
const nothing: Variant = { type: 'empty', value: null };

/** A group as a client has added it: reads and writes its items together, and tells what has changed at its rate. */
export class DataAccessGroupObject implements ComObject {
  readonly interfaces: readonly ComInterface[];
  readonly serverHandle: number;
  readonly sinks: Sinks;
  name: string;
  updateRateMs: number;
  lastUpdateTime: number | null = null;
  private clientHandle: number;
  private isActive: boolean;
  private isEnabled = true;
  private readonly items = new Map<number, GroupItem>();
  private lastHandle = 0;
  private timer: NodeJS.Timeout | undefined;
  private isTelling = false;

  constructor(
    private readonly serving: DataAccessServing,
    { name, serverHandle, clientHandle, isActive, updateRateMs }: Beginning,
  ) {
    this.name = name;
    this.serverHandle = serverHandle;
    this.clientHandle = clientHandle;
    this.isActive = isActive;
    this.updateRateMs = this.revised(updateRateMs);
    this.sinks = new Sinks(opcIids.dataCallback, serving.back, () => {
      // Whoever comes hears all values first.
      for (const item of this.items.values()) item.told = null;
    });
    this.interfaces = [
      this.itemManagement(),
      this.state(),
      this.syncIo(),
      this.asyncIo(),
      pointsOf(serving.exporter, new Map([[opcIids.dataCallback, this.sinks]])),
    ];
    this.restart();
  }

  end(): void {
    clearInterval(this.timer);
    this.sinks.end();
  }

  private revised(asked: number): number {
    return Math.min(Math.max(asked, this.serving.leastUpdateRateMs), slowestMs);
  }

  private restart(): void {
    clearInterval(this.timer);
    this.timer = setInterval(() => void this.update(), this.updateRateMs).unref();
  }

  private itemManagement(): ComInterface {
    const perHandle = (serverHandles: readonly number[], work: (item: GroupItem, index: number) => number) => ({
      errors: serverHandles.map((handle, index) => {
        const item = this.items.get(handle);
        return item ? work(item, index) : opcErrors.invalidHandle;
      }),
    });
    const code = ({ errors }: { readonly errors: readonly number[] | null }) => someFailed(errors);
    return comInterface(
      opcIids.itemManagement,
      carryOut(itemManagement.addItems, ({ items }) => this.added(items, true), code),
      carryOut(itemManagement.validateItems, ({ items }) => this.added(items, false), code),
      carryOut(
        itemManagement.removeItems,
        ({ serverHandles }) => ({
          errors: serverHandles.map((handle) => (this.items.delete(handle) ? 0 : opcErrors.invalidHandle)),
        }),
        code,
      ),
      carryOut(
        itemManagement.setActiveState,
        ({ serverHandles, isActive }) =>
          perHandle(serverHandles, (item) => {
            item.isActive = isActive;
            item.told = null;
            return 0;
          }),
        code,
      ),
      carryOut(
        itemManagement.setClientHandles,
        ({ serverHandles, clientHandles }) =>
          perHandle(serverHandles, (item, index) => {
            item.clientHandle = clientHandles[index] ?? 0;
            return 0;
          }),
        code,
      ),
      // Values are told in their own types; others are not made of them.
      carryOut(
        itemManagement.setDatatypes,
        ({ serverHandles, types }) => perHandle(serverHandles, ({ item }, index) => typeError(item, types[index] ?? 0)),
        code,
      ),
    );
  }

  private added(definitions: readonly ItemDefinition[], keeps: boolean) {
    const results = definitions.map((definition) => {
      const item = definition.itemId ? this.serving.space.find(definition.itemId) : null;
      const error = this.errorOf(definition, item);
      if (!item || error !== 0) return { error, serverHandle: 0, type: 0, accessRights: 0 };
      const serverHandle = keeps ? ++this.lastHandle : 0;
      if (keeps)
        this.items.set(serverHandle, {
          item,
          clientHandle: definition.clientHandle,
          isActive: definition.isActive,
          told: null,
        });
      return { error, serverHandle, type: variantTypes[item.type], accessRights: rightsOf(item) };
    });
    return {
      results: results.map(({ serverHandle, type, accessRights }) => ({
        serverHandle,
        type,
        accessRights,
        reserved: 0,
        blobSize: 0,
        blob: null,
      })),
      errors: results.map(({ error }) => error),
    };
  }

  private errorOf({ itemId, accessPath, type }: ItemDefinition, item: SpaceItem | null): number {
    if (!itemId) return opcErrors.invalidItem;
    if (accessPath) return opcErrors.unknownPath;
    if (!item) return opcErrors.unknownItem;
    if (this.items.size >= mostItems) return hresults.unexpected;
    return typeError(item, type);
  }

  private state(): ComInterface {
    return comInterface(
      opcIids.groupState,
      carryOut(groupState.getState, () => ({
        updateRateMs: this.updateRateMs,
        isActive: this.isActive,
        name: this.name,
        timeBias: 0,
        deadband: 0,
        locale: 0,
        clientHandle: this.clientHandle,
        serverHandle: this.serverHandle,
      })),
      carryOut(groupState.setState, ({ updateRateMs, isActive, clientHandle }) => {
        if (updateRateMs !== null) this.updateRateMs = this.revised(updateRateMs);
        if (clientHandle !== null) this.clientHandle = clientHandle;
        if (isActive !== null) this.setActive(isActive);
        if (updateRateMs !== null) this.restart();
        return { revisedUpdateRateMs: this.updateRateMs };
      }),
      carryOut(groupState.setName, ({ name }) => {
        this.name = name;
        return {};
      }),
      carryOut(groupState.cloneGroup, () => {
        throw new ComFailure(hresults.notImplemented);
      }),
    );
  }

  private setActive(isActive: boolean): void {
    if (isActive && !this.isActive) for (const item of this.items.values()) item.told = null;
    this.isActive = isActive;
  }

  private syncIo(): ComInterface {
    return comInterface(
      opcIids.syncIo,
      carryOut(
        syncIo.read,
        ({ serverHandles }) => {
          const read = serverHandles.map((handle) => {
            const found = this.items.get(handle);
            if (!found) return { clientHandle: 0, sample: null, error: opcErrors.invalidHandle };
            return { clientHandle: found.clientHandle, ...sampleOf(found.item) };
          });
          return {
            values: read.map(({ clientHandle, sample }) => ({
              clientHandle,
              timestamp: sample?.timestamp ?? null,
              quality: sample?.quality ?? 0,
              reserved: 0,
              value: sample?.value ?? nothing,
            })),
            errors: read.map(({ error }) => error),
          };
        },
        ({ errors }) => someFailed(errors),
      ),
      carryOut(
        syncIo.write,
        async ({ serverHandles, values }) => ({
          errors: await Promise.all(
            serverHandles.map((handle, index) => {
              const found = this.items.get(handle);
              const value = values[index];
              if (!found || !value) return opcErrors.invalidHandle;
              return found.item.canWrite ? found.item.write(value) : opcErrors.badRights;
            }),
          ),
        }),
        ({ errors }) => someFailed(errors),
      ),
    );
  }

  private asyncIo(): ComInterface {
    return comInterface(
      opcIids.asyncIo2,
      carryOut(asyncIo2.refresh, ({ transaction }) => {
        const items = [...this.items.values()].filter(({ isActive }) => isActive);
        if (!this.isActive || items.length === 0 || this.sinks.all.length === 0) throw new ComFailure(hresults.fail);
        void this.tell(items, transaction);
        return { cancel: 1 };
      }),
      carryOut(asyncIo2.cancel, () => {
        throw new ComFailure(hresults.fail);
      }),
      carryOut(asyncIo2.setEnable, ({ isEnabled }) => {
        this.isEnabled = isEnabled;
        return {};
      }),
      carryOut(asyncIo2.getEnable, () => ({ isEnabled: this.isEnabled })),
    );
  }

  /** Tells what has changed since it was told last. Nothing is told while what was before is still under way. */
  private async update(): Promise<void> {
    if (!this.isActive || !this.isEnabled || this.isTelling || this.sinks.all.length === 0) return;
    const changed = [...this.items.values()].filter(
      ({ item, isActive, told }) => isActive && item.canRead && !same(told, item.read()),
    );
    if (changed.length === 0) return;
    this.isTelling = true;
    await this.tell(changed, 0);
    this.isTelling = false;
  }

  private async tell(items: readonly GroupItem[], transaction: number): Promise<void> {
    const samples = items.map((item) => (item.told = item.item.read()));
    this.lastUpdateTime = this.serving.now();
    const change: DataChange = {
      transaction,
      group: this.clientHandle,
      masterQuality: samples.every(({ quality }) => (quality & 0xc0) === 0xc0) ? hresults.ok : hresults.false,
      masterError: hresults.ok,
      count: items.length,
      clientHandles: items.map(({ clientHandle }) => clientHandle),
      values: samples.map(({ value }) => value),
      qualities: samples.map(({ quality }) => quality),
      timestamps: samples.map(({ timestamp }) => timestamp),
      errors: samples.map(() => 0),
    };
    await Promise.all(this.sinks.all.map((sink) => this.tellOne(sink, change)));
  }

  private async tellOne(sink: Sink, change: DataChange): Promise<void> {
    try {
      await sink.object.call(dataCallback.onDataChange, change);
    } catch (error) {
      // One that answers by a code is there all the same.
      if (!(error instanceof ComFailure)) this.sinks.lose(sink);
    }
  }
}

const typeError = (item: SpaceItem, type: number): number =>
  type === 0 || type === variantTypes[item.type] ? 0 : opcErrors.badType;

const same = (told: Sample | null, now: Sample): boolean =>
  told !== null && told.quality === now.quality && equal(told.value, now.value);
const equal = (left: Variant, right: Variant): boolean =>
  left === right ||
  (left.type === right.type && 'value' in left && 'value' in right
    ? left.value === right.value
    : 'array' in left &&
      'array' in right &&
      left.array.length === right.array.length &&
      left.array.every((value, index) => value === right.array[index]));
