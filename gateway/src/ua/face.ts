import { makeRoles, WellKnownRoles } from 'node-opcua-address-space';
import type { Namespace, UAObject, UAVariable } from 'node-opcua-address-space';
import { makePermissionFlag } from 'node-opcua-data-model';
import { DataValue } from 'node-opcua-data-value';
import { MessageSecurityMode, SecurityPolicy } from 'node-opcua-secure-channel';
import { OPCUAServer } from 'node-opcua-server';
import { coerceStatusCode, getStatusCodeFromCode, StatusCodes } from 'node-opcua-status-code';
import { ApplicationType } from 'node-opcua-types';
import { DataType, Variant, VariantArrayType } from 'node-opcua-variant';
import type { GatewayConfiguration } from '@loyal-hinge/contract/line';
import type { Place } from '@loyal-hinge/core';
import { isPassword } from '@loyal-hinge/outpost';
import type { FaceWrite } from '../gateway.js';
import type { SourceItem, SourceValue } from '../source.js';
import type { UaEvent } from './events.js';
import { HistoryPoints, historyOf } from './history.js';
import type { FaceHistory } from './history.js';
import { ShownEvents } from './shown-events.js';
import type { UaIdentity } from './source.js';

type Settings = Extract<GatewayConfiguration['faces'][number], { kind: 'ua' }>;

const reads = makePermissionFlag('Browse | Read | ReadHistory | ReceiveEvents | ReadRolePermissions');
const writes = makePermissionFlag('Browse | Read | ReadHistory | ReceiveEvents | ReadRolePermissions | Write');

interface Shown {
  readonly variable: UAVariable;
  now: DataValue;
}

/** What readers ask of a face, and its gateway answers. */
export interface FaceAsks {
  readonly write: FaceWrite;
  readonly history: FaceHistory;
}

/** A UA server that shows what a gateway has, in the gateway’s own name space. */
export class UaFace {
  private readonly shown = new Map<string, Shown>();
  private readonly folders = new Map<string, UAObject>();
  private readonly historyPoints = new HistoryPoints();

  private constructor(
    private readonly server: OPCUAServer,
    private readonly namespace: Namespace,
    private readonly allowsAnonymous: boolean,
    private readonly users: Map<string, Settings['users'][number]>,
    private readonly asks: FaceAsks,
    private readonly events: ShownEvents,
  ) {}

  static async start(settings: Settings, name: string, identity: UaIdentity, asks: FaceAsks): Promise<UaFace> {
    const users = new Map(settings.users.map((user) => [user.name, user]));
    const server = new OPCUAServer({
      host: settings.address,
      port: settings.port,
      hostname: settings.address,
      certificateFile: identity.certificateFile,
      privateKeyFile: identity.keyFile,
      serverCertificateManager: identity.trust,
      userCertificateManager: identity.trust,
      securityPolicies: settings.policies.map((policy) => SecurityPolicy[policy]),
      securityModes: settings.modes.map((mode) => MessageSecurityMode[mode]),
      allowAnonymous: settings.allowsAnonymous,
      userManager: {
        isValidUser: (user: string, password: string) => isPassword(users.get(user)?.password, password),
        getUserRoles: (user: string) =>
          makeRoles([
            WellKnownRoles.AuthenticatedUser,
            ...(users.get(user)?.mayWrite === true ? [WellKnownRoles.Operator] : []),
          ]),
      },
      serverInfo: {
        applicationUri: identity.applicationUri,
        productUri: 'urn:loyal-hinge:gateway',
        applicationName: { text: name },
        applicationType: ApplicationType.Server,
      },
      maxConnectionsPerEndpoint: 100,
      serverCapabilities: { maxSessions: 100 },
    });
    await server.initialize();
    const { addressSpace } = server.engine;
    if (!addressSpace) throw new Error('the face has no address space');
    // Readers may ask for all conditions that stand (Part 9 §5.5.7).
    addressSpace.installAlarmsAndConditionsService();
    const face = new UaFace(
      server,
      addressSpace.getOwnNamespace(),
      settings.allowsAnonymous,
      users,
      asks,
      new ShownEvents(addressSpace),
    );
    await server.start();
    return face;
  }

  /** Lets others in from now on; who is in stays so until the session ends. */
  letIn(users: Settings['users']): void {
    this.users.clear();
    for (const user of users) this.users.set(user.name, user);
  }

  get port(): number {
    return this.server.endpoints[0]?.port ?? 0;
  }

  /** Shows an item from now on; one that is shown already stays as it is. */
  add(key: string, { domain, path, isWritable }: Place, { type, valueRank, hasHistory }: SourceItem): void {
    if (this.shown.has(key)) return;
    const parts = path.split('/');
    const parent = this.folderFor([domain, ...parts.slice(0, -1)]);
    const levels = [
      'CurrentRead',
      ...(isWritable ? ['CurrentWrite'] : []),
      ...(hasHistory ? ['HistoryRead'] : []),
    ].join(' | ');
    const waiting = new DataValue({ statusCode: StatusCodes.BadWaitingForInitialData });
    const shown: Shown = {
      variable: this.namespace.addVariable({
        componentOf: parent,
        browseName: parts.at(-1) ?? path,
        nodeId: `s=${domain}/${path}`,
        dataType: type ?? 'BaseDataType',
        valueRank,
        minimumSamplingInterval: 0,
        accessLevel: levels,
        userAccessLevel: levels,
        historizing: hasHistory === true,
        rolePermissions: this.permissions(isWritable),
      }),
      now: waiting,
    };
    shown.variable.bindVariable(
      {
        timestamped_get: () => shown.now,
        ...(hasHistory ? { historyRead: historyOf(shown.variable, key, this.historyPoints, this.asks.history) } : {}),
        ...(isWritable
          ? {
              timestamped_set: (
                given: DataValue,
                done: (error: Error | null, status?: typeof StatusCodes.Good) => void,
              ) => {
                const { value } = given;
                void this.asks.write(key, value.value as unknown, DataType[value.dataType] ?? '', value).then(
                  (code) =>
                    done(
                      null,
                      (StatusCodes as unknown as Record<string, typeof StatusCodes.Good>)[code] ?? StatusCodes.Bad,
                    ),
                  () => done(null, StatusCodes.BadInternalError),
                );
              },
            }
          : {}),
      },
      true,
    );
    this.shown.set(key, shown);
  }

  /** Shows another value, whole: with its status and its time. */
  show(key: string, { raw, value, type, status, sourceTime }: SourceValue): void {
    const shown = this.shown.get(key);
    if (!shown) return;
    const variant =
      raw instanceof Variant
        ? raw
        : new Variant({
            dataType: DataType[(type ?? 'Null') as keyof typeof DataType] ?? DataType.Null,
            ...(Array.isArray(value) ? { arrayType: VariantArrayType.Array } : {}),
            value,
          });
    shown.now = new DataValue({
      value: variant,
      statusCode: getStatusCodeFromCode(status) ?? coerceStatusCode(status),
      sourceTimestamp: sourceTime === null ? null : new Date(sourceTime),
      serverTimestamp: new Date(),
    });
    // Whoever is told of changes gets the very value, status and time that a reader gets.
    shown.variable.emit('value_changed', shown.now);
  }

  /** Shows an item no longer; whoever watches it is told that it is gone. */
  remove(key: string): void {
    const shown = this.shown.get(key);
    if (!shown) return;
    this.shown.delete(key);
    shown.variable.emit('value_changed', new DataValue({ statusCode: StatusCodes.BadNodeIdUnknown }));
    this.namespace.deleteNode(shown.variable);
  }

  addNotifier(key: string, { domain, path }: Place): void {
    this.events.add(key, this.folderFor([domain, ...path.split('/')]));
  }
  removeNotifier(key: string): void {
    this.events.remove(key);
  }
  happened(key: string, event: UaEvent): void {
    this.events.tell(key, event);
  }

  async stop(): Promise<void> {
    await this.server.shutdown(0);
  }

  private permissions(isWritable: boolean) {
    const roleOf = (role: WellKnownRoles) => makeRoles([role])[0];
    const of = (role: WellKnownRoles, permissions: number) => {
      const roleId = roleOf(role);
      return roleId ? [{ roleId, permissions }] : [];
    };
    return [
      ...(this.allowsAnonymous ? of(WellKnownRoles.Anonymous, reads) : []),
      ...of(WellKnownRoles.AuthenticatedUser, reads),
      ...of(WellKnownRoles.Operator, isWritable ? writes : reads),
    ];
  }

  private folderFor(parts: readonly string[]): UAObject {
    const key = parts.join('/');
    const known = this.folders.get(key);
    if (known) return known;
    const above =
      parts.length === 1 ? this.server.engine.addressSpace?.rootFolder.objects : this.folderFor(parts.slice(0, -1));
    if (!above) throw new Error('the face has no folder for its items');
    const made = this.namespace.addFolder(above, { browseName: parts.at(-1) ?? key, nodeId: `s=folder:${key}` });
    this.folders.set(key, made);
    return made;
  }
}
