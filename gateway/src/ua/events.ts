import {
  AttributeIds,
  BrowseDirection,
  ClientMonitoredItem,
  TimestampsToReturn,
  constructEventFilter,
} from 'node-opcua-client';
import type { ClientSession, ClientSubscription } from 'node-opcua-client';
import { DataType, Variant } from 'node-opcua-variant';

/** An event as one UA peer tells it another. */
export interface UaEvent {
  /** The nearest type of the standard’s own that its type is or comes from (Part 5 §6.4), such as `ns=0;i=2041`. */
  readonly type: string;
  /** By their paths below the type, such as `ActiveState.Id`. */
  readonly fields: ReadonlyMap<string, Variant>;
}

/** Fields that are passed on, by the type that has them first. EventId, EventType, SourceNode and ReceiveTime are a server’s own. */
export const passedFields = {
  /** BaseEventType. */
  'ns=0;i=2041': ['SourceName', 'Time', 'LocalTime', 'Message', 'Severity'],
  /** ConditionType (Part 9 §5.5.2). */
  'ns=0;i=2782': [
    'ConditionClassId',
    'ConditionClassName',
    'ConditionName',
    'BranchId',
    'Retain',
    'EnabledState',
    'EnabledState.Id',
    'Quality',
    'LastSeverity',
    'Comment',
    'ClientUserId',
  ],
  /** AcknowledgeableConditionType (§5.7.2). */
  'ns=0;i=2881': ['AckedState', 'AckedState.Id', 'ConfirmedState', 'ConfirmedState.Id'],
  /** AlarmConditionType (§5.8.2). */
  'ns=0;i=2915': ['ActiveState', 'ActiveState.Id'],
} as const;

const allFields: readonly string[] = ['EventType', ...Object.values(passedFields).flat()];
/** RefreshStartEventType, RefreshEndEventType (Part 9 §5.5.7): they mark a refresh, and are no event of anybody. */
const refreshMarks: ReadonlySet<string> = new Set(['ns=0;i=2787', 'ns=0;i=2788']);
const baseEventType = 'ns=0;i=2041';
const queueSize = 1_000;
const mostTypes = 10_000;
const mostSteps = 30;

/** Hears the events of a source’s nodes, in their order. */
export class SourceEvents {
  private readonly standardTypes = new Map<string, string>();
  /** Types are looked up at the server: what comes meanwhile waits its turn. */
  private turn: Promise<void> = Promise.resolve();

  constructor(
    private readonly session: ClientSession,
    private readonly subscription: ClientSubscription,
    private readonly heard: (path: string, event: UaEvent) => void,
  ) {}

  /** @returns why a node is not listened to, by its path; empty: all are */
  async listen(
    nodes: readonly { readonly path: string; readonly nodeId: string }[],
  ): Promise<ReadonlyMap<string, string>> {
    const refused = new Map<string, string>();
    for (const { path, nodeId } of nodes) {
      const item = ClientMonitoredItem.create(
        this.subscription,
        { nodeId, attributeId: AttributeIds.EventNotifier },
        { samplingInterval: 0, queueSize, discardOldest: true, filter: constructEventFilter([...allFields]) },
        TimestampsToReturn.Neither,
      );
      item.on('changed', (told: unknown) => {
        if (Array.isArray(told)) this.turn = this.turn.then(() => this.take(path, told)).catch(() => undefined);
      });
      await new Promise<void>((resolve) => {
        item.once('initialized', () => resolve());
        item.once('err', (message: string) => {
          refused.set(path, message);
          resolve();
        });
      });
    }
    if (refused.size < nodes.length) await this.refresh();
    return refused;
  }

  /** What stands at the source now is told once more, where the server has that (Part 9 §5.5.7). */
  private async refresh(): Promise<void> {
    await this.session.call({
      objectId: 'i=2782',
      methodId: 'i=3875',
      inputArguments: [new Variant({ dataType: DataType.UInt32, value: this.subscription.subscriptionId })],
    });
  }

  private async take(path: string, told: readonly unknown[]): Promise<void> {
    const fields = new Map<string, Variant>();
    told.forEach((value, index) => {
      const name = allFields[index];
      if (name !== undefined && value instanceof Variant && value.dataType !== DataType.Null) fields.set(name, value);
    });
    const type = String(fields.get('EventType')?.value ?? baseEventType);
    fields.delete('EventType');
    if (refreshMarks.has(type)) return;
    this.heard(path, { type: await this.standardTypeOf(type), fields });
  }

  /** The type itself where it is one of the standard’s, else the first above it that is. */
  private async standardTypeOf(type: string): Promise<string> {
    const known = this.standardTypes.get(type);
    if (known !== undefined) return known;
    let at: string | null = type;
    for (let step = 0; at !== null && !isStandard(at) && step < mostSteps; step += 1) at = await this.above(at);
    const found = at !== null && isStandard(at) ? at : baseEventType;
    if (this.standardTypes.size < mostTypes) this.standardTypes.set(type, found);
    return found;
  }

  private async above(type: string): Promise<string | null> {
    const { references } = await this.session.browse({
      nodeId: type,
      referenceTypeId: 'HasSubtype',
      includeSubtypes: true,
      browseDirection: BrowseDirection.Inverse,
      nodeClassMask: 0,
      resultMask: 0,
    });
    const [first] = references ?? [];
    return first ? first.nodeId.toString() : null;
  }
}

const isStandard = (type: string): boolean => type.startsWith('ns=0;') || /^[isgb]=/.test(type);
