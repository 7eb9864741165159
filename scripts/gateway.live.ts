import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { OPCUACertificateManager } from 'node-opcua-certificate-manager';
import {
  AttributeIds,
  ClientMonitoredItem,
  DataType,
  HistoryReadRequest,
  MessageSecurityMode,
  OPCUAClient,
  ReadRawModifiedDetails,
  SecurityPolicy,
  TimestampsToReturn,
  UserTokenType,
  Variant,
  constructEventFilter,
} from 'node-opcua-client';
import type { ClientSession, DataValue } from 'node-opcua-client';
import { readConfiguration, startGateway } from '@loyal-hinge/gateway';
import type { RunningGateway } from '@loyal-hinge/gateway';
import { gatewayStatus } from '@loyal-hinge/core';
import { passwordLine } from '@loyal-hinge/outpost';
import { inPlant, plantGiven } from '../server/src/testing/given.js';
import { Relay } from '../server/src/testing/relay.js';
import { until } from '../server/src/testing/until.js';

const given = plantGiven();
const folder = mkdtempSync(join(tmpdir(), 'hinge-gateway-'));
const wire = new Relay(inPlant('99.1'), 4840, inPlant('20.11'));
const identityOf = (id: string) => {
  const found = given.clients.find(({ applicationId }) => applicationId === id);
  if (!found) throw new Error(`no client ${id}`);
  return found;
};
const passwordFor = (linkId: string): string => given.passwords.find((each) => each.linkId === linkId)?.password ?? '';
function userOf(linkId: string): string {
  const identity = given.plant.links.find(({ id }) => id === linkId)?.identity;
  return identity?.kind === 'user' ? identity.userName : '';
}
const reader = 'reader of faces';
const operator = 'operator at faces';
const lines = { reader: '', operator: '' };
let running: RunningGateway;
const said: string[] = [];
const clients: OPCUAClient[] = [];

function file(name: string, text: string): string {
  writeFileSync(join(folder, name), text, { mode: 0o600 });
  return name;
}

function configured(differs: object = {}): string {
  const own = identityOf('line-display-client');
  return JSON.stringify({
    name: 'hot-end-gateway',
    certificateFile: file('own.pem', own.certificatePem),
    keyFile: file('own.key', own.privateKeyPem),
    trustedFiles: [
      ...own.trustedPem.map((pem, index) => file(`trusted-${index}.pem`, pem)),
      file('authority.pem', given.authority.certificatePem),
      file('reader.pem', identityOf('energy-client').certificatePem),
    ],
    crlFiles: [
      file('authority.crl', given.authority.crlPem),
      ...own.crlsPem.map((pem, index) => file(`${index}.crl`, pem)),
    ],
    sources: [
      source('furnace', `opc.tcp://${inPlant('99.1')}:4840`, 'line-display--furnace'),
      { ...source('lehr', `opc.tcp://${inPlant('30.11')}:4840`, 'line-display--lehr'), events: ['Lehr'] },
    ],
    places: [
      { source: 'furnace', items: 'Furnace/**', domain: 'Hot End', withoutFirst: 1 },
      { source: 'lehr', items: 'Lehr/Roller speed wanted', domain: 'Hot End', isWritable: true },
      { source: 'lehr', items: 'Lehr', domain: 'Cold End' },
      { source: 'lehr', items: 'Lehr/**', domain: 'Cold End', withoutFirst: 1 },
    ],
    faces: [
      {
        kind: 'ua',
        address: inPlant('99.2'),
        port: 48_010,
        users: [
          { name: 'reader', password: lines.reader },
          { name: 'operator', password: lines.operator, mayWrite: true },
        ],
      },
    ],
    relays: [],
    ...differs,
  });
}

const source = (name: string, endpointUrl: string, linkId: string) => ({
  kind: 'ua',
  name,
  endpointUrl,
  policy: 'Basic256Sha256',
  mode: 'SignAndEncrypt',
  user: { name: userOf(linkId), passwordFile: file(`${name}.password`, passwordFor(linkId)) },
  publishingMs: 100,
  silenceMs: 2_000,
});

async function start(differs: object = {}): Promise<RunningGateway> {
  const read = readConfiguration(configured(differs));
  if (!read.ok) throw new Error(read.says);
  return startGateway(read.value, folder, (says) => said.push(says));
}

/** A session at the gateway’s face. */
async function at(
  port: number | undefined,
  user: { userName: string; password: string } | null,
): Promise<ClientSession> {
  const identity = identityOf('energy-client');
  const pki = join(folder, 'reader-pki');
  mkdirSync(pki, { recursive: true });
  writeFileSync(join(folder, 'reader.key'), identity.privateKeyPem, { mode: 0o600 });
  const manager = new OPCUACertificateManager({ rootFolder: pki, automaticallyAcceptUnknownCertificate: true });
  await manager.initialize();
  const client = OPCUAClient.create({
    applicationUri: given.plant.applications.find(({ id }) => id === 'energy-client')?.applicationUri ?? '',
    certificateFile: join(folder, 'reader.pem'),
    privateKeyFile: join(folder, 'reader.key'),
    clientCertificateManager: manager,
    securityMode: MessageSecurityMode.SignAndEncrypt,
    securityPolicy: SecurityPolicy.Basic256Sha256,
    endpointMustExist: false,
    connectionStrategy: { maxRetry: 1 },
  });
  clients.push(client);
  await client.connect(`opc.tcp://${inPlant('99.2')}:${port ?? 0}`);
  return client.createSession(user ? { type: UserTokenType.UserName, ...user } : { type: UserTokenType.Anonymous });
}
const subscribed = (by: ClientSession) =>
  by.createSubscription2({
    requestedPublishingInterval: 100,
    requestedLifetimeCount: 1000,
    requestedMaxKeepAliveCount: 10,
    maxNotificationsPerPublish: 0,
    publishingEnabled: true,
    priority: 1,
  });
/** RefreshStartEventType and RefreshEndEventType (Part 9 §5.5.7). */
const [refreshStart, refreshEnd] = ['ns=0;i=2787', 'ns=0;i=2788'] as const;
const nodeOf = (place: string): string => `ns=1;s=${place}`;
const read = (session: ClientSession, place: string): Promise<DataValue> =>
  session.read({ nodeId: nodeOf(place), attributeId: AttributeIds.Value });
const isThere = (name: string) => () =>
  running.gateway.statistics.sources.find((each) => each.name === name)?.state === 'there';

beforeAll(async () => {
  lines.reader = await passwordLine(reader);
  lines.operator = await passwordLine(operator);
  await wire.listen();
  running = await start();
  await until(() => Promise.resolve(isThere('furnace')() && isThere('lehr')()), Boolean);
});
afterAll(async () => {
  await Promise.all(clients.map((client) => client.disconnect().catch(() => undefined)));
  await running.stop();
  await wire.cut();
  rmSync(folder, { recursive: true, force: true });
});

describe('a gateway', () => {
  let session: ClientSession;
  beforeAll(async () => {
    session = await at(running.ports[0], { userName: 'reader', password: reader });
  });

  it('shows what its sources have, in its own name space, with the source’s time', async () => {
    const value = await until(
      () => read(session, 'Hot End/Gas flow'),
      ({ statusCode }) => statusCode.value === 0,
    );
    expect(value.value.dataType).toBe(DataType.Double);
    expect(Date.now() - (value.sourceTimestamp?.getTime() ?? 0)).toBeLessThan(60_000);
    expect((await read(session, 'Cold End/Zone B/Temperature')).value.value).toBeGreaterThan(10);
    // This one is led to by the events of its server as well.
    expect((await read(session, 'Cold End/Zone A/Temperature')).value.value).toBeGreaterThan(10);
    // The first rule that fits decides.
    expect((await read(session, 'Cold End/Roller speed wanted')).statusCode.name).toBe('BadNodeIdUnknown');
  });

  it('lets nobody in without a password that is right', async () => {
    await expect(at(running.ports[0], null)).rejects.toThrow();
    await expect(at(running.ports[0], { userName: 'reader', password: 'another' })).rejects.toThrow();
    await expect(at(running.ports[0], { userName: 'nobody', password: '' })).rejects.toThrow();
  });

  it('writes where a rule and the user’s role allow it, and nowhere else', async () => {
    const wanted = 'Hot End/Lehr/Roller speed wanted';
    const write = (by: ClientSession, place: string, value: number) =>
      by.write({
        nodeId: nodeOf(place),
        attributeId: AttributeIds.Value,
        value: { value: new Variant({ dataType: DataType.Double, value }) },
      });
    await until(
      () => read(session, wanted),
      ({ statusCode }) => statusCode.value === 0,
    );
    expect((await write(session, wanted, 0.3)).name).toBe('BadUserAccessDenied');
    const writer = await at(running.ports[0], { userName: 'operator', password: operator });
    expect((await write(writer, wanted, 0.25)).name).toBe('Good');
    await until(
      () => read(session, wanted),
      ({ value }) => value.value === 0.25,
    );
    expect((await write(writer, 'Hot End/Gas flow', 1)).isNotGood()).toBe(true);
    expect(running.gateway.statistics.writes.done).toBe(1);
  });

  it('passes on what its source keeps of an item’s history, part by part, to whoever asked for it alone', async () => {
    const nodeId = nodeOf('Cold End/Zone A/Temperature');
    const asked = (more: object = {}) =>
      new HistoryReadRequest({
        nodesToRead: [{ nodeId, ...more }],
        historyReadDetails: new ReadRawModifiedDetails({
          startTime: new Date(Date.now() - 3_600_000),
          endTime: new Date(),
          numValuesPerNode: 2,
        }),
        timestampsToReturn: TimestampsToReturn.Both,
      });
    const valuesOf = (history: unknown) => (history as { dataValues?: DataValue[] | null }).dataValues ?? [];
    const readOf = async (by: ClientSession, more: object = {}) => (await by.historyRead(asked(more))).results?.[0];
    const first = await until(
      () => readOf(session),
      (result) => (result?.continuationPoint?.length ?? 0) > 0,
    );
    expect([first?.statusCode.name, valuesOf(first?.historyData).length]).toEqual(['Good', 2]);
    const { continuationPoint } = first ?? {};
    const other = await at(running.ports[0], { userName: 'operator', password: operator });
    expect((await readOf(other, { continuationPoint }))?.statusCode.name).toBe('BadContinuationPointInvalid');
    const second = await readOf(session, { continuationPoint });
    expect(second?.statusCode.name).toBe('Good');
    const times = [first, second].flatMap((part) => valuesOf(part?.historyData).map((each) => each.sourceTimestamp));
    expect(times.map(Number)).toEqual([...times.map(Number)].sort((one, next) => one - next));
    expect((await readOf(session, { continuationPoint }))?.statusCode.name).toBe('BadContinuationPointInvalid');
    const without = await readOf(session, { nodeId: nodeOf('Cold End/Zone B/Temperature') });
    expect(without?.statusCode.isGood()).toBe(false);
  });

  it('passes on events of its source, and tells again what stands when somebody asks', async () => {
    const subscription = await subscribed(session);
    const fields = ['EventType', 'SourceName', 'Message', 'Severity', 'Time', 'ConditionName', 'Retain'];
    type Event = Readonly<Record<string, unknown>>;
    const heardAt = (nodeId: string): Event[] => {
      const heard: Event[] = [];
      const item = ClientMonitoredItem.create(
        subscription,
        { nodeId, attributeId: AttributeIds.EventNotifier },
        { samplingInterval: 0, queueSize: 1000, discardOldest: true, filter: constructEventFilter(fields) },
        TimestampsToReturn.Both,
      );
      item.on('changed', (told: unknown) => {
        heard.push(
          Object.fromEntries((told as Variant[]).map(({ value }, index) => [fields[index] ?? '', value as unknown])),
        );
      });
      return heard;
    };
    const heard = heardAt('ns=1;s=folder:Cold End/Lehr');
    const ofServer = heardAt('i=2253');
    const standing = await until(
      () => Promise.resolve(heard.find(({ Retain }) => Retain === true)),
      (event) => event !== undefined,
    );
    expect(standing).toMatchObject({ SourceName: expect.stringContaining('Temperature') as string });
    expect(standing?.['Time']).toBeInstanceOf(Date);
    const refreshed = await session.call({
      objectId: 'i=2782',
      methodId: 'i=3875',
      inputArguments: [new Variant({ dataType: DataType.UInt32, value: subscription.subscriptionId })],
    });
    expect(refreshed.statusCode.name).toBe('Good');
    const marked = (type: string) => ofServer.findIndex(({ EventType }) => String(EventType) === type);
    await until(
      () => Promise.resolve(marked(refreshEnd)),
      (at) => at >= 0,
    );
    const between = ofServer.slice(marked(refreshStart) + 1, marked(refreshEnd));
    expect(between.map(({ Retain }) => Retain)).toContain(true);
    const counted = running.gateway.statistics.sources.find(({ name }) => name === 'lehr')?.events ?? 0;
    expect(counted).toBeGreaterThan(0);
    await subscription.terminate();
  });

  it('keeps the last values with their old times while a line is cut, and goes on by itself: in order, none older', async () => {
    const subscription = await subscribed(session);
    const heard: DataValue[] = [];
    const item = ClientMonitoredItem.create(
      subscription,
      { nodeId: nodeOf('Hot End/Gas flow'), attributeId: AttributeIds.Value },
      { samplingInterval: 0, queueSize: 1000, discardOldest: true },
      TimestampsToReturn.Both,
    );
    item.on('changed', (value) => heard.push(value));
    const isGood = ({ statusCode }: DataValue) => statusCode.value === 0;
    await until(
      () => Promise.resolve(heard.filter(isGood).length),
      (count) => count >= 3,
    );
    await wire.cut();
    const held = await until(
      () => read(session, 'Hot End/Gas flow'),
      ({ statusCode }) => statusCode.value === gatewayStatus.lastUsable,
    );
    const before = heard.filter(isGood).at(-1);
    expect(held.value.value).toBe(before?.value.value);
    expect(held.sourceTimestamp).toEqual(before?.sourceTimestamp);
    // The other source goes on.
    expect((await read(session, 'Cold End/Zone B/Temperature')).statusCode.value).toBe(0);
    const cutAt = heard.length;
    await wire.listen();
    await until(
      () => Promise.resolve(heard.slice(cutAt).filter(isGood).length),
      (count) => count >= 3,
    );
    const times = heard.map(({ sourceTimestamp }) => sourceTimestamp?.getTime() ?? 0);
    expect(times).toEqual([...times].sort((one, other) => one - other));
    expect(heard.some(({ statusCode }) => statusCode.value === gatewayStatus.lastUsable)).toBe(true);
    const { sources } = running.gateway.statistics;
    expect(sources.find(({ name }) => name === 'furnace')).toMatchObject({ state: 'there', returns: 1, fault: null });
    await subscription.terminate();
  });

  it('stays up while a source flaps every second: the other one goes on, no value is older than the last, and it comes back', async () => {
    const subscription = await subscribed(session);
    const heard: { readonly furnace: DataValue[]; readonly lehr: DataValue[] } = { furnace: [], lehr: [] };
    for (const [place, values] of [
      ['Hot End/Gas flow', heard.furnace],
      ['Cold End/Zone B/Temperature', heard.lehr],
    ] as const)
      ClientMonitoredItem.create(
        subscription,
        { nodeId: nodeOf(place), attributeId: AttributeIds.Value },
        { samplingInterval: 0, queueSize: 1000, discardOldest: true },
        TimestampsToReturn.Both,
      ).on('changed', (value) => values.push(value));
    const isGood = ({ statusCode }: DataValue) => statusCode.value === 0;
    const good = (values: readonly DataValue[]) => values.filter(isGood).length;
    await until(
      () => Promise.resolve(Math.min(good(heard.furnace), good(heard.lehr))),
      (count) => count > 0,
    );
    const before = good(heard.lehr);
    for (let turn = 0; turn < 6; turn += 1) {
      await wire.cut();
      await new Promise((next) => setTimeout(next, 1_000));
      await wire.listen();
      await new Promise((next) => setTimeout(next, 1_000));
    }
    const flapped = good(heard.furnace);
    await until(
      () => Promise.resolve(good(heard.furnace)),
      (count) => count > flapped,
    );
    const times = heard.furnace.map(({ sourceTimestamp }) => sourceTimestamp?.getTime() ?? 0);
    expect(times).toEqual([...times].sort((one, other) => one - other));
    expect(good(heard.lehr)).toBeGreaterThan(before);
    expect(heard.lehr.every(isGood)).toBe(true);
    const told = running.gateway.statistics.sources.find(({ name }) => name === 'furnace');
    expect(told).toMatchObject({ state: 'there', fault: null });
    await subscription.terminate();
  });

  it('says what is wrong with its file before anything runs', () => {
    const says = (differs: object) => {
      const made = readConfiguration(configured(differs));
      return made.ok ? '' : made.says;
    };
    const relay = (id: string, from: string, to: string) => ({
      id,
      from: { source: 'furnace', path: from },
      to: { source: 'furnace', path: to },
    });
    expect(says({ relays: [relay('a', 'x', 'x')] })).toContain('writes the item that it reads');
    expect(says({ relays: [relay('a', 'x', 'y'), relay('b', 'y', 'x')] })).toContain('in a circle');
    expect(says({ places: [{ source: 'nowhere', items: '**', domain: 'D' }] })).toContain('no source “nowhere”');
    expect(says({ sources: [] })).toContain('no source “furnace”');
    expect(says({ port: 1 })).toContain('port');
  });
});

describe('a relay of a gateway', () => {
  it('carries a value from server to server, scaled, and writes it again when its target was gone', async () => {
    await running.stop();
    running = await start({
      faces: [],
      relays: [
        {
          id: 'gas-to-speed',
          from: { source: 'furnace', path: 'Furnace/Gas flow' },
          to: { source: 'lehr', path: 'Lehr/Roller speed wanted' },
          scale: { kind: 'ranges', from: [0, 1_000_000], to: [0.1, 0.4], clamps: true },
        },
        {
          id: 'too-large',
          from: { source: 'furnace', path: 'Furnace/Gas flow' },
          to: { source: 'lehr', path: 'Lehr/Roller speed' },
          scale: { kind: 'linear', factor: 0, offset: 1e6 },
          as: 'Byte',
        },
      ],
    });
    const relays = () => Promise.resolve(running.gateway.statistics.relays);
    const told = await until(relays, ([first]) => (first?.written ?? 0) > 2);
    expect(told[0]).toMatchObject({ id: 'gas-to-speed', says: null });
    expect(told[1]?.says).toContain('does not fit into Byte');
    expect(told[1]?.written).toBe(0);
  });
});
