import type { AddressSpace, UAObject } from 'node-opcua-address-space';
import { NodeId } from 'node-opcua-client';
import { DataType, Variant } from 'node-opcua-variant';
import { passedFields } from './events.js';
import type { UaEvent } from './events.js';

/** Conditions that are told again when a reader asks for all that stand. */
const mostRetained = 1_000;

type Raised = Readonly<Record<string, Variant>>;
interface Notifier {
  readonly folder: UAObject;
  /** By its source, its name and its branch, the last of each condition that stands. */
  readonly retained: Map<string, UaEvent>;
}
/** What the library asks of a notifier when somebody calls ConditionRefresh. */
interface Refreshable {
  _conditionRefresh?: () => void;
}

/** Folders of a face that send the events of a source’s nodes. */
export class ShownEvents {
  private readonly notifiers = new Map<string, Notifier>();

  constructor(private readonly addressSpace: AddressSpace) {}

  /** Several nodes may send from the same folder. */
  add(key: string, folder: UAObject): void {
    if (this.notifiers.has(key)) return;
    const isFirst = this.of(folder).length === 0;
    this.notifiers.set(key, { folder, retained: new Map() });
    if (!isFirst) return;
    folder.setEventNotifier(1);
    this.server.addReference(asNotifier(folder));
    (folder as Refreshable)._conditionRefresh = () => {
      for (const { retained } of this.of(folder)) for (const event of retained.values()) this.raise(folder, event);
    };
  }

  remove(key: string): void {
    const notifier = this.notifiers.get(key);
    if (!notifier) return;
    const { folder } = notifier;
    this.notifiers.delete(key);
    if (this.of(folder).length > 0) return;
    folder.setEventNotifier(0);
    this.server.removeReference(asNotifier(folder));
    delete (folder as Refreshable)._conditionRefresh;
  }

  private of(folder: UAObject): readonly Notifier[] {
    return [...this.notifiers.values()].filter((notifier) => notifier.folder === folder);
  }

  private get server(): UAObject {
    return this.addressSpace.rootFolder.objects.server;
  }

  tell(key: string, event: UaEvent): void {
    const notifier = this.notifiers.get(key);
    if (!notifier) return;
    const { retained, folder } = notifier;
    const condition = ['SourceName', 'ConditionName', 'BranchId'].map((name) => String(event.fields.get(name)?.value));
    retained.delete(condition.join('\n'));
    if (event.fields.get('Retain')?.value === true && retained.size < mostRetained)
      retained.set(condition.join('\n'), event);
    this.raise(folder, event);
  }

  private raise(folder: UAObject, { type, fields }: UaEvent): void {
    const known = this.addressSpace.findEventType(type) ?? this.addressSpace.findEventType('BaseEventType');
    if (!known) return;
    const raised: Record<string, Variant> = {
      sourceNode: new Variant({ dataType: DataType.NodeId, value: folder.nodeId }),
    };
    for (const [holder, names] of Object.entries(passedFields)) {
      const holds = this.addressSpace.findEventType(holder);
      if (!holds || !(known.nodeId.toString() === holder || known.isSubtypeOf(holds))) continue;
      for (const name of names) {
        const value = fields.get(name);
        if (value) raised[asKey(name)] = ofItsOwn(name, value);
      }
    }
    folder.raiseEvent(known, raised satisfies Raised);
  }
}

const asNotifier = ({ nodeId }: UAObject) => ({ referenceType: 'HasNotifier', nodeId });

/** `ActiveState.Id` → `activeState.id` */
const asKey = (name: string): string =>
  name
    .split('.')
    .map((part) => part.charAt(0).toLowerCase() + part.slice(1))
    .join('.');

/** Nodes of the source are none of the face’s: only those of the standard mean the same here. */
function ofItsOwn(name: string, value: Variant): Variant {
  const isNode = name === 'ConditionClassId' || name === 'BranchId';
  if (!isNode || !(value.value instanceof NodeId) || value.value.namespace === 0) return value;
  return new Variant({ dataType: DataType.NodeId, value: name === 'BranchId' ? value.value : NodeId.nullNodeId });
}
