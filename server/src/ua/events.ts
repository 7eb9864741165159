import {
  AttributeIds,
  ClientMonitoredItem,
  LocalizedText,
  TimestampsToReturn,
  constructEventFilter,
} from 'node-opcua-client';
import type { ClientSession } from 'node-opcua-client';
import { DataType, Variant } from 'node-opcua-variant';
import { begunItem, endOf } from './monitored-item.js';
import type { Limited } from './monitored-item.js';
import { longestText } from './read-value.js';
import { readTogether } from './read-together.js';

export interface HeardEvent {
  readonly message: string;
  readonly severity: number;
  readonly sourceName: string;
  readonly at: string | null;
}

export interface Listening {
  /** By node, whether it is listened to. */
  readonly codes: readonly string[];
  /** By node, whether its EventNotifier has SubscribeToEvents (Part 3 §8.59); null: it could not be read. */
  readonly sendEvents: readonly (boolean | null)[];
  /** Of ConditionRefresh; empty: nothing is listened to. */
  readonly refreshCode: string;
  stop(): Promise<void>;
}

/** A node that has no EventNotifier sends no events (Part 3 §5.5.1). */
const noEvents: ReadonlySet<string> = new Set(['BadAttributeIdInvalid']);

const eventFields = ['EventType', 'Message', 'Severity', 'SourceName', 'Time'];

/** RefreshStartEventType, RefreshEndEventType (Part 9 §5.5.7): they mark a refresh, and are no alarm. */
const refreshMarks: ReadonlySet<string> = new Set(['ns=0;i=2787', 'ns=0;i=2788']);

/**
 * Listens to events of nodes; `heard` is called with the node’s position for every event but those that mark a refresh.
 * All conditions are asked for once more, where the server has that (ConditionRefresh, Part 9 §5.5.7).
 */
export async function listenToEvents(
  session: ClientSession,
  nodeIds: readonly string[],
  heard: (index: number, event: HeardEvent) => void,
  limited: Limited,
): Promise<Listening> {
  const subscription = await limited(
    session.createSubscription2({
      requestedPublishingInterval: 250,
      requestedLifetimeCount: 1000,
      requestedMaxKeepAliveCount: 10,
      maxNotificationsPerPublish: 1000,
      publishingEnabled: true,
      priority: 1,
    }),
  );
  const stop = endOf(subscription);
  const codes = await Promise.all(
    nodeIds.map((nodeId, index) => {
      const item = ClientMonitoredItem.create(
        subscription,
        { nodeId, attributeId: AttributeIds.EventNotifier },
        { samplingInterval: 0, queueSize: 100, discardOldest: true, filter: constructEventFilter(eventFields) },
        TimestampsToReturn.Both,
      );
      item.on('changed', (fields: unknown) => {
        const event = eventIn(fields);
        if (event) heard(index, event);
      });
      return begunItem(item, limited);
    }),
  );
  const notifiers = await readTogether(
    session,
    nodeIds.map((nodeId) => ({ nodeId, attributeId: AttributeIds.EventNotifier })),
    limited,
  );
  const sendEvents = notifiers.map(({ statusCode, value }) =>
    statusCode.isGood() && typeof value.value === 'number'
      ? (value.value & 1) !== 0
      : noEvents.has(statusCode.name)
        ? false
        : null,
  );
  const refreshCode = codes.includes('Good')
    ? await refreshConditions(session, subscription.subscriptionId, limited)
    : '';
  return { codes, sendEvents, refreshCode, stop };
}

async function refreshConditions(session: ClientSession, subscriptionId: number, limited: Limited): Promise<string> {
  const call = session.call({
    objectId: 'i=2782',
    methodId: 'i=3875',
    inputArguments: [new Variant({ dataType: DataType.UInt32, value: subscriptionId })],
  });
  const { statusCode } = await limited(call);
  return statusCode.name;
}

function eventIn(fields: unknown): HeardEvent | null {
  if (!Array.isArray(fields)) return null;
  const [type, message, severity, sourceName, time] = fields.map((field: unknown) =>
    field instanceof Variant ? (field.value as unknown) : null,
  );
  if (refreshMarks.has(String(type))) return null;
  return {
    message: (message instanceof LocalizedText ? (message.text ?? '') : '').slice(0, longestText),
    severity: typeof severity === 'number' ? severity : 0,
    sourceName: typeof sourceName === 'string' ? sourceName.slice(0, longestText) : '',
    at: time instanceof Date ? time.toISOString() : null,
  };
}
