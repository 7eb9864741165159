import { readFile } from 'node:fs/promises';
import {
  AttributeIds,
  BrowseDirection,
  ClientMonitoredItemGroup,
  MessageSecurityMode,
  NodeClass,
  OPCUAClient,
  SecurityPolicy,
  TimestampsToReturn,
  UserTokenType,
} from 'node-opcua-client';
import type { ClientMonitoredItemBase, ClientSession, ClientSubscription, DataValue } from 'node-opcua-client';
import type { OPCUACertificateManager } from 'node-opcua-certificate-manager';
import { AccessLevelFlag } from 'node-opcua-data-model';
import { HistoryReadRequest } from 'node-opcua-types';
import type { HistoryReadResult } from 'node-opcua-types';
import { DataType, Variant } from 'node-opcua-variant';
import { fitsPattern, mayFitBelow } from '@loyal-hinge/core';
import type { SourceSettings } from '../gateway.js';
import { patternsIn } from '../patterns.js';
import { Redial } from '../redial.js';
import { SourceEvents } from './events.js';
import type { HistoryAsked } from './history.js';
import type { GatewaySource, SourceEars, SourceItem, SourceValue } from '../source.js';

type Settings = Extract<SourceSettings, { kind: 'ua' }>;

const together = 100;
const mostItems = 100_000;
const mostDepth = 60;
const mostNotifiers = 100;
/** How servers refuse a user (Part 4 §5.6.3). */
const refusals = /BadUserAccessDenied|BadIdentityToken(Rejected|Invalid)|BadUserSignatureInvalid/;
/** A node may hang below several others; below so many it is looked into. */
const mostVisits = 8;
/** So many values of an item wait at the server from one message to the next: none is lost that comes in between. */
const queueSize = 100;
const mostKeepAlives = 4;

/** How a gateway shows itself to the servers that it reads. */
export interface UaIdentity {
  readonly applicationUri: string;
  readonly certificateFile: string;
  readonly keyFile: string;
  readonly trust: OPCUACertificateManager;
}

interface Standing {
  readonly client: OPCUAClient;
  readonly session: ClientSession;
  readonly subscription: ClientSubscription;
  readonly nodes: ReadonlyMap<string, { readonly nodeId: string; readonly type: string | null }>;
  /** By their paths. */
  readonly notifiers: ReadonlyMap<string, string>;
  lastHeard: number;
}

/** A UA server that is read by a session of its own, and dialled again whenever it is gone. */
export class UaSource implements GatewaySource {
  private standing: Standing | null = null;
  private ears: SourceEars | null = null;
  private isStopping = false;
  private readonly redial = new Redial(() => void this.dial());
  private readonly watchdog: NodeJS.Timeout;

  constructor(
    private readonly settings: Settings,
    private readonly identity: UaIdentity,
    /** Patterns of items that are looked for, or paths. */
    private readonly wanted: readonly string[],
  ) {
    this.watchdog = setInterval(() => this.look(), Math.min(1_000, settings.silenceMs / 3));
    this.watchdog.unref();
  }

  get name(): string {
    return this.settings.name;
  }

  start(ears: SourceEars): void {
    this.ears = ears;
    void this.dial();
  }

  async stop(): Promise<void> {
    this.isStopping = true;
    this.ears = null;
    clearInterval(this.watchdog);
    this.redial.stop();
    const { standing } = this;
    this.standing = null;
    await closed(standing?.client, standing?.session);
  }

  async watch(paths: readonly string[]): Promise<void> {
    const { standing, ears } = this;
    if (!standing || !ears) return;
    const known = paths.flatMap((path) => {
      const node = standing.nodes.get(path);
      return node ? [{ path, ...node }] : [];
    });
    for (let from = 0; from < known.length; from += 500) {
      const part = known.slice(from, from + 500);
      const group = ClientMonitoredItemGroup.create(
        standing.subscription,
        part.map(({ nodeId }) => ({ nodeId, attributeId: AttributeIds.Value })),
        { samplingInterval: this.settings.publishingMs, queueSize, discardOldest: true },
        TimestampsToReturn.Both,
      );
      group.on('changed', (_: ClientMonitoredItemBase, value: DataValue, index: number) => {
        const item = part[index];
        if (!item || this.standing !== standing) return;
        standing.lastHeard = Date.now();
        ears.changed(item.path, valueOf(value));
      });
      await new Promise<void>((resolve, reject) => {
        group.once('initialized', () => resolve());
        group.once('err', (message: string) => reject(new Error(message)));
      });
    }
  }

  async history(path: string, asked: HistoryAsked): Promise<HistoryReadResult | string> {
    const { standing } = this;
    const node = standing?.nodes.get(path);
    if (!standing) return 'BadNoCommunication';
    if (!node) return 'BadNodeIdUnknown';
    const { details, indexRange, dataEncoding, continuationPoint, releases } = asked;
    try {
      const { results } = await standing.session.historyRead(
        new HistoryReadRequest({
          nodesToRead: [
            {
              nodeId: node.nodeId,
              ...(indexRange && !indexRange.isEmpty() ? { indexRange } : {}),
              ...(dataEncoding ? { dataEncoding } : {}),
              ...(continuationPoint ? { continuationPoint } : {}),
            },
          ],
          historyReadDetails: details,
          releaseContinuationPoints: releases,
          timestampsToReturn: TimestampsToReturn.Both,
        }),
      );
      return results?.[0] ?? 'BadUnexpectedError';
    } catch {
      return 'BadNoCommunication';
    }
  }

  async hear(paths: readonly string[]): Promise<ReadonlyMap<string, string>> {
    const { standing, ears } = this;
    if (!standing || !ears) return new Map();
    const events = new SourceEvents(standing.session, standing.subscription, (path, event) => {
      if (this.standing === standing) ears.happened?.(path, event);
    });
    return events.listen(
      paths.flatMap((path) => {
        const nodeId = standing.notifiers.get(path);
        return nodeId === undefined ? [] : [{ path, nodeId }];
      }),
    );
  }

  async write(path: string, value: unknown, type: string | null, raw?: unknown): Promise<string> {
    const { standing } = this;
    const node = standing?.nodes.get(path);
    if (!standing) return 'BadNoCommunication';
    if (!node) return 'BadNodeIdUnknown';
    const dataType = DataType[(type ?? node.type ?? '') as keyof typeof DataType];
    if (dataType === undefined) return 'BadTypeMismatch';
    try {
      const status = await standing.session.write({
        nodeId: node.nodeId,
        attributeId: AttributeIds.Value,
        value: { value: raw instanceof Variant ? raw : new Variant({ dataType, value }) },
      });
      return status.name;
    } catch {
      return 'BadNoCommunication';
    }
  }

  private async dial(): Promise<void> {
    if (this.isStopping) return;
    const { settings, identity } = this;
    const client = OPCUAClient.create({
      applicationName: 'Loyal Hinge gateway',
      applicationUri: identity.applicationUri,
      certificateFile: identity.certificateFile,
      privateKeyFile: identity.keyFile,
      clientCertificateManager: identity.trust,
      securityMode: MessageSecurityMode[settings.mode],
      securityPolicy: SecurityPolicy[settings.policy],
      endpointMustExist: false,
      keepSessionAlive: false,
      requestedSessionTimeout: 30_000,
      transportTimeout: settings.silenceMs,
      connectionStrategy: { maxRetry: 0, initialDelay: 100, maxDelay: 200 },
    });
    let session: ClientSession | undefined;
    try {
      await client.connect(settings.endpointUrl);
      session = await client.createSession(await this.user());
      const subscription = await session.createSubscription2({
        requestedPublishingInterval: settings.publishingMs,
        requestedLifetimeCount: 1_000,
        requestedMaxKeepAliveCount: mostKeepAlives,
        maxNotificationsPerPublish: 0,
        publishingEnabled: true,
        priority: 10,
      });
      const { items, notifiers } = await this.find(session);
      const nodes = new Map(items.map(({ path, nodeId, type }) => [path.join('/'), { nodeId, type }]));
      const standing: Standing = {
        client,
        session,
        subscription,
        nodes,
        notifiers: new Map(notifiers.map(({ path, nodeId }) => [path.join('/'), nodeId])),
        lastHeard: Date.now(),
      };
      this.standing = standing;
      const lost = (says: string) => (): void => this.lost(standing, says);
      client.on('connection_lost', lost('The connection broke.'));
      client.on('close', lost('The connection was closed.'));
      session.on('session_closed', lost('The server ended the session.'));
      subscription.on('terminated', lost('The server ended the subscription.'));
      subscription.on('keepalive', () => (standing.lastHeard = Date.now()));
      await this.ears?.there(items, notifiers);
      this.redial.wasThere();
    } catch (error) {
      const says = faultText(error, settings.endpointUrl);
      if (this.standing?.client === client) return this.lost(this.standing, says);
      await closed(client, session);
      this.again(says);
    }
  }

  private async user() {
    const { user } = this.settings;
    return user
      ? {
          type: UserTokenType.UserName as const,
          userName: user.name,
          password: (await readFile(user.passwordFile, 'utf8')).trimEnd(),
        }
      : { type: UserTokenType.Anonymous as const };
  }

  /** A line that is cut says nothing by itself. */
  private look(): void {
    const { standing } = this;
    const patience = Math.max(
      this.settings.silenceMs,
      3 * mostKeepAlives * (standing?.subscription.publishingInterval ?? 0),
    );
    if (standing && Date.now() - standing.lastHeard > patience) this.lost(standing, 'The server is silent.');
  }

  private lost(standing: Standing, says: string): void {
    if (this.standing !== standing) return;
    this.standing = null;
    void closed(standing.client, standing.session);
    this.again(says);
  }

  private again(says: string): void {
    this.ears?.gone(says);
    this.redial.later(refusals.test(says));
  }

  /** Looks for items level by level, only where something can fit. */
  private async find(session: ClientSession) {
    const patterns = patternsIn(this.wanted);
    const notifiers: { readonly nodeId: string; readonly path: readonly string[] }[] = [];
    const found: { nodeId: string; path: readonly string[] }[] = [];
    const sending = patternsIn(this.settings.events);
    const visits = new Map<string, number>();
    let open: Visited[] = [{ nodeId: 'i=85', path: [], above: null }];
    while (open.length > 0 && found.length < mostItems) {
      const parents = open.slice(0, together);
      open = open.slice(together);
      const levels = await browsed(
        session,
        parents.map(({ nodeId }) => nodeId),
      );
      levels.forEach((children, index) => {
        const parent = parents[index];
        const names = new Set<string>();
        for (const { nodeId, name, isVariable } of children) {
          // The same node may be led to by several references of one parent, such as a component that is an event source, too.
          if (!parent || names.has(`${nodeId} ${name}`) || isAbove(nodeId, parent)) continue;
          names.add(`${nodeId} ${name}`);
          const path = [...parent.path, name];
          if (!isVariable && notifiers.length < mostNotifiers && sending.some((pattern) => fitsPattern(pattern, path)))
            notifiers.push({ nodeId, path });
          if (isVariable && patterns.some((pattern) => fitsPattern(pattern, path))) found.push({ nodeId, path });
          const times = visits.get(nodeId) ?? 0;
          if (times >= mostVisits || path.length >= mostDepth) continue;
          if (![...patterns, ...sending].some((pattern) => mayFitBelow(pattern, path))) continue;
          visits.set(nodeId, times + 1);
          open.push({ nodeId, path, above: parent });
        }
      });
    }
    return { items: await described(session, found), notifiers };
  }
}

/** Why a server could not be had, in a sentence; status codes stay as they are. */
function faultText(error: unknown, endpointUrl: string): string {
  const [first = ''] = (error instanceof Error ? error.message : String(error)).trim().split('\n');
  if (first.includes('ECONNREFUSED')) return `Nobody listens at ${endpointUrl}.`;
  if (/premature disconnection|fail to connect|timeout|ETIMEDOUT|EHOSTUNREACH|ENOTFOUND/i.test(first))
    return `No server answers at ${endpointUrl}.`;
  return first.trim().slice(0, 300);
}

/** A node on the way down, with the way to it. */
interface Visited {
  readonly nodeId: string;
  readonly path: readonly string[];
  readonly above: Visited | null;
}

/** Whether a way down would go in a circle. */
function isAbove(nodeId: string, from: Visited): boolean {
  for (let at: Visited | null = from; at; at = at.above) if (at.nodeId === nodeId) return true;
  return false;
}

async function browsed(session: ClientSession, nodeIds: readonly string[]) {
  const read = (
    references: readonly {
      nodeId: { toString(): string };
      browseName: { name?: string | null };
      nodeClass: NodeClass;
    }[],
  ) =>
    references.map(({ nodeId, browseName, nodeClass }) => ({
      nodeId: nodeId.toString(),
      name: browseName.name ?? '',
      isVariable: nodeClass === NodeClass.Variable,
    }));
  const results = await session.browse(
    nodeIds.map((nodeId) => ({
      nodeId,
      referenceTypeId: 'HierarchicalReferences',
      includeSubtypes: true,
      browseDirection: BrowseDirection.Forward,
      nodeClassMask: 0,
      resultMask: 63,
    })),
  );
  return Promise.all(
    results.map(async (result) => {
      const all = [...read(result.references ?? [])];
      let point = result.continuationPoint;
      while (point) {
        const more = await session.browseNext(point, false);
        all.push(...read(more.references ?? []));
        point = more.continuationPoint;
      }
      return all;
    }),
  );
}

async function described(session: ClientSession, found: readonly { nodeId: string; path: readonly string[] }[]) {
  const all: (SourceItem & { nodeId: string })[] = [];
  for (let from = 0; from < found.length; from += together) {
    const part = found.slice(from, from + together);
    const values = await session.read(
      part.flatMap(({ nodeId }) => [
        { nodeId, attributeId: AttributeIds.DataType },
        { nodeId, attributeId: AttributeIds.ValueRank },
        { nodeId, attributeId: AttributeIds.UserAccessLevel },
      ]),
    );
    part.forEach((item, index) => {
      const [type, rank, level] = [0, 1, 2].map((which) => values[3 * index + which]?.value.value as unknown);
      all.push({
        ...item,
        type: builtIn(type),
        valueRank: typeof rank === 'number' ? rank : -1,
        hasHistory: typeof level === 'number' && (level & AccessLevelFlag.HistoryRead) !== 0,
      });
    });
  }
  return all;
}

/** The name of a built-in type by its node id (Part 6 §5.1.2); null: it is another one. */
function builtIn(nodeId: unknown): string | null {
  if (typeof nodeId !== 'object' || nodeId === null || !('namespace' in nodeId) || !('value' in nodeId)) return null;
  const { namespace, value } = nodeId as { namespace: number; value: unknown };
  return namespace === 0 && typeof value === 'number' && value > 0 && value <= 25 ? (DataType[value] ?? null) : null;
}

const valueOf = ({ value, statusCode, sourceTimestamp }: DataValue): SourceValue => ({
  value: value.value as unknown,
  type: value.dataType === DataType.Null ? null : (DataType[value.dataType] ?? null),
  status: statusCode.value,
  sourceTime: sourceTimestamp?.getTime() ?? null,
  raw: value,
});

/** Closes what is open; never throws, and waits for nobody. */
async function closed(client: OPCUAClient | undefined, session: ClientSession | undefined): Promise<void> {
  const late = new Promise<void>((resolve) => setTimeout(resolve, 2_000).unref());
  const closing = async (): Promise<void> => {
    await session?.close(true).catch(() => undefined);
    await client?.disconnect().catch(() => undefined);
  };
  await Promise.race([closing(), late]);
}
