import { AttributeIds, BrowseDirection, NodeClass } from 'node-opcua-client';
import type { ClientSession, DataValue, ReadValueIdOptions } from 'node-opcua-client';
import { browseAll } from 'node-opcua-pseudo-session';
import { EUInformation } from 'node-opcua-types';
import type { ReferenceDescription } from 'node-opcua-types';
import type { Variant } from 'node-opcua-variant';
import { accessLevelBits, accessRestrictionBits, bitNames, permissionBits } from '@loyal-hinge/core';
import type { NodeAttributes, ServerSessions } from '@loyal-hinge/core';
import { AccessManagement } from './access-management.js';
import { listenToAuditEvents } from './audit-events.js';
import type { AuditListening, HeardAuditEvent } from './audit-events.js';
import { listenToEvents } from './events.js';
import type { HeardEvent, Listening } from './events.js';
import { readHistory } from './history.js';
import type { ReadHistory } from './history.js';
import { operationLimit } from './in-requests.js';
import { PushManagement } from './push-management.js';
import { readTogether } from './read-together.js';
import { readValue } from './read-value.js';
import type { ReadValue } from './read-value.js';
import { readToWrite, writeVariant } from './write-value.js';
import type { NodeToWrite } from './write-value.js';
import { describeNode } from './describe-node.js';
import type { DescribedNode } from './describe-node.js';
import { readRedundancy } from './redundancy.js';
import type { ReadRedundancy } from './redundancy.js';
import { readServerSessions } from './server-sessions.js';
import { writeSame } from './write-same.js';
import type { WrittenSame } from './write-same.js';
import { UaSubscription } from './subscription.js';
import type { SubscriptionHearer } from './subscription.js';
import { within } from './within.js';

/** A node as it shows while browsing. */
export interface BrowsedNode {
  readonly nodeId: string;
  readonly browseName: string;
  readonly displayName: string;
  readonly nodeClass: 'Object' | 'Variable' | 'Method' | 'other';
}

export interface ReadItem extends ReadValue {
  readonly accessLevel: readonly string[];
  readonly userAccessLevel: readonly string[];
}

export interface ReadRights {
  readonly userAccessLevel: readonly string[] | null;
  readonly userPermissions: readonly string[] | null;
  readonly accessRestrictions: readonly string[] | null;
  /** Which attribute could not be read, and with what code. */
  readonly unread: readonly string[];
}

/** How many nodes one request may have; 0: the server does not say. */
export interface OperationLimits {
  readonly nodesPerRead: number;
  readonly nodesPerBrowse: number;
}

export interface Watching {
  readonly code: string;
  readonly revisedSamplingIntervalMs: number;
  readonly revisedPublishingIntervalMs: number;
  stop(): Promise<void>;
}

export const objectsFolder = 'i=85';

/** An active session, with the calls that the product makes over it. */
export class UaSession {
  constructor(
    private readonly session: ClientSession,
    private readonly timeoutMs: number,
    private readonly signal: AbortSignal,
    /** Resolves when the session or its connection is gone. */
    readonly ended: Promise<void>,
  ) {}

  get revisedSessionTimeoutMs(): number {
    return this.session.timeout;
  }

  /** Children of a node by hierarchical references, folders first, then by name. */
  async browse(nodeId: string): Promise<readonly BrowsedNode[]> {
    const answer = await this.limited(browseAll(this.session, childrenOf(nodeId)));
    if (answer.statusCode.isNotGood()) throw new Error(answer.statusCode.name);
    const nodes = childrenIn(answer.references);
    const unique = [...new Map(nodes.map((node) => [node.nodeId, node])).values()];
    return unique.sort((left, right) => rank(left) - rank(right) || left.displayName.localeCompare(right.displayName));
  }

  /** How much the server takes at once (ServerCapabilities.OperationLimits, Part 5 §6.3.11); 0 where it does not say. */
  async operationLimits(): Promise<OperationLimits> {
    const [read, browse] = await this.limited(
      this.session.read([
        { nodeId: operationLimit.nodesPerRead, attributeId: AttributeIds.Value },
        { nodeId: 'i=11710', attributeId: AttributeIds.Value },
      ]),
    );
    const limitIn = (value: DataValue | undefined): number => {
      const limit: unknown = value?.value?.value;
      return typeof limit === 'number' && limit > 0 ? limit : 0;
    };
    return { nodesPerRead: limitIn(read), nodesPerBrowse: limitIn(browse) };
  }

  /**
   * Children of several nodes in one request, page by page where there are many; in the order of the nodes. A node that
   * can’t be browsed has the code instead.
   */
  async browseTogether(nodeIds: readonly string[]): Promise<readonly (readonly BrowsedNode[] | { code: string })[]> {
    const results = await this.limited(browseAll(this.session, nodeIds.map(childrenOf)));
    return results.map(({ statusCode, references }) =>
      statusCode.isNotGood() ? { code: statusCode.name } : childrenIn(references),
    );
  }

  /** What the attributes of nodes say about this session’s user, in one request: several reads a node. null: the node is not there any more. */
  async attributesOf(
    nodes: readonly Pick<BrowsedNode, 'nodeId' | 'nodeClass'>[],
  ): Promise<readonly (NodeAttributes | null)[]> {
    const wished = nodes.map(({ nodeId, nodeClass }) =>
      attributesOfClass[nodeClass].map((attributeId) => ({ nodeId, attributeId })),
    );
    const values = await this.readAll(wished.flat());
    let at = 0;
    return nodes.map(({ nodeClass }, index) => {
      const ids = wished[index] ?? [];
      const read = new Map(ids.map(({ attributeId }, place) => [attributeId, values[at + place]]));
      at += ids.length;
      const isGone =
        read.size > 0 && [...read.values()].every((value) => value?.statusCode.name === 'BadNodeIdUnknown');
      return isGone ? null : nodeAttributes(nodeClass, read);
    });
  }

  /** Reads values with both timestamps and both access levels. */
  async read(nodeIds: readonly string[]): Promise<readonly ReadItem[]> {
    const attributes = [AttributeIds.Value, AttributeIds.AccessLevel, AttributeIds.UserAccessLevel];
    const values = await this.readAll(
      nodeIds.flatMap((nodeId) => attributes.map((attributeId) => ({ nodeId, attributeId }))),
    );
    return nodeIds.map((_, index) => {
      const [value, access, userAccess] = values.slice(index * 3, index * 3 + 3);
      return { ...readValue(value), accessLevel: accessWords(access), userAccessLevel: accessWords(userAccess) };
    });
  }

  /** What the items’ attributes say about this user’s rights; nothing is written. */
  async rights(nodeIds: readonly string[]): Promise<readonly ReadRights[]> {
    const attributes = [
      AttributeIds.UserAccessLevel,
      AttributeIds.UserRolePermissions,
      AttributeIds.AccessRestrictions,
    ];
    const values = await this.readAll(
      nodeIds.flatMap((nodeId) => attributes.map((attributeId) => ({ nodeId, attributeId }))),
    );
    return nodeIds.map((_, index) => rightsFrom(values.slice(index * 3, index * 3 + 3)));
  }

  /** Writes a value back that was read just before (`write-same.ts`). */
  writeSame(nodeId: string): Promise<WrittenSame> {
    return writeSame(this.session, nodeId, (call) => this.limited(call));
  }

  /** A node with all that a value to be written is held to. */
  async readToWrite(nodeId: string): Promise<NodeToWrite> {
    const properties = new Map((await this.browse(nodeId)).map(({ browseName, nodeId: id }) => [browseName, id]));
    return readToWrite(this.session, nodeId, properties, (call) => this.limited(call));
  }

  /** Writes a value alone. @returns the code that the server answered */
  write(nodeId: string, value: Variant): Promise<string> {
    return writeVariant(this.session, nodeId, value, (call) => this.limited(call));
  }

  /** Attributes and references of a node (`describe-node.ts`). */
  describe(nodeId: string): Promise<DescribedNode> {
    return describeNode(this.session, nodeId, (call) => this.limited(call));
  }

  /** Values of the last while (`history.ts`). */
  history(nodeId: string, from: Date, to: Date, most: number): Promise<ReadHistory> {
    return readHistory(this.session, { nodeId, from, to, most }, (call) => this.limited(call));
  }

  /** Listens to events of nodes (`events.ts`). */
  listen(nodeIds: readonly string[], heard: (index: number, event: HeardEvent) => void): Promise<Listening> {
    return listenToEvents(this.session, nodeIds, heard, (call) => this.limited(call));
  }

  /** The engineering unit of an analog item (Part 8 §5.3.2), or nothing where it has none. */
  async unitOf(nodeId: string): Promise<string> {
    const property = (await this.browse(nodeId)).find((child) => child.browseName === 'EngineeringUnits');
    if (!property) return '';
    const read = await this.limited(this.session.read({ nodeId: property.nodeId, attributeId: AttributeIds.Value }));
    const unit: unknown = read.value.value;
    return unit instanceof EUInformation ? (unit.displayName.text ?? '') : '';
  }

  /** The server's clock: Server_ServerStatus_CurrentTime. */
  async serverTime(): Promise<string | null> {
    const value = await this.limited(this.session.read({ nodeId: 'i=2258', attributeId: AttributeIds.Value }));
    return value.value.value instanceof Date ? value.value.value.toISOString() : null;
  }

  /** A subscription whose items come and go. */
  subscribe(publishingIntervalMs: number, hearer: SubscriptionHearer): Promise<UaSubscription> {
    return UaSubscription.begin(this.session, publishingIntervalMs, (call) => this.limited(call), hearer);
  }

  /** Subscribes to items; `heard` is called with the item's position for every notification, `alive` for every keep-alive. */
  async watch(
    nodeIds: readonly string[],
    samplingIntervalMs: number,
    publishingIntervalMs: number,
    heard: (index: number, value: ReadValue) => void,
    alive: () => void = () => undefined,
  ): Promise<readonly Watching[]> {
    const subscription = await this.subscribe(publishingIntervalMs, { changed: heard, alive });
    const items = await subscription.add(
      nodeIds.map((nodeId, key) => ({ key, nodeId })),
      samplingIntervalMs,
    );
    return items.map((item) => ({ ...item, stop: subscription.end }));
  }

  /** The server’s configuration, for an administrator on an encrypted channel. */
  pushManagement(): PushManagement {
    return new PushManagement(this.session, this.timeoutMs, this.signal);
  }

  /** The server’s roles and users, for an administrator on an encrypted channel; a user’s own password for everybody. */
  accessManagement(): AccessManagement {
    return new AccessManagement(this.session, this.timeoutMs, this.signal);
  }

  /** Who is connected to the server, as far as it tells (`server-sessions.ts`). */
  serverSessions(): Promise<ServerSessions> {
    return readServerSessions(this.session, (call) => this.limited(call));
  }

  /** How others stand in for the server, as it tells; null: it doesn’t. */
  redundancy(): Promise<ReadRedundancy | null> {
    return readRedundancy(this.session, (call) => this.limited(call));
  }

  /** Audit events of the server, as far as this user may hear them (`audit-events.ts`). */
  listenToAudit(heard: (event: HeardAuditEvent) => void): Promise<AuditListening> {
    return listenToAuditEvents(this.session, heard, (call) => this.limited(call));
  }

  /** CloseSession, with its subscriptions; never throws. */
  async close(): Promise<void> {
    await within(2000, new AbortController().signal, this.session.close(true)).catch(() => undefined);
  }

  private readAll(wished: readonly ReadValueIdOptions[]): Promise<DataValue[]> {
    return readTogether(this.session, wished, (call) => this.limited(call));
  }

  private limited<Value>(call: Promise<Value>): Promise<Value> {
    return within(this.timeoutMs, this.signal, call);
  }
}

/** Asks for the children of a node, by hierarchical references of every kind. */
const childrenOf = (nodeId: string) => ({
  nodeId,
  browseDirection: BrowseDirection.Forward,
  referenceTypeId: 'HierarchicalReferences',
  includeSubtypes: true,
  nodeClassMask: 0,
  resultMask: 63,
});

/** HasEventSource, HasNotifier: by these events travel, past the folders in which their sources stand (Part 3 §7.15, §7.16). */
const waysOfEvents: ReadonlySet<string> = new Set(['ns=0;i=36', 'ns=0;i=48']);

const childrenIn = (references: readonly ReferenceDescription[] | null): readonly BrowsedNode[] =>
  (references ?? []).filter(({ referenceTypeId }) => !waysOfEvents.has(referenceTypeId.toString())).map(browsedNode);

const browsedNode = (reference: ReferenceDescription): BrowsedNode => ({
  nodeId: reference.nodeId.toString(),
  browseName: reference.browseName.name ?? '',
  displayName: reference.displayName.text ?? reference.browseName.name ?? '',
  nodeClass: nodeClassOf(reference.nodeClass),
});

const forAll = [AttributeIds.UserRolePermissions, AttributeIds.AccessRestrictions, AttributeIds.UserWriteMask];

/** The attributes that rights hang on, by the class of the node. */
const attributesOfClass: Readonly<Record<BrowsedNode['nodeClass'], readonly AttributeIds[]>> = {
  Variable: [AttributeIds.AccessLevel, AttributeIds.UserAccessLevel, ...forAll],
  Method: [AttributeIds.UserExecutable, ...forAll],
  Object: forAll,
  other: forAll,
};
/** The most reads that one node takes. */
export const readsPerNode = 5;

function nodeAttributes(
  nodeClass: BrowsedNode['nodeClass'],
  read: ReadonlyMap<AttributeIds, DataValue | undefined>,
): NodeAttributes {
  const valueOf = (id: AttributeIds): unknown => {
    const value = read.get(id);
    return value?.statusCode.isGood() === true ? value.value?.value : null;
  };
  const numberOf = (id: AttributeIds): number | null => {
    const value = valueOf(id);
    return typeof value === 'number' ? value : null;
  };
  const executable = valueOf(AttributeIds.UserExecutable);
  return {
    nodeClass,
    accessLevel: numberOf(AttributeIds.AccessLevel),
    userAccessLevel: numberOf(AttributeIds.UserAccessLevel),
    userPermissions: allPermissions(valueOf(AttributeIds.UserRolePermissions)),
    accessRestrictions: numberOf(AttributeIds.AccessRestrictions),
    userWriteMask: numberOf(AttributeIds.UserWriteMask),
    userExecutable: typeof executable === 'boolean' ? executable : null,
  };
}

/** The permissions of all roles together; null where the server tells none. */
const allPermissions = (granted: unknown): number | null =>
  Array.isArray(granted)
    ? granted.reduce(
        (bits: number, entry: { readonly permissions?: unknown }) => (bits | Number(entry.permissions ?? 0)) >>> 0,
        0,
      )
    : null;

const nodeClassOf = (nodeClass: NodeClass): BrowsedNode['nodeClass'] =>
  nodeClass === NodeClass.Object
    ? 'Object'
    : nodeClass === NodeClass.Variable
      ? 'Variable'
      : nodeClass === NodeClass.Method
        ? 'Method'
        : 'other';

const rank = (node: BrowsedNode): number => (node.nodeClass === 'Object' ? 0 : 1);

/** UserAccessLevel, UserRolePermissions and AccessRestrictions as one; a server need not have the last two. */
function rightsFrom([userAccess, roles, restrictions]: readonly (DataValue | undefined)[]): ReadRights {
  const isRead = (read: DataValue | undefined): boolean =>
    read?.statusCode.isGood() === true && read.value?.value !== null;
  const unread = (
    [
      ['UserAccessLevel', userAccess],
      ['UserRolePermissions', roles],
      ['AccessRestrictions', restrictions],
    ] as const
  ).flatMap(([name, read]) => (isRead(read) ? [] : [`${name}: ${read?.statusCode.name ?? 'no answer'}`]));
  const granted: unknown = isRead(roles) ? roles?.value.value : null;
  const restricted: unknown = isRead(restrictions) ? restrictions?.value.value : null;
  const permissions = allPermissions(granted);
  return {
    userAccessLevel: isRead(userAccess) ? accessWords(userAccess) : null,
    userPermissions: permissions === null ? null : bitNames(permissions, permissionBits),
    accessRestrictions: typeof restricted === 'number' ? bitNames(restricted, accessRestrictionBits) : null,
    unread,
  };
}

function accessWords(read: DataValue | undefined): readonly string[] {
  const bits: unknown = read?.value?.value;
  return typeof bits === 'number' ? bitNames(bits, accessLevelBits) : [];
}
